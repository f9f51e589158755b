import type { Plane } from '../picture';
import { bilinear } from './bilinear';
import type { Link } from './links';

/** Scale and shift of a map: n′ = scale·n + shift. */
export interface Levels {
  readonly scale: number;
  readonly shift: number;
}

/** A robust fit of one frame's map to its neighbour's, y ≈ scale·x + …: means of what is believed, and the share of it. */
export interface PairFit {
  readonly scale: number;
  readonly meanX: number;
  readonly meanY: number;
  readonly share: number;
}

/** Rounds of reweighting, and residual spreads beyond which a pixel has no say. */
const ROUNDS = 6;
const TUKEY = 3;
/** Fewer believed pixels say nothing. */
const FEWEST = 20;
const SMALL = 1e-7;
/** Every third pixel each way is compared. */
const STEP = 3;

/**
 * Robust fit between two lists of nearness (Tukey's weights). The slope is the ratio of spreads (geometric-mean regression): plain least
 * squares would shrink the map a little at each frame.
 */
export function fitPair(x: Float32Array, y: Float32Array): PairFit {
  let scale = 1;
  let shift = 0;
  let spread = Infinity;
  let fit: PairFit = { scale: 1, meanX: 0, meanY: 0, share: 0 };
  const off = new Float32Array(x.length);
  for (let round = 0; round < ROUNDS; round++) {
    let sw = 0;
    let sx = 0;
    let sy = 0;
    let sxx = 0;
    let syy = 0;
    let sxy = 0;
    for (let i = 0; i < x.length; i++) {
      const e = (y[i]! - scale * x[i]! - shift) / (TUKEY * spread);
      const rest = 1 - e * e;
      const w = round === 0 ? 1 : rest > 0 ? rest * rest : 0;
      sw += w;
      sx += w * x[i]!;
      sy += w * y[i]!;
      sxx += w * x[i]! * x[i]!;
      syy += w * y[i]! * y[i]!;
      sxy += w * x[i]! * y[i]!;
    }
    if (sw < FEWEST) break;
    const meanX = sx / sw;
    const meanY = sy / sw;
    const vx = sxx / sw - meanX * meanX;
    const vy = syy / sw - meanY * meanY;
    const together = sxy / sw - meanX * meanY;
    scale = vx < SMALL ? 1 : Math.sqrt(Math.max(SMALL, vy) / vx) * (together < 0 ? -1 : 1);
    shift = meanY - scale * meanX;
    fit = { scale, meanX, meanY, share: sw / x.length };
    for (let i = 0; i < x.length; i++) off[i] = Math.abs(y[i]! - scale * x[i]! - shift);
    spread = Math.max(1e-4, 1.48 * off.slice().sort()[off.length >> 1]!);
  }
  return fit;
}

/** Nearness of pixels that are seen in both frames: here, and at the same points there. Every `step`-th pixel each way. */
export function seenInBoth(here: Plane, there: Plane, { flow, seen }: Link, step = STEP): { readonly x: Float32Array; readonly y: Float32Array } {
  const { width: w, height: h } = here;
  const most = Math.ceil(w / step) * Math.ceil(h / step);
  const x = new Float32Array(most);
  const y = new Float32Array(most);
  let n = 0;
  for (let row = step >> 1; row < h; row += step)
    for (let column = step >> 1; column < w; column += step) {
      const i = row * w + column;
      if (!seen[i]) continue;
      x[n] = here.data[i]!;
      y[n++] = bilinear(there.data, w, h, column + flow.u[i]!, row + flow.v[i]!);
    }
  return { x: x.subarray(0, n), y: y.subarray(0, n) };
}

/** The fit of a frame's map to that of the frame before, along flow; null where nothing links them. */
export function fitToBefore(map: Plane, mapBefore: Plane, link: Link | null): PairFit | null {
  if (!link) return null;
  const { x, y } = seenInBoth(map, mapBefore, link);
  return fitPair(x, y);
}

/** Solves a symmetric tridiagonal system: `off[i]` couples i and i+1. */
function solveTridiagonal(diagonal: readonly number[], off: readonly number[], right: readonly number[]): number[] {
  const d = diagonal.slice();
  const r = right.slice();
  for (let i = 1; i < d.length; i++) {
    const m = off[i - 1]! / d[i - 1]!;
    d[i]! -= m * off[i - 1]!;
    r[i]! -= m * r[i - 1]!;
  }
  for (let i = d.length - 1; i >= 0; i--) r[i] = (r[i]! - (i + 1 < d.length ? off[i]! * r[i + 1]! : 0)) / d[i]!;
  return r;
}

/** How strongly each frame is held to what it was: 1/√ of it is the memory in frames. Faster changes are jitter, slower ones the scene's own. */
const HELD = 0.01;
/** How strongly a frame is held to levels it was given before. */
const PINNED = 100;

/**
 * Levels of every frame, all frames at once: neighbours' scales, log(scale t) − log(scale t−1) = log of the fit's, then shifts likewise. Fast
 * jitter goes, slow true change stays, nothing drifts. `fits[t]` links t to t−1. `pinned`: levels that some frames have already.
 */
export function jointLevels(fits: readonly (PairFit | null)[], pinned: ReadonlyMap<number, Levels> = new Map()): readonly Levels[] {
  const believed = fits.map((f) => f !== null && f.scale > 0.2 && f.scale < 5 && f.share > 0.3);
  const solve = (step: (t: number) => number, rest: (t: number) => number, pin: (levels: Levels) => number): number[] => {
    const diagonal = fits.map((_, t) => (pinned.has(t) ? PINNED : HELD));
    const off = new Array<number>(Math.max(0, fits.length - 1)).fill(0);
    const right = fits.map((_, t) => {
      const given = pinned.get(t);
      return given ? PINNED * pin(given) : HELD * rest(t);
    });
    for (let t = 1; t < fits.length; t++) {
      if (!believed[t]) continue;
      diagonal[t]! += 1;
      diagonal[t - 1]! += 1;
      off[t - 1]! -= 1;
      right[t]! += step(t);
      right[t - 1]! -= step(t);
    }
    return solveTridiagonal(diagonal, off, right);
  };
  const scales = solve(
    (t) => Math.log(fits[t]!.scale),
    () => 0,
    ({ scale }) => Math.log(scale),
  ).map(Math.exp);
  const shifts = solve(
    (t) => scales[t - 1]! * fits[t]!.meanY - scales[t]! * fits[t]!.meanX,
    (t) => (1 - scales[t]!) * (fits[t]?.meanX ?? 0.5),
    ({ shift }) => shift,
  );
  return scales.map((scale, t) => ({ scale, shift: shifts[t]! }));
}

/** A map at its levels. */
export const levelled = (map: Plane, { scale, shift }: Levels): Plane => ({ ...map, data: map.data.map((v) => scale * v + shift) });
