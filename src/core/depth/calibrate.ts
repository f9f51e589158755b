import { newPlane, type Plane } from '../picture';

export type Spacing = 'perspective' | 'even' | 'log';

/** How raw grey values become distance. */
export interface Calibration {
  /** raw values stretched to black and white, 0..1, low < high */
  readonly low: number;
  readonly high: number;
  readonly turnOver: boolean;
  /** gamma of the map between its ends */
  readonly bend: number;
  /** distances that white and black stand for, metres; far may be Infinity */
  readonly near: number;
  readonly far: number;
  readonly spacing: Spacing;
}

/** Farthest distance worked with where the far end is infinite and the spacing cannot be, metres. */
export const HORIZON = 1e5;

/** Hues spread over at most this ratio of distances. */
const HUE_SPAN = 500;

/** Place 0..1 (1 near) of a distance among the hues: even in the logarithm of distance, as the eye takes it. */
export function hueNearness(distance: number, c: Pick<Calibration, 'near' | 'far'>): number {
  const span = Math.log(Math.min(HUE_SPAN, c.far / c.near));
  return Math.min(1, Math.max(0, 1 - Math.log(distance / c.near) / span));
}

/** Raw map value 0..1 to nearness 0..1: stretched between the limits, turned over where asked, bent. */
export function nearnessOf(raw: number, c: Calibration): number {
  const n = Math.min(1, Math.max(0, (raw - c.low) / Math.max(1e-6, c.high - c.low)));
  return (c.turnOver ? 1 - n : n) ** c.bend;
}

/** Nearness to raw map value; the inverse of nearnessOf within the limits. */
export function rawOf(nearness: number, c: Calibration): number {
  const n = Math.min(1, Math.max(0, nearness)) ** (1 / c.bend);
  return c.low + (c.turnOver ? 1 - n : n) * (c.high - c.low);
}

const finiteFar = (c: Pick<Calibration, 'far'>): number => (c.far === Infinity ? HORIZON : c.far);

/** Nearness 0..1 to distance in metres. perspective 1/z = n/zn + (1−n)/zf · even z = zn·n + zf·(1−n) · log z = zf·(zn/zf)^n. */
export function distanceOf(nearness: number, c: Pick<Calibration, 'near' | 'far' | 'spacing'>): number {
  switch (c.spacing) {
    case 'perspective': {
      const inverse = nearness / c.near + (1 - nearness) / c.far;
      return inverse > 0 ? 1 / inverse : Infinity;
    }
    case 'even':
      return c.near * nearness + finiteFar(c) * (1 - nearness);
    case 'log':
      return finiteFar(c) * (c.near / finiteFar(c)) ** nearness;
  }
}

type Ruler = Pick<Calibration, 'near' | 'far' | 'spacing'>;

/** Distances in metres to nearness, clipped to 0..1: what is the same for all of them is worked out once. */
export function nearnessAlong(c: Ruler): (distance: number) => number {
  const far = finiteFar(c);
  const clipped = (n: number): number => (n < 0 ? 0 : n > 1 ? 1 : n);
  if (c.spacing === 'perspective') {
    const [atFar, span] = [1 / c.far, 1 / c.near - 1 / c.far];
    return (distance) => clipped((1 / distance - atFar) / span);
  }
  if (c.spacing === 'even') return (distance) => clipped((far - distance) / (far - c.near));
  const span = Math.log(c.near / far);
  return (distance) => clipped(Math.log(distance / far) / span);
}

/** Distance in metres to nearness, clipped to 0..1; the inverse of distanceOf. */
export const nearnessAtDistance = (distance: number, c: Ruler): number => nearnessAlong(c)(distance);

/** A raw map as distances in metres: distanceOf(nearnessOf(raw)) of every pixel, with what does not change taken out of the loop. */
export function calibrateMap(map: Plane, c: Calibration, shared = false): Plane {
  const out = newPlane(map.width, map.height, shared);
  const { data } = map;
  const span = Math.max(1e-6, c.high - c.low);
  // 1/z (perspective), z (even) or ln z (log) is linear in nearness
  const measure = (z: number): number => (c.spacing === 'perspective' ? 1 / z : c.spacing === 'even' ? z : Math.log(z));
  const atFar = measure(c.spacing === 'perspective' ? c.far : finiteFar(c));
  const slope = measure(c.near) - atFar;
  const values = out.data;
  if (c.bend === 1 && c.spacing === 'perspective') {
    const [low, share] = [c.low, 1 / span];
    // turned over the far end is where nearness is 1
    const [first, rise] = c.turnOver ? [atFar + slope, -slope] : [atFar, slope];
    for (let i = 0; i < data.length; i++) {
      let n = (data[i]! - low) * share;
      n = n < 0 ? 0 : n > 1 ? 1 : n;
      values[i] = 1 / (first + rise * n);
    }
    return out;
  }
  for (let i = 0; i < data.length; i++) {
    let n = (data[i]! - c.low) / span;
    n = n < 0 ? 0 : n > 1 ? 1 : n;
    values[i] = c.turnOver ? 1 - n : n;
  }
  // a power by logarithm takes a third of the time
  if (c.bend !== 1) for (let i = 0; i < values.length; i++) values[i] = Math.exp(c.bend * Math.log(values[i]!));
  if (c.spacing === 'perspective') for (let i = 0; i < values.length; i++) values[i] = 1 / (atFar + slope * values[i]!);
  else if (c.spacing === 'even') for (let i = 0; i < values.length; i++) values[i] = atFar + slope * values[i]!;
  else for (let i = 0; i < values.length; i++) values[i] = Math.exp(atFar + slope * values[i]!);
  return out;
}

