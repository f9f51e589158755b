import type { Plane } from '../../core/picture';
import type { Fit } from '../../core/depth/layers/mapLayer';
import { mapAsNearness, type MapFile } from './mapFile';
import type { MapReading } from '../mapFacts';

/** How a map is best brought in, as far as the file and the picture tell. */
export interface MapProposal {
  readonly reading: MapReading;
  readonly turnOver: boolean;
  readonly fit: Fit;
  /** metres of the near and the far end, where the map carries them */
  readonly ends: { readonly near: number; readonly far: number } | null;
  /** rank correlation of the map, as read, with the estimate from the picture, −1..1; null without an estimate */
  readonly agreement: number | null;
  /** what decided which end is near */
  readonly because: 'file' | 'estimate' | 'custom';
}

const GRID = 96;
/** From this correlation on the estimate is believed against custom. */
const TELLING = 0.12;
/** Shapes that differ by less are taken for the same. */
const SAME_SHAPE = 0.02;

/** Spearman's rank correlation of two maps laid over each other, on a grid; what is no number is left out. */
export function rankCorrelation(a: Plane, b: Plane): number {
  const pairs: [number, number][] = [];
  for (let j = 0; j < GRID; j++)
    for (let i = 0; i < GRID; i++) {
      const at = (p: Plane): number => p.data[Math.floor(((j + 0.5) / GRID) * p.height) * p.width + Math.floor(((i + 0.5) / GRID) * p.width)]!;
      const [x, y] = [at(a), at(b)];
      if (x === x && y === y) pairs.push([x, y]);
    }
  const ranks = (k: 0 | 1): Float64Array => {
    const order = Array.from(pairs.keys()).sort((p, q) => pairs[p]![k] - pairs[q]![k]);
    const out = new Float64Array(pairs.length);
    for (let i = 0; i < order.length;) {
      let j = i;
      while (j < order.length && pairs[order[j]!]![k] === pairs[order[i]!]![k]) j++;
      for (let m = i; m < j; m++) out[order[m]!] = (i + j - 1) / 2;
      i = j;
    }
    return out;
  };
  const [ra, rb] = [ranks(0), ranks(1)];
  const mean = (pairs.length - 1) / 2;
  let [ab, aa, bb] = [0, 0, 0];
  for (let i = 0; i < pairs.length; i++) {
    ab += (ra[i]! - mean) * (rb[i]! - mean);
    aa += (ra[i]! - mean) ** 2;
    bb += (rb[i]! - mean) ** 2;
  }
  return aa > 0 && bb > 0 ? ab / Math.sqrt(aa * bb) : 0;
}

/** Proposes how to read, turn and fit a map for a plate. `estimate` is depth estimated from that plate, white near. */
export function proposeMap(map: MapFile, plate: { width: number; height: number }, estimate: Plane | null): MapProposal {
  const { facts } = map;
  const shape = facts.width / facts.height / (plate.width / plate.height);
  const fit: Fit = Math.abs(Math.log(shape)) < SAME_SHAPE ? 'stretch' : 'cover';
  const asStored = estimate ? rankCorrelation(map.plane, estimate) : null;
  const beyond = facts.float && facts.low >= 0 && facts.high > 1.0001;
  // large float numbers that grow away from the camera are distances, whatever the file says of them
  const reading: MapReading =
    facts.reading === 'distance' || (beyond && facts.smallIsNear === null && asStored !== null && asStored < -TELLING) ? 'distance' : 'grey';
  if (reading === 'distance') {
    const { plane, ends } = mapAsNearness(map, 'distance');
    return {
      reading,
      turnOver: false,
      fit,
      ends: facts.ends ?? ends,
      agreement: estimate && rankCorrelation(plane, estimate),
      because: facts.reading === 'distance' ? 'file' : 'estimate',
    };
  }
  const told = facts.smallIsNear;
  const turnOver = told ?? (asStored !== null && asStored < -TELLING);
  return {
    reading,
    turnOver,
    fit,
    ends: facts.ends,
    agreement: asStored === null ? null : turnOver ? -asStored : asStored,
    because: told !== null ? 'file' : asStored !== null && Math.abs(asStored) >= TELLING ? 'estimate' : 'custom',
  };
}
