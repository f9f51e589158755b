import { boxMean, gradient, quantile } from '../raster/filters';
import { newPlane, type Plane } from '../picture';
import { barrierDistance } from './barrier';
import type { CueInput, Layout } from './cue';
import { findStanding } from './standing';

/** Where horizons usually lie, share of the height from the top, and how much that varies. */
const USUAL_HORIZON = 0.42;
const HORIZON_SPREAD = 0.16;

/** Sky, ground and the horizon between them, from what is smoothly connected to the upper and lower borders. */
export function findLayout(input: Omit<CueInput, 'layout'>): Layout {
  const { width, height, lightness, a, b, detail } = input;
  const colours = [lightness, a, b];
  const rough = boxMean(gradient(detail), Math.max(1, Math.round(height / 60)));
  const usual = Math.max(1e-4, quantile(rough, 0.5));
  const fromTop = barrierDistance(colours, (_, y) => y === 0);
  const fromBottom = barrierDistance(colours, (_, y) => y === height - 1);
  const upright = uprightTexture(detail);
  const sky = newPlane(width, height);
  const ground = newPlane(width, height);
  // sky is brighter than the land under it, by day and at dusk
  const landLight = quantile({ width, height: height - (height >> 1), data: lightness.data.subarray((height >> 1) * width) }, 0.6);
  for (let i = 0; i < sky.data.length; i++) {
    const bright = Math.min(1, Math.max(0.0, (lightness.data[i]! - 0.75 * landLight) / (0.35 * landLight + 0.05)));
    const smooth = Math.exp(-((rough.data[i]! / (1.5 * usual)) ** 2));
    const top = Math.exp(-((fromTop.data[i]! / 0.22) ** 2));
    const bottom = Math.exp(-((fromBottom.data[i]! / 0.3) ** 2));
    sky.data[i] = bright * top * (0.35 + 0.65 * smooth) * (1 - 0.7 * bottom);
    ground.data[i] = bottom * (1 - 0.5 * top) * (1 - UPRIGHT_WEIGHT * upright.data[i]!);
  }
  const horizon = findHorizon(sky, ground);
  return { horizon, sky, ground, ...findStanding(input, horizon) };
}

/** How far upright texture speaks against ground. */
const UPRIGHT_WEIGHT = 0.9;

/**
 * 0..1 where texture runs upright: a ground seen at a low angle is foreshortened, so its edges run level, while walls, trunks
 * and posts keep theirs upright (orientation of image energy by structure: Torralba & Oliva 2002).
 */
function uprightTexture(detail: Plane): Plane {
  const { width, height, data } = detail;
  const across = newPlane(width, height);
  const down = newPlane(width, height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      const gx = data[y * width + Math.min(width - 1, x + 1)]! - data[y * width + Math.max(0, x - 1)]!;
      const gy = data[Math.min(height - 1, y + 1) * width + x]! - data[Math.max(0, y - 1) * width + x]!;
      across.data[i] = gx * gx;
      down.data[i] = gy * gy;
    }
  const radius = Math.max(2, Math.round(height / 24));
  const a = boxMean(boxMean(across, radius), radius);
  const d = boxMean(boxMean(down, radius), radius);
  const out = newPlane(width, height);
  for (let i = 0; i < out.data.length; i++)
    out.data[i] = Math.min(1, Math.max(0, ((a.data[i]! - d.data[i]!) / (a.data[i]! + d.data[i]! + 1e-5) - 0.1) / 0.4));
  return out;
}

/** The row that best parts sky from ground, weighed against where horizons usually lie. */
function findHorizon(sky: Plane, ground: Plane): number {
  const { width, height } = sky;
  const mean = (plane: Plane, y: number): number => {
    let s = 0;
    for (let x = 0; x < width; x++) s += plane.data[y * width + x]!;
    return s / width;
  };
  let above = 0;
  let below = 0;
  for (let y = 0; y < height; y++) below += mean(ground, y);
  let best = -Infinity;
  let horizon = USUAL_HORIZON * height;
  for (let y = 0; y < height; y++) {
    const t = (y / height - USUAL_HORIZON) / HORIZON_SPREAD;
    const score = (above + below) / height - 0.08 * t * t;
    if (score > best) {
      best = score;
      horizon = y;
    }
    above += mean(sky, y) - 0.3;
    below -= mean(ground, y) - 0.3;
  }
  return Math.min(0.7 * height, horizon);
}
