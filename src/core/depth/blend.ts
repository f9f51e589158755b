/** How a layer meets what lies below: in its place, only where nearer, only where farther, or added to it. */
export const blends = ['replace', 'nearer', 'farther', 'add'] as const;
export type Blend = (typeof blends)[number];
export const BLEND_LABELS: Record<Blend, string> = { replace: 'Replace', nearer: 'Nearer of both', farther: 'Farther of both', add: 'Add' };
