import { OmbrageError } from '../../error';
import type { Maps, Taps } from '../../kernels/convolveHost';
import { newPlane, type Picture, type Plane } from '../../picture';
import { samplePlaneLinear, shrinkPicture, stretch } from '../../raster/resample';
import { mirrored, planesOf, readLayers } from './layers';
import { encode, unetAnswer, type Encoded } from './unet';

/** Sides are whole multiples of this, px. */
const STEP = 32;

let layers: readonly Taps[] | null = null;

/** Gives the network what it was trained to: the bytes of training/network.bin, from wherever they are kept. */
export const provideNetwork = (file: Uint8Array): void => void (layers = readLayers(file));

export const networkIsThere = (): boolean => layers !== null;

/** The network's answer to a picture of 8-bit sRGB values 0..1, three planes: half its size, near is 1. `seen` gets what its encoder read. Throws before it was provided. */
export function answer(rgb: Maps, seen?: (encoded: Encoded) => void): Plane {
  if (!layers) throw new OmbrageError('no-network', 'The network that estimates depth is not loaded.', 'Reload the page.');
  const encoded = encode(rgb, layers);
  seen?.(encoded);
  return unetAnswer(encoded, layers);
}

/** How the network is asked once: of a picture made so many px large, and of its mirror image as well. */
export interface NetworkView {
  readonly area: number;
  readonly mirrored: boolean;
}

/** What the network reads in a picture made so many px large; `mirrored` also asks it of the mirrored picture and takes the mean. */
function ask(picture: Picture, { area, mirrored: both }: NetworkView, seen?: (encoded: Encoded) => void): Plane {
  const aspect = picture.width / picture.height;
  const side = (length: number): number => Math.max(2 * STEP, STEP * Math.round(length / STEP));
  const shown = planesOf(shrinkPicture(picture, side(Math.sqrt(area * aspect)), side(Math.sqrt(area / aspect))));
  const out = answer(shown, seen);
  if (!both) return out;
  const turned = mirrored({ channels: 1, ...answer(mirrored(shown)) });
  return { ...out, data: out.data.map((v, i) => (v + turned.data[i]!) / 2) };
}

/**
 * Nearness that a trained network (training/) reads in a picture (Ronneberger, Fischer & Brox 2015): 0..1, at half the first of the sizes
 * that it is asked at; their answers err differently, and the mean is taken. `progress` gets the share done; null where
 * it answers false. `seen` gets what the encoder read in each of them.
 */
export function trainedNearness(
  picture: Picture,
  views: readonly NetworkView[],
  progress: (share: number) => boolean = () => true,
  seen?: (encoded: Encoded) => void,
): Plane | null {
  const costOf = (view: NetworkView): number => view.area * (view.mirrored ? 2 : 1);
  const whole = views.reduce((sum, view) => sum + costOf(view), 0);
  const answers: Plane[] = [];
  let done = 0;
  for (const view of views) {
    answers.push(ask(picture, view, seen));
    done += costOf(view);
    if (!progress(done / whole)) return null;
  }
  const { width, height } = answers[0]!;
  const out = newPlane(width, height);
  for (const map of answers) {
    const placed = samplePlaneLinear(map, stretch(map, width, height), width, height);
    for (let i = 0; i < out.data.length; i++) out.data[i]! += placed.data[i]! / answers.length;
  }
  for (let i = 0; i < out.data.length; i++) out.data[i] = Math.min(1, Math.max(0, out.data[i]!));
  return out;
}
