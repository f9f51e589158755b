import type { Plane } from '../picture';
import { closes, denseFlow, halve, pyramid, warp } from './flow';
import type { MotionView } from './view';

/** What of a frame tells cuts: luma at most 240 px wide, and shares of its colours in nine fields. */
export interface FrameSign {
  readonly grey: Plane;
  readonly colours: Float32Array;
}

/** A frame is named where its colours differ so much, and so many times as much as is usual around it; it is a cut where flow closes on fewer pixels and leaves more. */
const DIFFERENT = 0.18;
const RISE = 2.5;
const AROUND = 4;
const CLOSING = 0.6;
const LEFT = 0.25;
/** Neighbours that agree so much better than the frame make it a flash. */
const FLASH = 0.5;

/** Luma that a frame's mean is brought to before its colours are counted. */
const MIDDLE = 118;

/** The sign of a frame: exposure is taken out of its colours, so that a change of light is no cut. */
export function frameSign({ width, height, rgb, luma }: MotionView): FrameSign {
  let grey = luma;
  while (grey.width > 240) grey = halve(grey);
  let sum = 0;
  for (const v of rgb) sum += v;
  const brighter = Math.sqrt(MIDDLE / Math.max(8, sum / rgb.length));
  const colours = new Float32Array(9 * 64);
  const level = (v: number): number => Math.min(3, (v * brighter) >> 6);
  let total = 0;
  for (let y = 0; y < height; y += 2)
    for (let x = 0; x < width; x += 2, total++) {
      const i = 3 * (y * width + x);
      const field = Math.floor((3 * y) / height) * 3 + Math.floor((3 * x) / width);
      colours[field * 64 + level(rgb[i]!) * 16 + level(rgb[i + 1]!) * 4 + level(rgb[i + 2]!)]! += 1;
    }
  return { grey, colours: colours.map((v) => v / total) };
}

/** How different the colours of two frames are: 0 the same, 1 nothing in common. */
export function colourDifference(a: FrameSign, b: FrameSign): number {
  let sum = 0;
  for (let i = 0; i < a.colours.length; i++) sum += Math.abs(a.colours[i]! - b.colours[i]!);
  return 0.5 * sum;
}

/** Whether flow explains the step from one frame to the next. */
function flowFails(a: FrameSign, b: FrameSign): boolean {
  const first = pyramid(a.grey, 16);
  const second = pyramid(b.grey, 16);
  const plain = { finest: 1, rounds: 0 };
  const there = denseFlow(first, second, plain);
  const seen = closes(there, denseFlow(second, first, plain));
  const there2 = warp(b.grey.data, there);
  const { data } = a.grey;
  const mean = (values: Float32Array): number => values.reduce((s, v) => s + v, 0) / values.length;
  const [ma, mb] = [mean(data), mean(there2)];
  let left = 0;
  let spread = 0;
  for (let i = 0; i < data.length; i++) {
    left += Math.abs(data[i]! - ma - there2[i]! + mb);
    spread += Math.abs(data[i]! - ma);
  }
  const closing = seen.reduce((s, v) => s + v, 0) / seen.length;
  return closing < CLOSING && left / Math.max(data.length, spread) > LEFT;
}

/**
 * Frames that begin a new scene: named where their colours jump against what is usual around them, confirmed where flow fails too, and no
 * flash, after which the picture is what it was before.
 */
export function findCuts(signs: readonly FrameSign[]): readonly number[] {
  const differences = signs.map((sign, t) => (t > 0 ? colourDifference(signs[t - 1]!, sign) : 0));
  const cuts: number[] = [];
  for (let t = 1; t < signs.length; t++) {
    const difference = differences[t]!;
    const from = Math.max(1, t - AROUND);
    const around = differences
      .slice(from, t + AROUND + 1)
      .filter((_, k) => from + k !== t)
      .sort((a, b) => a - b);
    if (difference < DIFFERENT || difference < RISE * (around[around.length >> 1] ?? 0)) continue;
    const after = signs[t + 1];
    const flash =
      (after !== undefined && colourDifference(signs[t - 1]!, after) < FLASH * difference) ||
      (t >= 2 && colourDifference(signs[t - 2]!, signs[t]!) < FLASH * difference);
    if (!flash && flowFails(signs[t - 1]!, signs[t]!)) cuts.push(t);
  }
  return cuts;
}
