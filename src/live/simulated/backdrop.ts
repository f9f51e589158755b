import { smoothNoise } from '../../core/noise';
import { HALF_WIDTH, VIEW } from './view';

/** Red, green, blue, 0..255, and the distance along the view, m. */
export interface Seen {
  readonly r: number;
  readonly g: number;
  readonly b: number;
  readonly z: number;
}

/** How high the camera stands, m. */
const EYE = 1.6;
const noise = (x: number, y: number): number => smoothNoise(x, y, 0.5, 7);

/** The hut: its front, m; the window in it, and the wall behind that. */
export const HUT = { x0: -3.3, x1: -0.7, top: 1.15, z: 6, gable: 2.1, window: { x0: -2.5, x1: -1.4, y0: -0.25, y1: 0.75 }, inside: 7 } as const;
/** The mast, and the height at which its arms turn. */
export const MAST = { x: 1.75, z: 7, half: 0.07, top: 2.1, pivot: 1.45 } as const;
/** Posts of a fence: place, distance, half of their width and their top. */
const POSTS = [
  { x: -1.35, z: 2.3, half: 0.055, top: -0.62 },
  { x: -0.55, z: 3.2, half: 0.055, top: -0.6 },
  { x: 0.35, z: 4.1, half: 0.055, top: -0.58 },
  { x: 0.95, z: 5, half: 0.055, top: -0.56 },
];

const mix = (a: readonly number[], b: readonly number[], t: number): number[] => a.map((v, i) => v + (b[i]! - v) * t);

function sky(x: number, y: number): Seen {
  const up = Math.min(1, Math.max(0, y / 0.36));
  const cloud = Math.max(0, noise(x * 5 + 3, y * 16) - 0.52) * 1.6;
  const [r, g, b] = mix(mix([236, 186, 150], [84, 104, 142], up), [250, 216, 190], cloud * (1 - 0.5 * up));
  return { r: r!, g: g!, b: b!, z: Infinity };
}

function ground(x: number, y: number): Seen {
  const z = EYE / -y;
  const wx = x * z;
  if (z > 26) {
    // the sea, with light on it
    const t = 0.5 + 0.5 * noise(wx * 0.3, z * 1.3);
    return { r: 92 + 70 * t, g: 108 + 46 * t, b: 128 + 24 * t, z };
  }
  const t = noise(wx * 3, z * 3) * 0.6 + noise(wx * 11, z * 11) * 0.4;
  const lit = 0.7 + 0.3 * Math.min(1, z / 14);
  return { r: lit * (66 + 52 * t), g: lit * (74 + 44 * t), b: lit * (52 + 26 * t), z };
}

function hut(x: number, y: number): Seen | null {
  const wx = x * HUT.z;
  const wy = y * HUT.z;
  if (wy < -EYE || wx < HUT.x0 - 0.25 || wx > HUT.x1 + 0.25) return null;
  const middle = (HUT.x0 + HUT.x1) / 2;
  const { window: w } = HUT;
  if (wy > HUT.top) {
    const slope = ((HUT.x1 - HUT.x0) / 2 + 0.25) * (1 - (wy - HUT.top) / (HUT.gable - HUT.top));
    if (wy > HUT.gable || Math.abs(wx - middle) > slope) return null;
    const t = noise(wx * 6, wy * 30);
    return { r: 92 + 26 * t, g: 58 + 18 * t, b: 50 + 14 * t, z: HUT.z };
  }
  if (wx < HUT.x0 || wx > HUT.x1) return null;
  if (wx > w.x0 && wx < w.x1 && wy > w.y0 && wy < w.y1) {
    const ix = x * HUT.inside;
    const t = 0.6 + 0.4 * noise(ix * 4, y * HUT.inside * 4);
    return { r: 120 * t, g: 84 * t, b: 50 * t, z: HUT.inside };
  }
  const frame = wx > w.x0 - 0.09 && wx < w.x1 + 0.09 && wy > w.y0 - 0.09 && wy < w.y1 + 0.09;
  if (frame) return { r: 224, g: 214, b: 196, z: HUT.z };
  const plank = ((wy + 5) * 5) % 1;
  const t = 0.75 + 0.25 * noise(wx * 2, wy * 24) - (plank < 0.1 ? 0.22 : 0);
  return { r: 78 * t + 12, g: 104 * t + 14, b: 112 * t + 16, z: HUT.z };
}

function uprights(x: number, y: number): Seen | null {
  for (const post of POSTS) {
    const wx = (x * post.z - post.x) / post.half;
    const wy = y * post.z;
    if (Math.abs(wx) > 1 || wy > post.top || wy < -EYE) continue;
    const lit = 0.55 + 0.45 * Math.sqrt(1 - wx * wx) * (wx > 0 ? 1 : 0.8);
    const t = lit * (0.8 + 0.2 * noise(wx * 3 + post.x * 9, wy * 14));
    return { r: 128 * t, g: 112 * t, b: 94 * t, z: post.z - post.half * Math.sqrt(1 - wx * wx) };
  }
  return null;
}

function mast(x: number, y: number): Seen | null {
  const wx = (x * MAST.z - MAST.x) / MAST.half;
  const wy = y * MAST.z;
  if (Math.abs(wx) > 1 || wy > MAST.top || wy < -EYE) return null;
  const t = 0.6 + 0.4 * Math.sqrt(1 - wx * wx);
  return { r: 226 * t, g: 220 * t, b: 206 * t, z: MAST.z - MAST.half * Math.sqrt(1 - wx * wx) };
}

/** What stands still, at a place of the view at 1 m, y upwards. */
const stands = (x: number, y: number): Seen => uprights(x, y) ?? hut(x, y) ?? mast(x, y) ?? (y < -1e-3 ? ground(x, y) : sky(x, y));

/** The part of the scene that stands still: colour, four samples a pixel, and the distance that the middle of each pixel sees. */
export function backdrop(): { readonly colour: Uint8Array; readonly depth: Float32Array } {
  const { width, height } = VIEW;
  const colour = new Uint8Array(4 * width * height);
  const depth = new Float32Array(width * height);
  const at = (px: number, py: number): Seen => stands(((px - width / 2) / (width / 2)) * HALF_WIDTH, -((py - height / 2) / (width / 2)) * HALF_WIDTH);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      const parts = [at(x + 0.25, y + 0.25), at(x + 0.75, y + 0.25), at(x + 0.25, y + 0.75), at(x + 0.75, y + 0.75)];
      for (const [k, name] of (['r', 'g', 'b'] as const).entries()) colour[4 * i + k] = parts.reduce((sum, p) => sum + p[name], 0) / 4;
      colour[4 * i + 3] = 255;
      depth[i] = at(x + 0.5, y + 0.5).z;
    }
  return { colour, depth };
}
