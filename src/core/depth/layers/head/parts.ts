/** Parts of the head that are sized, placed and raised on their own. */
export const headParts = ['socket', 'nose', 'lips', 'brow', 'cheeks', 'jaw', 'ears'] as const;
export type HeadPart = (typeof headParts)[number];

export const PART_LABELS: Record<HeadPart, string> = {
  socket: 'Eyes and sockets',
  nose: 'Nose',
  lips: 'Lips',
  brow: 'Brow',
  cheeks: 'Cheeks',
  jaw: 'Jaw and chin',
  ears: 'Ears',
};

/** How one part differs from the usual head: factors of size and relief, shifts in degrees as seen from the middle of the head. */
export interface PartShape {
  readonly size: number;
  readonly relief: number;
  /** apart from the middle line, or for single parts to the side */
  readonly across: number;
  readonly up: number;
}
export type HeadShape = Readonly<Record<HeadPart, PartShape>>;

export const usualPart: PartShape = { size: 1, relief: 1, across: 0, up: 0 };
export const usualShape = Object.fromEntries(headParts.map((p) => [p, usualPart])) as HeadShape;

/** A smooth swelling or hollow: middle and half widths in degrees, height in head heights. Those with a side come in pairs. */
interface Swelling {
  readonly part: HeadPart;
  readonly across: number;
  readonly up: number;
  readonly wide: number;
  readonly tall: number;
  readonly height: number;
}

const of = (part: HeadPart, rows: readonly (readonly [number, number, number, number, number])[]): Swelling[] =>
  rows.map(([across, up, wide, tall, height]) => ({ part, across, up, wide, tall, height }));

/** Proportions after common artists' and anthropometric means: eyes half way up, nose two thirds down the face, mouth below. */
export const swellings: readonly Swelling[] = [
  ...of('brow', [
    [0, 10, 26, 5, 0.016],
    [15, 9.5, 9, 3.6, 0.012],
  ]),
  ...of('socket', [
    [18.5, 1, 9.5, 6, -0.036], // hollow
    [18.5, 0.5, 6, 3.6, 0.02], // ball
    [18, 3.4, 7, 1.5, 0.007], // upper lid
    [18, -2.6, 7, 1.5, 0.005], // lower lid
  ]),
  ...of('nose', [
    [0, -6, 4.6, 10, 0.04], // bridge
    [0, -19, 6.2, 6, 0.078], // tip
    [6.6, -21.5, 3.8, 3.6, 0.026], // wings
  ]),
  ...of('lips', [
    [0, -33, 9.5, 2.4, 0.026],
    [0, -38.6, 8.5, 2.6, 0.027],
    [0, -35.8, 9.5, 1.1, -0.014], // line of the mouth
    [0, -27.5, 2.4, 3.6, -0.014], // groove under the nose
  ]),
  ...of('cheeks', [[29, -13, 13, 10, 0.02]]),
  ...of('jaw', [
    [0, -52, 13, 9, 0.07], // chin
    [0, -44.5, 11, 3, -0.012],
    [34, -48, 26, 14, 0.02],
  ]),
  ...of('ears', [[93, -4, 7, 13, 0.07]]),
];
