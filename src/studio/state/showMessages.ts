/** What a window that shows the picture alone and the workspace say to each other. */
export type ShowMessage = { readonly is: 'picture'; readonly picture: ImageBitmap } | { readonly is: 'drawn' } | { readonly is: 'bye' };

const HELLO = 'ombrage-show';

/** What such a window says first, with a port of its own. */
export const hello = { is: HELLO } as const;
export const isHello = (data: unknown): boolean => typeof data === 'object' && data !== null && (data as { is?: unknown }).is === HELLO;
