import type { ViewSpec } from './protocol';

/** The finished picture alone. */
export const FINISHED: ViewSpec = { parts: ['picture'], colours: 'grey', hues: null };

/** Lets go of the pictures among what came too late, or is not needed any more: they hold memory until they are closed. */
export function closePictures(message: object): void {
  for (const part of Object.values(message) as unknown[]) if (part && typeof part === 'object' && 'close' in part) (part as ImageBitmap).close();
}