export interface StakeFit {
  near: number;
  far: number;
  bend: number;
  /** fitted minus typed distance at each stake, metres */
  residuals: number[];
}

/**
 * Fits the ends (and with three or more stakes the bend) to known distances, least squares in 1/z with perspective spacing and
 * in the spacing's own measure otherwise. One stake scales both ends; two solve them; three or more also solve the bend.
 * `raw` holds the map's raw value at each stake. Returns null where the stakes do not determine the ends.
 */
export function fitStakes(raw: readonly number[], distances: readonly number[], c: Calibration): StakeFit | null {
  if (raw.length === 0) return null;
  const far = finiteFar(c);
  /** the measure in which the spacing is linear in nearness */
  const measure = (z: number): number => (c.spacing === 'perspective' ? 1 / z : c.spacing === 'even' ? z : Math.log(z));
  const back = (m: number): number => (c.spacing === 'perspective' ? (m > 1e-9 ? 1 / m : Infinity) : c.spacing === 'even' ? m : Math.exp(m));
  const withResiduals = (near: number, farEnd: number, bend: number): StakeFit => {
    const fitted = { ...c, near, far: farEnd, bend };
    return { near, far: farEnd, bend, residuals: raw.map((r, i) => distanceOf(nearnessOf(r, fitted), fitted) - distances[i]!) };
  };
  if (raw.length === 1) {
    const z = distanceOf(nearnessOf(raw[0]!, c), c);
    const scale = z === Infinity ? 1 : distances[0]! / z;
    return withResiduals(c.near * scale, c.far === Infinity ? Infinity : far * scale, c.bend);
  }
  const solve = (bend: number): { near: number; far: number; error: number } | null => {
    const n = raw.map((r) => nearnessOf(r, { ...c, bend }));
    const m = distances.map(measure);
    const meanN = n.reduce((a, b) => a + b, 0) / n.length;
    const meanM = m.reduce((a, b) => a + b, 0) / m.length;
    const spread = n.reduce((s, v) => s + (v - meanN) ** 2, 0);
    if (spread < 1e-8) return null;
    const slope = n.reduce((s, v, i) => s + (v - meanN) * (m[i]! - meanM), 0) / spread;
    const atFar = meanM - slope * meanN;
    const near = back(atFar + slope);
    const farEnd = back(atFar);
    if (!(near > 0) || !(farEnd > near)) return null;
    return { near, far: farEnd, error: n.reduce((s, v, i) => s + (atFar + slope * v - m[i]!) ** 2, 0) };
  };
  const errorAt = (logBend: number): number => solve(Math.exp(logBend))?.error ?? Infinity;
  const bend = raw.length < 3 ? c.bend : Math.exp(goldenSection(errorAt, Math.log(0.1), Math.log(10)));
  const ends = solve(bend);
  return ends && withResiduals(ends.near, ends.far, bend);
}

/** Smallest point of a function on [low, high]: a coarse scan, then golden section (Kiefer 1953). */
function goldenSection(f: (x: number) => number, low: number, high: number): number {
  const steps = 48;
  let best = 0;
  for (let i = 0; i <= steps; i++) if (f(low + ((high - low) * i) / steps) < f(low + ((high - low) * best) / steps)) best = i;
  let a = low + ((high - low) * Math.max(0, best - 1)) / steps;
  let b = low + ((high - low) * Math.min(steps, best + 1)) / steps;
  const ratio = (Math.sqrt(5) - 1) / 2;
  for (let i = 0; i < 80; i++) {
    const x0 = b - ratio * (b - a);
    const x1 = a + ratio * (b - a);
    if (f(x0) < f(x1)) b = x1;
    else a = x0;
  }
  return (a + b) / 2;
}
