import { guidedEnlarge, picturesRows } from '../kernels/guidedHost';
import { linearToOklab } from '../raster/colour';
import { boxMean, gradient, quantile } from '../raster/filters';
import { newPlane, type Picture, type Plane, type Raster } from '../raster/picture';
import { fitLongSide, sampleRaster, stretch, thinRaster } from '../raster/resample';
import { cues } from './cues/registry';
import type { CueInput } from './cue';
import { fuseCues } from './fuse';
import { findLayout } from './layout';
import { patchEdges, superpixels } from './superpixels';

export type Quality = 'draft' | 'fine';

/** Working size (long side, px) and number of patches. */
const QUALITIES: Record<Quality, { side: number; patches: number }> = {
  draft: { side: 256, patches: 350 },
  fine: { side: 576, patches: 1400 },
};

/** Raised when the estimate's method changes, so that kept maps are made anew. */
export const ESTIMATE_VERSION = 1;

/** A copy of the plate small enough to work on. Large plates are read in steps: the eye of the estimate is not that sharp. */
export function workingPicture(raster: Raster, quality: Quality): Picture {
  const size = fitLongSide(raster, QUALITIES[quality].side);
  const skip = Math.max(1, Math.floor(raster.width / size.width / 3));
  const small = thinRaster(raster, skip);
  return sampleRaster(small, stretch(small, size.width, size.height), size.width, size.height);
}

function readPicture(picture: Picture, wanted: number): CueInput {
  const { width, height, data } = picture;
  const planes = Array.from({ length: 7 }, () => newPlane(width, height));
  for (let i = 0; i < width * height; i++) {
    const [r, g, b] = [data[i * 4]!, data[i * 4 + 1]!, data[i * 4 + 2]!];
    const lab = linearToOklab(r, g, b);
    planes[0]!.data[i] = lab[0];
    planes[1]!.data[i] = 2 * lab[1];
    planes[2]!.data[i] = 2 * lab[2];
    planes[3]!.data[i] = r;
    planes[4]!.data[i] = g;
    planes[5]!.data[i] = b;
  }
  const radius = Math.max(1, Math.round(Math.max(width, height) / 280));
  const [lightness, a, b] = planes.slice(0, 3).map((p) => boxMean(p, radius)) as [Plane, Plane, Plane];
  const patches = superpixels([lightness, a, b], wanted);
  const edges = patchEdges(patches, gradient(lightness));
  const input = { width, height, lightness, a, b, red: planes[3]!, green: planes[4]!, blue: planes[5]!, detail: planes[0]!, patches, edges };
  return { ...input, layout: findLayout(input) };
}

/**
 * Depth estimated from one picture without a network: published monocular cues (see cues/), fused by confidence over
 * superpixels and snapped to the picture's edges. Returns raw nearness 0..1 at the working size, in plate framing.
 * `progress` gets the share done and stops the work by returning false; the result is then null.
 */
export function estimateDepth(raster: Raster, quality: Quality, progress: (share: number) => boolean = () => true): Plane | null {
  const picture = workingPicture(raster, quality);
  if (!progress(0.2)) return null;
  const input = readPicture(picture, QUALITIES[quality].patches);
  const results = [];
  for (const [index, cue] of cues.entries()) {
    if (!progress(0.3 + (0.3 * index) / cues.length)) return null;
    results.push(cue.run(input));
  }
  const fused: Plane = { width: picture.width, height: picture.height, data: fuseCues(input, results) };
  if (!progress(0.9)) return null;
  const radius = Math.max(1, Math.round(picture.height / 120));
  const snapped = guidedEnlarge(picture, fused, radius, 4e-4, picturesRows(picture));
  const low = quantile(snapped, 0.005);
  const high = Math.max(low + 1e-3, quantile(snapped, 0.995));
  for (let i = 0; i < snapped.data.length; i++) snapped.data[i] = Math.min(1, Math.max(0, (snapped.data[i]! - low) / (high - low)));
  progress(1);
  return snapped;
}

/** An estimate brought to the size of its plate, along the picture's edges (fast guided filter, He & Sun 2015). */
export function enlargeEstimate(map: Plane, raster: Raster): Plane {
  const guide = sampleRaster(raster, stretch(raster, map.width, map.height), map.width, map.height);
  const rows = {
    width: raster.width,
    height: raster.height,
    readRow: (y: number, row: Float32Array) => {
      const strip = sampleRaster(raster, { a: 1, b: 0, c: 0, d: 0, e: 1, f: y }, raster.width, 1);
      row.set(strip.data);
    },
  };
  const out = guidedEnlarge(guide, map, 2, 1e-4, rows);
  for (let i = 0; i < out.data.length; i++) out.data[i] = Math.min(1, Math.max(0, out.data[i]!));
  return out;
}
