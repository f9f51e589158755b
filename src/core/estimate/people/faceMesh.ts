import { convolve, type Maps, type Taps } from '../../kernels/convolveHost';
import { largestOfFour } from '../face/tensors';
import { addTo, dense, sigmoid } from '../network/layers';

/** Layers that the network has. */
export const FACE_LAYERS = 68;
/** px, each way, of what it is shown. */
export const FACE_SIDE = 192;
/** Points of its surface. */
export const FACE_POINTS = 468;

/** A face's surface. */
export interface FaceMesh {
  /** x, y and depth of each point, px of what was shown; what is farther has more depth, the middle of the head about none */
  readonly points: Float32Array;
  /** how surely it is a face, 0..1 */
  readonly score: number;
}

/** Some of what lies below zero is let through, of each plane its own share (He, Zhang, Ren & Sun 2015), in place. */
function bent(maps: Maps, { weights }: Taps): Maps {
  const n = maps.width * maps.height;
  for (let c = 0; c < maps.channels; c++) {
    const share = weights[c]!;
    for (let i = c * n; i < (c + 1) * n; i++) if (maps.data[i]! < 0) maps.data[i]! *= share;
  }
  return maps;
}

/** The same planes with more that are empty after them. */
function widened(maps: Maps, channels: number): Maps {
  if (channels === maps.channels) return maps;
  const data = new Float32Array(channels * maps.width * maps.height);
  data.set(maps.data);
  return { ...maps, channels, data };
}

/** Blocks of the network, in their order: whether each halves the size. */
const HALVING: readonly boolean[] = [false, false, true, false, false, true, false, false, true, false, false, true, false, false];
/** Blocks of the mesh alone: after the first it goes on with fewer planes. */
const MESH: readonly boolean[] = [true, false, false];

/** One block (after Bazarevsky et al. 2019): plane by plane, then all planes at each pixel, and what came in added. */
function block(maps: Maps, halves: boolean, next: () => Taps): Maps {
  const apart = convolve(maps, next(), 'none', halves ? 2 : 1);
  const taps = next();
  const together = convolve(apart, taps, 'none');
  return bent(addTo(together, widened(halves ? largestOfFour(maps, 2) : maps, taps.outputs)), next());
}

/**
 * The surface of a face that fills about two thirds of a square picture of 192 px, upright (Kartynnik et al. 2019), and how surely there is one. 8-bit sRGB values 0..1,
 * three planes. Weights: see NOTICE.
 */
export function faceMesh(rgb: Maps, layers: readonly Taps[]): FaceMesh {
  let at = 0;
  const next = (): Taps => layers[at++]!;
  let shared = bent(convolve(rgb, next(), 'none', 2), next());
  for (const halves of HALVING) shared = block(shared, halves, next);
  let mesh = shared;
  for (const halves of MESH) mesh = block(mesh, halves, next);
  mesh = bent(convolve(mesh, next(), 'none'), next());
  mesh = block(mesh, false, next);
  const points = dense(mesh.data, next());
  let told = block(shared, true, next);
  told = bent(convolve(told, next(), 'none'), next());
  told = block(told, false, next);
  return { points, score: sigmoid(dense(told.data, next())[0]!) };
}
