import { guidedEnlarge, picturesRows } from '../kernels/guidedHost';
import { linearToOklab } from '../raster/colour';
import { boxMean, gradient } from '../raster/filters';
import { newPlane, type Picture, type Plane, type Raster } from '../picture';
import { enlargeSmoothly, fitLongSide, rasterRow, sampleRaster, shrinkPicture, stretch } from '../raster/resample';
import { cues } from './cues/registry';
import type { CueInput } from './cue';
import { fuseCues } from './fuse';
import type { Quality } from '../need/estimators';
import { registryOf } from '../values/registry';
import { findLayout } from './layout';
import { trainedNearness, type NetworkView } from './network/network';
import type { Encoded } from './network/unet';
import { faceIn, peopleIn } from './people/people';
import type { Person } from './people/person';
import { believedIn, withPeople } from './people/whole';
import { patchEdges, superpixels } from './superpixels';
import { plateAtSize } from './plateAtSize';
import { unitRange } from './unitRange';

interface Scale {
  /** long side worked on, px */
  readonly side: number;
  readonly patches: number;
}

interface Method {
  readonly kind: Quality;
  /** size of the map, long side, px */
  readonly side: number;
  /** working sizes whose estimates by cues are averaged */
  readonly scales: readonly Scale[];
  /** how the network is asked */
  readonly views: readonly NetworkView[];
  /** how far the network is believed against the cues in the estimate between them, whose coarse shape is taken over */
  readonly trained: number;
  /** share of that coarse shape which is; all that is finer is the network's alone, but for things that surely stand. Null: all of the estimate between */
  readonly coarse: number | null;
}

/** A draft asks the network at two small sizes, whose grids do not fall together, and does with what lies between it and the cues. */
export const methodRegistry = registryOf<Method>('method of estimate', [
  {
    kind: 'draft',
    side: 256,
    scales: [{ side: 160, patches: 150 }],
    views: [
      { area: 240 * 160, mirrored: false },
      { area: 288 * 192, mirrored: false },
    ],
    trained: 0.75,
    coarse: null,
  },
  {
    kind: 'fine',
    side: 576,
    scales: [
      { side: 160, patches: 150 },
      { side: 256, patches: 350 },
    ],
    views: [
      { area: 448 * 448, mirrored: false },
      { area: 288 * 192, mirrored: true },
      { area: 192 * 128, mirrored: true },
    ],
    trained: 0.72,
    coarse: 0.3,
  },
]);

/** Along the picture's edges, firmly: radius in px of the map, and variance below which a surface counts as even. */
const SNAP_RADIUS = 4;
const SNAP_EPSILON = 1e-5;

/** A copy of the plate small enough to work on. */
export const workingPicture = (raster: Raster, side: number): Picture => plateAtSize(raster, fitLongSide(raster, side));

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

interface CueEstimate {
  readonly map: Plane;
  /** how surely a thing stands upright on the ground, 0..1: its foot then tells how near it is */
  readonly standing: Plane;
}

/** One estimate at one working size; null where it was stopped. */
function estimateAt(from: Picture, { side, patches }: Scale, progress: (share: number) => boolean): CueEstimate | null {
  const size = fitLongSide(from, side);
  const picture = shrinkPicture(from, size.width, size.height);
  if (!progress(0.1)) return null;
  const input = readPicture(picture, patches);
  const results = [];
  for (const [index, cue] of cues.entries()) {
    if (!progress(0.3 + (0.3 * index) / cues.length)) return null;
    results.push(cue.run(input));
  }
  const fused: Plane = { width: picture.width, height: picture.height, data: fuseCues(input, results) };
  if (!progress(0.9)) return null;
  const radius = Math.max(1, Math.round(picture.height / 120));
  return { map: unitRange(guidedEnlarge(picture, fused, radius, 4e-4, picturesRows(picture))), standing: input.layout.standing };
}

const LEVELS = 1024;

/**
 * Gives a map, in place, the distribution of values of another and keeps its own order. The network tells order; the cues know that a
 * ground falls with the inverse of distance.
 */
function shapeLike(map: Plane, like: Plane): void {
  const quantiles = (p: Plane): Float32Array => {
    const sorted = p.data.slice().sort();
    return Float32Array.from({ length: LEVELS + 1 }, (_, k) => sorted[Math.round((k / LEVELS) * (sorted.length - 1))]!);
  };
  const [from, to] = [quantiles(map), quantiles(like)];
  for (let i = 0; i < map.data.length; i++) {
    const v = map.data[i]!;
    let [a, b] = [0, LEVELS];
    while (b - a > 1) {
      const m = (a + b) >> 1;
      if (from[m]! <= v) a = m;
      else b = m;
    }
    const span = from[b]! - from[a]!;
    const t = span > 0 ? Math.min(1, (v - from[a]!) / span) : 0.5;
    map.data[i] = to[a]! + (to[b]! - to[a]!) * t;
  }
}

