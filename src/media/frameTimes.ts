import { RATES, USUAL_FPS } from '../core/values/moment';

/** Frame times that differ by more than this from even ones are told, seconds. */
const UNEVEN = 0.004;

/** When the frames of a clip are shown, seconds from the first, in order; and when that is in its file. */
export interface FrameTimes {
  readonly times: readonly number[];
  readonly origin: number;
}

/** Frames that are shown, from the times of all packets: those that end before the clip begins are there to be decoded alone. */
export function shownTimes(packets: readonly number[]): FrameTimes {
  const times = [...packets].sort((a, b) => a - b);
  while (times.length > 1 && times[1]! <= 0) times.shift();
  const origin = times[0] ?? 0;
  return { times: times.map((t) => t - origin), origin };
}

/** The rate whose even frames lie nearest: one of the usual ones where it fits. */
export function rateOf(times: readonly number[]): { readonly fps: number; readonly even: boolean } {
  const n = times.length;
  if (n < 2) return { fps: USUAL_FPS, even: true };
  const mean = (n - 1) / times[n - 1]!;
  const usual = RATES.find((r) => Math.abs(r / mean - 1) < 0.0008);
  const fps = usual ?? Math.round(mean * 1000) / 1000;
  const exact = fps === 23.976 ? 24000 / 1001 : fps === 29.97 ? 30000 / 1001 : fps === 59.94 ? 60000 / 1001 : fps;
  return { fps, even: times.every((t, k) => Math.abs(t - k / exact) < Math.max(UNEVEN, 0.25 / exact)) };
}

/** When the frames of a range are shown, seconds from its first, and when the last one ends: for as long as those are shown on the mean; and when the range begins. */
export function timesOf(
  all: readonly number[] | undefined,
  { from, to }: { readonly from: number; readonly to: number },
): { readonly begins: number; readonly shown: readonly number[] } | undefined {
  const begins = all?.[from];
  if (!all || begins === undefined || all.length <= to) return undefined;
  const mean = (all[all.length - 1]! - all[0]!) / Math.max(1, all.length - 1);
  return { begins, shown: [...all.slice(from, to + 1).map((t) => t - begins), (all[to + 1] ?? all[to]! + mean) - begins] };
}

/** When a packet is shown, and for how long. */
export function placed(
  timestamp: number,
  duration: number,
  fps: number,
  times?: readonly number[],
): { readonly timestamp: number; readonly duration: number } {
  const from = times?.[Math.round(timestamp * fps)];
  const to = times?.[Math.round(timestamp * fps) + 1];
  return from === undefined || to === undefined ? { timestamp, duration } : { timestamp: from, duration: to - from };
}
