import type { Maps, Taps } from '../../kernels/convolveHost';
import { linearToSrgb } from '../../raster/colour';
import { newPlane, type Picture, type Plane } from '../../raster/picture';
import { samplePlaneLinear, shrinkPicture, stretch } from '../../raster/resample';
import { weightBytes } from './build/weightBytes';
import { deepAnswer } from './deep';
import { readLayers } from './layers';
import { plainAnswer } from './plain';

interface Network {
  /** area, px, that it was taught at, and what its sides are whole multiples of */
  readonly area: number;
  readonly step: number;
  /** how far it is believed against the other */
  readonly share: number;
  readonly answer: (rgb: Maps, layers: readonly Taps[]) => Plane;
}

/** Taught on different scenes and built differently, they err differently: their mean errs less than either. */
const NETWORKS: Readonly<Record<keyof typeof weightBytes, Network>> = {
  deep: { area: 288 * 192, step: 32, share: 0.75, answer: deepAnswer },
  plain: { area: 192 * 128, step: 16, share: 0.25, answer: plainAnswer },
};

export type NetworkName = keyof typeof NETWORKS;
export const networkNames = Object.keys(NETWORKS) as readonly NetworkName[];

const read: Partial<Record<NetworkName, readonly Taps[]>> = {};

/** One network's answer to a picture of 8-bit sRGB values 0..1, three planes: half its size, near is 1. */
export function answer(name: NetworkName, rgb: Maps): Plane {
  return NETWORKS[name].answer(rgb, (read[name] ??= readLayers(weightBytes[name])));
}

/** What one network reads in a picture; `mirrored` also asks it of the mirrored picture and takes the mean. */
function ask(name: NetworkName, picture: Picture, mirrored: boolean): Plane {
  const { area, step } = NETWORKS[name];
  const aspect = picture.width / picture.height;
  const side = (length: number): number => Math.max(2 * step, step * Math.round(length / step));
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
  const out = answer(name, { channels: 3, width, height, data: straight });
  if (!mirrored) return out;
  const other = answer(name, { channels: 3, width, height, data: turned });
  const mirror = (i: number): number => i - 2 * (i % out.width) + out.width - 1;
  return { ...out, data: out.data.map((v, i) => (v + other.data[mirror(i)]!) / 2) };
}

/**
 * Nearness that taught networks (training/) read in a picture (Ronneberger, Fischer & Brox 2015): 0..1, at half the size that the first
 * of them reads it at (144x96 or 96x64, about). `mirrored` also asks them of the mirrored picture and takes the mean.
 */
export function taughtNearness(picture: Picture, names: readonly NetworkName[], mirrored: boolean): Plane {
  const whole = names.reduce((sum, name) => sum + NETWORKS[name].share, 0);
  const answers = names.map((name) => ({ map: ask(name, picture, mirrored), share: NETWORKS[name].share / whole }));
  const { width, height } = answers[0]!.map;
  const out = newPlane(width, height);
  for (const { map, share } of answers) {
    const placed = samplePlaneLinear(map, stretch(map, width, height), width, height);
    for (let i = 0; i < out.data.length; i++) out.data[i]! += share * placed.data[i]!;
  }
  for (let i = 0; i < out.data.length; i++) out.data[i] = Math.min(1, Math.max(0, out.data[i]!));
  return out;
}
