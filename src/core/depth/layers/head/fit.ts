import { markNames, markPoint, placeInPlate, type HeadPose, type MarkName, type PlatePlace } from './marks';
import type { HeadShape } from './parts';

export type PinnedMarks = Partial<Readonly<Record<MarkName, PlatePlace>>>;

/** How strongly the pose holds to where it was, against marks in shares of the plate's height: enough to settle what marks leave open. */
const HOLD = { turn: 2e-5, place: 1e-4, size: 4e-4 };
const ROUNDS = 60;

/**
 * Turns, scales and moves a head so that its marks meet those pinned in the picture: least squares under weak perspective
 * (Dementhon & Davis 1995) by Levenberg–Marquardt (Marquardt 1963) from the pose it has. Few marks leave the rest as it was:
 * one moves the head, two also scale and roll it, three or more turn it. `aspect` is width/height of the plate.
 */
export function fitPose(pinned: PinnedMarks, from: HeadPose, shape: HeadShape, aspect: number): HeadPose {
  const names = markNames.filter((n) => pinned[n]);
  if (names.length === 0) return from;
  const points = names.map((n) => markPoint(n, shape));
  const start = [from.yaw, from.pitch, from.roll, Math.log(from.height), from.x * aspect, from.y];
  const free = names.length === 1 ? [4, 5] : names.length === 2 ? [2, 3, 4, 5] : [0, 1, 2, 3, 4, 5];
  const poseOf = (v: readonly number[]): HeadPose => ({
    yaw: v[0]!,
    pitch: v[1]!,
    roll: v[2]!,
    height: Math.exp(v[3]!),
    x: v[4]! / aspect,
    y: v[5]!,
  });
  const residuals = (v: readonly number[]): number[] => {
    const pose = poseOf(v);
    const out: number[] = [];
    points.forEach((p, i) => {
      const at = placeInPlate(p, pose, aspect);
      const to = pinned[names[i]!]!;
      out.push((at.x - to.x) * aspect, at.y - to.y);
    });
    for (let k = 0; k < 6; k++) out.push((v[k]! - start[k]!) * (k < 3 ? HOLD.turn : k === 3 ? HOLD.size : HOLD.place));
    return out;
  };
  const cost = (r: readonly number[]): number => r.reduce((s, x) => s + x * x, 0);
  let v = start;
  let r = residuals(v);
  let damping = 1e-3;
  for (let round = 0; round < ROUNDS; round++) {
    const columns = free.map((k) => {
      const step = k < 3 ? 0.05 : 1e-5;
      const moved = residuals(v.map((x, i) => (i === k ? x + step : x)));
      return moved.map((x, i) => (x - r[i]!) / step);
    });
    const normal = columns.map((a) => columns.map((b) => a.reduce((s, x, i) => s + x * b[i]!, 0)));
    const right = columns.map((a) => -a.reduce((s, x, i) => s + x * r[i]!, 0));
    const step = solve(
      normal.map((row, i) => row.map((x, j) => (i === j ? x * (1 + damping) + 1e-14 : x))),
      right,
    );
    const next = v.map((x, i) => (free.includes(i) ? x + step[free.indexOf(i)]! : x));
    const nextResiduals = residuals(next);
    if (cost(nextResiduals) < cost(r)) {
      const gain = cost(r) - cost(nextResiduals);
      v = next;
      r = nextResiduals;
      damping = Math.max(1e-9, damping / 4);
      if (gain < 1e-14) break;
    } else if ((damping *= 6) > 1e6) break;
  }
  const wrap = (d: number): number => ((((d + 180) % 360) + 360) % 360) - 180;
  const pose = poseOf(v);
  return { ...pose, yaw: wrap(pose.yaw), pitch: wrap(pose.pitch), roll: wrap(pose.roll) };
}

/** Gaussian elimination with row pivots of a small square system. */
function solve(matrix: number[][], right: number[]): number[] {
  const n = right.length;
  const a = matrix.map((row, i) => [...row, right[i]!]);
  for (let k = 0; k < n; k++) {
    let pivot = k;
    for (let i = k + 1; i < n; i++) if (Math.abs(a[i]![k]!) > Math.abs(a[pivot]![k]!)) pivot = i;
    [a[k], a[pivot]] = [a[pivot]!, a[k]!];
    const d = a[k]![k]!;
    if (Math.abs(d) < 1e-300) continue;
    for (let i = k + 1; i < n; i++) {
      const f = a[i]![k]! / d;
      for (let j = k; j <= n; j++) a[i]![j]! -= f * a[k]![j]!;
    }
  }
  const out = new Array<number>(n).fill(0);
  for (let i = n - 1; i >= 0; i--) {
    let s = a[i]![n]!;
    for (let j = i + 1; j < n; j++) s -= a[i]![j]! * out[j]!;
    out[i] = Math.abs(a[i]![i]!) < 1e-300 ? 0 : s / a[i]![i]!;
  }
  return out;
}

/** Degrees by which eyes, nose, lips and jaw may be moved to meet marks that the turned head misses. */
const FARTHEST = 8;

/**
 * After the pose: moves and sizes the parts that are not locked so that they meet the pinned marks (Newton steps on the places
 * of their marks). Returns the changed parts alone.
 */
export function fitParts(
  pinned: PinnedMarks,
  pose: HeadPose,
  shape: HeadShape,
  aspect: number,
  locked: readonly string[],
): Partial<Record<keyof HeadShape, { across: number; up: number; size: number }>> {
  const changed: Partial<Record<keyof HeadShape, { across: number; up: number; size: number }>> = {};
  const clip = (d: number): number => Math.min(FARTHEST, Math.max(-FARTHEST, d));
  for (const [part, pair] of [
    ['socket', ['eyeLeft', 'eyeRight']],
    ['nose', ['nose']],
    ['lips', ['mouthLeft', 'mouthRight']],
    ['jaw', ['chin']],
  ] as const) {
    const names = pair.filter((n) => pinned[n]);
    if (locked.includes(part) || names.length < pair.length) continue;
    // single parts move across and up; pairs move apart and up together
    let [across, up] = [shape[part].across, shape[part].up];
    for (let round = 0; round < 8; round++) {
      const at = (a: number, u: number): number[] =>
        names.flatMap((n) => {
          const p = placeInPlate(markPoint(n, { ...shape, [part]: { ...shape[part], across: a, up: u } }), pose, aspect);
          return [(p.x - pinned[n]!.x) * aspect, p.y - pinned[n]!.y];
        });
      const r = at(across, up);
      const ra = at(across + 0.1, up).map((v, i) => (v - r[i]!) / 0.1);
      const ru = at(across, up + 0.1).map((v, i) => (v - r[i]!) / 0.1);
      const dot = (p: number[], q: number[]): number => p.reduce((s, v, i) => s + v * q[i]!, 0);
      const keep = 1e-9;
      const step = solve(
        [
          [dot(ra, ra) + keep, dot(ra, ru)],
          [dot(ra, ru), dot(ru, ru) + keep],
        ],
        [-dot(ra, r), -dot(ru, r)],
      );
      across = clip(across + step[0]!);
      up = clip(up + step[1]!);
    }
    changed[part] = { across, up, size: shape[part].size };
  }
  return changed;
}
