import type { Link } from './links';

export type Vector = readonly [number, number, number];

/** How a camera moved from one frame to another, as flow tells. */
export interface EgoMotion {
  /** direction of the translation: x right, y down, z forward; its length cannot be known */
  readonly way: Vector;
  /** rotation, rad */
  readonly turn: Vector;
  /** px: three quarters of the flow that the best rotation alone leaves lie below */
  readonly parallax: number;
  /** px: median distance of flow from its epipolar line */
  readonly noise: number;
  /** share of points within a px of their line */
  readonly inliers: number;
  /** share of well measured points in front of the camera */
  readonly front: number;
}

/** A point in focal lengths from the middle, and its flow. */
interface Sample {
  readonly x: number;
  readonly y: number;
  readonly u: number;
  readonly v: number;
}

/** Scale of the weights of flow, px: what is farther off has less say. */
const SCALE_PX = 0.7;
/** One point in so many px each way. */
const STEP = 8;
/** Directions of the half sphere that are tried, on so many points. */
const DIRECTIONS = 200;
const THIN = 500;
const GOLDEN_ANGLE = Math.PI * (3 - Math.sqrt(5));

const turnU = (w: Vector, x: number, y: number): number => w[0] * x * y - w[1] * (1 + x * x) + w[2] * y;
const turnV = (w: Vector, x: number, y: number): number => w[0] * (1 + y * y) - w[1] * x * y - w[2] * x;

const quantileOf = (values: readonly number[], share: number): number =>
  values.length === 0 ? 0 : [...values].sort((a, b) => a - b)[Math.min(values.length - 1, Math.floor(share * values.length))]!;

/** A symmetric 3×3 system in its upper half. */
function solve([a, b, c, d, e, f]: readonly number[], [p, q, s]: readonly number[]): Vector {
  const [A, B, C, D, E, F] = [a!, b!, c!, d!, e!, f!];
  const det = A * (D * F - E * E) - B * (B * F - C * E) + C * (B * E - C * D) || 1e-30;
  return [
    (p! * (D * F - E * E) + q! * (C * E - B * F) + s! * (B * E - C * D)) / det,
    (p! * (C * E - B * F) + q! * (A * F - C * C) + s! * (B * C - A * E)) / det,
    (p! * (B * E - C * D) + q! * (B * C - A * E) + s! * (A * D - B * B)) / det,
  ];
}

/** The rotation that explains the flow best (Cauchy's weights): all of it, or its part across the lines of a translation, which holds no depth. */
function turnFor(points: readonly Sample[], way: Vector | null, start: Vector, scale: number, rounds: number): { turn: Vector; cost: number } {
  let turn = start;
  let cost = 0;
  for (let round = 0; round <= rounds; round++) {
    const m = [1e-9, 0, 0, 1e-9, 0, 1e-9];
    const r = [0, 0, 0];
    cost = 0;
    const add = (b0: number, b1: number, b2: number, v: number, k: number): void => {
      m[0]! += k * b0 * b0;
      m[1]! += k * b0 * b1;
      m[2]! += k * b0 * b2;
      m[3]! += k * b1 * b1;
      m[4]! += k * b1 * b2;
      m[5]! += k * b2 * b2;
      r[0]! += k * b0 * v;
      r[1]! += k * b1 * v;
      r[2]! += k * b2 * v;
    };
    for (const { x, y, u, v } of points) {
      const [u0, u1, u2] = [x * y, -(1 + x * x), y];
      const [v0, v1, v2] = [1 + y * y, -x * y, -x];
      if (way) {
        const [lx, ly] = [x * way[2] - way[0], y * way[2] - way[1]];
        const n = Math.hypot(lx, ly) + 1e-6;
        const [ax, ay] = [-ly / n, lx / n];
        const [b0, b1, b2] = [ax * u0 + ay * v0, ax * u1 + ay * v1, ax * u2 + ay * v2];
        const across = ax * u + ay * v;
        const e = across - b0 * turn[0] - b1 * turn[1] - b2 * turn[2];
        cost += Math.min(e * e, 4 * scale * scale);
        add(b0, b1, b2, across, 1 / (1 + (e * e) / (scale * scale)));
      } else {
        const [eu, ev] = [u - turnU(turn, x, y), v - turnV(turn, x, y)];
        const k = 1 / (1 + (eu * eu + ev * ev) / (scale * scale));
        cost += Math.min(eu * eu + ev * ev, 4 * scale * scale);
        add(u0, u1, u2, u, k);
        add(v0, v1, v2, v, k);
      }
    }
    if (round < rounds) turn = solve(m, r);
  }
  return { turn, cost: cost / Math.max(1, points.length) };
}

const unit = (v: Vector): Vector => {
  const n = Math.hypot(...v) || 1;
  return [v[0] / n, v[1] / n, v[2] / n];
};

/** Two directions across another, and across each other. */
function across(v: Vector): readonly [Vector, Vector] {
  const p = unit(Math.abs(v[2]) < 0.9 ? [-v[1], v[0], 0] : [0, -v[2], v[1]]);
  return [p, [v[1] * p[2] - v[2] * p[1], v[2] * p[0] - v[0] * p[2], v[0] * p[1] - v[1] * p[0]]];
}

/**
 * How the camera moved, from flow over a scene that mostly stands still (Longuet-Higgins & Prazdny 1980). For a direction of translation the part
 * of the flow across its lines holds no depth and is linear in the rotation: directions of the half sphere are searched and the rotation is solved
 * robustly for each (after Heeger & Jepson 1992), without chance. `focal`: px. `near`: a direction to begin with, of a frame close by.
 */
