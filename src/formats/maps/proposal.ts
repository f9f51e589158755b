import type { Plane } from '../../core/picture';
import { rankCorrelation } from '../../core/estimate/score';
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

/** From this correlation on the estimate is believed against custom. */
const TELLING = 0.12;
/** Shapes that differ by less are taken for the same. */
const SAME_SHAPE = 0.02;

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
