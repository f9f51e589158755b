import type { Maps, Taps } from '../../kernels/convolveHost';
import { linearToSrgb } from '../../raster/colour';
import { newPlane, type Picture, type Plane } from '../../raster/picture';
import { samplePlaneLinear, shrinkPicture, stretch } from '../../raster/resample';
import { weightBytes } from './build/weightBytes';
import { readLayers } from './layers';
import { unetAnswer } from './unet';

/** Sides are whole multiples of this, px. */
const STEP = 32;

let layers: readonly Taps[] | null = null;

/** The network's answer to a picture of 8-bit sRGB values 0..1, three planes: half its size, near is 1. */
export const answer = (rgb: Maps): Plane => unetAnswer(rgb, (layers ??= readLayers(weightBytes)));

/** What the network reads in a picture made so many px large; `mirrored` also asks it of the mirrored picture and takes the mean. */
function ask(picture: Picture, area: number, mirrored: boolean): Plane {
  const aspect = picture.width / picture.height;
  const side = (length: number): number => Math.max(2 * STEP, STEP * Math.round(length / STEP));
  const small = shrinkPicture(picture, side(Math.sqrt(area * aspect)), side(Math.sqrt(area / aspect)));
  const { width, height } = small;
  const n = width * height;
  const [straight, turned] = [new Float32Array(3 * n), new Float32Array(3 * n)];
  for (let i = 0; i < n; i++) {
    const m = i - (i % width) + width - 1 - (i % width);
    for (let k = 0; k < 3; k++) {
      const v = linearToSrgb(Math.min(1, Math.max(0, small.data[i * 4 + k]!)));
      straight[k * n + i] = v;
      turned[k * n + m] = v;
    }
  }
  const out = answer({ channels: 3, width, height, data: straight });
  if (!mirrored) return out;
  const other = answer({ channels: 3, width, height, data: turned });
  const mirror = (i: number): number => i - 2 * (i % out.width) + out.width - 1;
  return { ...out, data: out.data.map((v, i) => (v + other.data[mirror(i)]!) / 2) };
}

/**
 * Nearness that a taught network (training/) reads in a picture (Ronneberger, Fischer & Brox 2015): 0..1, at half the first of the sizes
 * that it is asked at (`areas`, px); their answers err differently, and the mean is taken.
 */
export function taughtNearness(picture: Picture, areas: readonly number[], mirrored: boolean): Plane {
  const answers = areas.map((area) => ask(picture, area, mirrored));
  const { width, height } = answers[0]!;
  const out = newPlane(width, height);
  for (const map of answers) {
    const placed = samplePlaneLinear(map, stretch(map, width, height), width, height);
    for (let i = 0; i < out.data.length; i++) out.data[i]! += placed.data[i]! / answers.length;
  }
  for (let i = 0; i < out.data.length; i++) out.data[i] = Math.min(1, Math.max(0, out.data[i]!));
  return out;
}