export function egoMotion({ flow, seen }: Link, focal: number, near: Vector | null = null): EgoMotion {
  const { width: w, height: h } = flow;
  const points: Sample[] = [];
  for (let y = STEP >> 1; y < h; y += STEP)
    for (let x = STEP >> 1; x < w; x += STEP) {
      const i = y * w + x;
      if (seen[i]) points.push({ x: (x + 0.5 - w / 2) / focal, y: (y + 0.5 - h / 2) / focal, u: flow.u[i]! / focal, v: flow.v[i]! / focal });
    }
  const scale = SCALE_PX / focal;
  const still = turnFor(points, null, [0, 0, 0], scale, 8).turn;
  const left = points.map((p) => focal * Math.hypot(p.u - turnU(still, p.x, p.y), p.v - turnV(still, p.x, p.y)));
  let best: { way: Vector; turn: Vector; cost: number } = { way: [1, 0, 0], turn: still, cost: Infinity };
  const consider = (way: Vector, list: readonly Sample[], rounds: number): void => {
    const found = turnFor(list, unit(way), best.cost < Infinity ? best.turn : still, scale, rounds);
    if (found.cost < best.cost) best = { way: unit(way), ...found };
  };
  const thin = points.filter((_, i) => i % Math.max(1, Math.floor(points.length / THIN)) === 0);
  if (near) consider(near, thin, 3);
  else
    for (let k = 0; k < DIRECTIONS; k++) {
      const z = (k + 0.5) / DIRECTIONS;
      const q = Math.sqrt(1 - z * z);
      consider([q * Math.cos(k * GOLDEN_ANGLE), q * Math.sin(k * GOLDEN_ANGLE), z], thin, 3);
    }
  best = { ...best, cost: Infinity };
  consider(best.way, points, 5);
  for (let size = 0.08; size > 0.002; size /= 2)
    for (let k = 0; k < 6; k++) {
      const [p, q] = across(best.way);
      const [c, s] = [size * Math.cos((k * Math.PI) / 3), size * Math.sin((k * Math.PI) / 3)];
      const { way } = best;
      consider([way[0] + c * p[0] + s * q[0], way[1] + c * p[1] + s * q[1], way[2] + c * p[2] + s * q[2]], points, 3);
    }
  const { way, turn } = best;
  const off: number[] = [];
  const along: number[] = [];
  for (const { x, y, u, v } of points) {
    const [lx, ly] = [x * way[2] - way[0], y * way[2] - way[1]];
    const n = Math.hypot(lx, ly) + 1e-6;
    const [ru, rv] = [u - turnU(turn, x, y), v - turnV(turn, x, y)];
    off.push((focal * Math.abs(lx * rv - ly * ru)) / n);
    along.push((focal * (lx * ru + ly * rv)) / n);
  }
  const back =
    quantileOf(
      along.filter((_, i) => off[i]! < 1),
      0.5,
    ) < 0;
  const sure = along.map((v) => (back ? -v : v)).filter((v, i) => off[i]! < 1 && Math.abs(v) > 0.7);
  return {
    way: back ? [-way[0], -way[1], -way[2]] : way,
    turn,
    parallax: quantileOf(left, 0.75),
    noise: quantileOf(off, 0.5),
    inliers: off.filter((v) => v < 1).length / Math.max(1, off.length),
    front: sure.length > 30 ? sure.filter((v) => v > 0).length / sure.length : 0,
  };
}

/** Whether there is parallax worth believing: all four must hold. */
export const isTrusted = ({ parallax, noise, inliers, front }: EgoMotion): boolean =>
  parallax > 1 && parallax > 4 * noise && inliers > 0.6 && front > 0.85;

/** Inverse distance of every pixel in a scale of its own, how well it is known (standard deviation, Infinity where it is not), and 1 where something moves by itself. */
export interface InverseDepth {
  readonly value: Float32Array;
  readonly spread: Float32Array;
  readonly moves: Uint8Array;
}

/** Flow is never better than this, px. */
const LEAST_NOISE = 0.25;
/** So many times the noise off its line, a point moves by itself. */
const OFF = 4;

/** Inverse distance from what the translation did: along its line, over the length of that. */
export function inverseDepth({ flow, seen }: Link, { way, turn, noise }: EgoMotion, focal: number): InverseDepth {
  const { width: w, height: h } = flow;
  const value = new Float32Array(w * h);
  const spread = new Float32Array(w * h).fill(Infinity);
  const moves = new Uint8Array(w * h);
  const least = Math.max(LEAST_NOISE, 1.5 * noise);
  for (let row = 0, i = 0; row < h; row++)
    for (let column = 0; column < w; column++, i++) {
      if (!seen[i]) continue;
      const [x, y] = [(column + 0.5 - w / 2) / focal, (row + 0.5 - h / 2) / focal];
      const [lx, ly] = [x * way[2] - way[0], y * way[2] - way[1]];
      const n2 = lx * lx + ly * ly + 1e-8;
      const [ru, rv] = [flow.u[i]! / focal - turnU(turn, x, y), flow.v[i]! / focal - turnV(turn, x, y)];
      const e = (focal * (lx * rv - ly * ru)) / Math.sqrt(n2);
      if (Math.abs(e) > OFF * least) {
        moves[i] = 1;
        continue;
      }
      value[i] = (lx * ru + ly * rv) / n2;
      spread[i] = Math.hypot(least, e) / focal / Math.sqrt(n2);
    }
  return { value, spread, moves };
}