/**
 * Depth estimated from one picture: what a trained network reads at several sizes and in mirror images (network/), its coarse shape drawn
 * towards published monocular cues (see cues/), fused by confidence over superpixels; snapped to the picture's edges (guided filter:
 * He, Sun & Tang 2013). The cues' own edges are mottled and are left out.
 * Returns raw nearness 0..1 in plate framing. `progress` gets the share done and stops the work by returning false; the result
 * is then null.
 */
export function estimateDepth(raster: Raster, quality: Quality, progress: (share: number) => boolean = () => true): Plane | null {
  const { side, scales, views, trained: believed, coarse: share } = methodRegistry.named(quality);
  const picture = workingPicture(raster, side);
  const { width, height } = picture;
  const mean = newPlane(width, height);
  const standing = newPlane(width, height);
  const cost = scales.reduce((sum, s) => sum + s.patches, 0);
  let done = 0;
  for (const scale of scales) {
    const cues = estimateAt(picture, scale, (share) => progress((0.3 * (done + share * scale.patches)) / cost));
    if (!cues) return null;
    done += scale.patches;
    const add = (plane: Plane, to: Plane): void => {
      const placed = enlargeSmoothly(plane, width, height);
      for (let i = 0; i < to.data.length; i++) to.data[i]! += placed.data[i]! / scales.length;
    };
    add(cues.map, mean);
    add(cues.standing, standing);
  }
  const read: Encoded[] = [];
  const network = trainedNearness(
    picture,
    views,
    (share) => progress(0.3 + 0.6 * share),
    (encoded) => read.push(encoded),
  );
  if (!network) return null;
  const trained = unitRange(enlargeSmoothly(network, width, height));
  const between = { ...mean, data: mean.data.map((v, i) => v + believed * (trained.data[i]! - v)) };
  shapeLike(between, mean);
  const found = peopleIn(raster, picture, read, (share) => progress(0.9 + 0.05 * share));
  if (!found) return null;
  const alone = share === null ? between : drawTowards(trained, between, standing, share);
  const people: Person[] = [];
  for (const person of believedIn(alone, found)) {
    if (!progress(0.95)) return null;
    people.push({ ...person, face: faceIn(raster, person) });
  }
  const drawn = withPeople(alone, people);
  if (!progress(0.97)) return null;
  const [radius, epsilon] = share === null ? [Math.max(1, Math.round(height / 120)), 4e-4] : [SNAP_RADIUS, SNAP_EPSILON];
  const snapped = unitRange(guidedEnlarge(picture, drawn, radius, epsilon, picturesRows(picture)));
  progress(1);
  return snapped;
}

/**
 * A map whose coarse shape is drawn towards another's by a share, and that becomes the other where something surely stands on the ground: it
 * has the nearness of its foot, which the cues know.
 */
function drawTowards(map: Plane, other: Plane, standing: Plane, share: number): Plane {
  const radius = Math.max(1, Math.round(map.height / 8));
  const apart = { ...other, data: other.data.map((v, i) => v - map.data[i]!) };
  const coarse = boxMean(boxMean(apart, radius), radius);
  return {
    ...map,
    data: map.data.map((v, i) => {
      const shape = share * coarse.data[i]!;
      return v + shape + standing.data[i]! * (apart.data[i]! - shape);
    }),
  };
}

/** Where a plate's horizon seems to lie: share of its height from the top; it may lie outside the picture. */
export function findPlateHorizon(raster: Raster): number {
  const picture = workingPicture(raster, 256);
  return readPicture(picture, 350).layout.horizon / picture.height;
}

/** An estimate brought to the size of its plate, along the picture's edges (fast guided filter, He & Sun 2015). */
export function enlargeEstimate(map: Plane, raster: Raster): Plane {
  const guide = sampleRaster(raster, stretch(raster, map.width, map.height), map.width, map.height);
  const rows = { width: raster.width, height: raster.height, readRow: (y: number, row: Float32Array) => rasterRow(raster, y, row) };
  const out = guidedEnlarge(guide, map, 2, 1e-4, rows);
  for (let i = 0; i < out.data.length; i++) out.data[i] = Math.min(1, Math.max(0, out.data[i]!));
  return out;
}
