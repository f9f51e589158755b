import { OmbrageError } from '../../core/error';
import type { MapNeed } from '../../core/need/need';
import { estimatesOf, mapFrameAt, seriesOf, type ClipDepthSpec } from '../../core/motion/clipSpec';
import { findCuts, frameSign, type FrameSign } from '../../core/motion/cuts';
import { flickersOf } from '../../core/motion/flicker';
import { fromKeys } from '../../core/motion/keyMaps';
import { linksOf } from '../../core/motion/links';
import type { Levels } from '../../core/motion/align';
import { keyFrames, piecesOfScene, scenesOf, type Piece, type Span } from '../../core/motion/plan';
import { steadyMaps } from '../../core/motion/steady';
import { motionView, MOTION_SIDE } from '../../core/motion/view';
import type { Plane } from '../../core/picture';
import { samplePlaneLinear, stretch } from '../../core/raster/resample';
import { pushPull } from '../../core/raster/pushPull';
import { glanceAt, type ClipReader } from '../../media/clip';
import type { Flickers } from '../messages/clipJobs';

/** How far a clip has been made steady: whole pieces from its range's first frame on, and what the next one begins with. */
export interface SteadyProgress extends Span {
  readonly every: number;
  /** the first frame that is still to be done */
  readonly next: number;
  readonly flickers: Flickers;
  /** levels of the frames done last */
  readonly levels: readonly (readonly [number, Levels])[];
}

/** Where the maps of a clip's frames are read and kept, and how far they are steady. */
export interface FrameStore {
  keptFrame(series: string, frame: number): Promise<Plane | null>;
  keepFrame(series: string, frame: number, plane: Plane): Promise<void>;
  keptProgress(series: string): Promise<SteadyProgress | null>;
  keepProgress(series: string, progress: SteadyProgress): Promise<void>;
}

/** Where the frames of a clip come from, and those of a clip of maps. */
export interface ClipFootage {
  readonly clip: Pick<ClipReader, 'frame' | 'glance'>;
  mapAt(need: MapNeed): Promise<Plane>;
}

/** Long side at which cuts are looked for. */
const CUT_SIDE = 240;

/** Frames of a range that begin a new scene. `onProgress` hears the share done, and throws where it is not wanted any more. */
export async function cutsOf(clip: ClipFootage['clip'], { from, to }: Span, onProgress: (share: number) => void): Promise<readonly number[]> {
  const signs: FrameSign[] = [];
  for (let f = from; f <= to; f++) {
    onProgress((f - from) / (to - from + 1));
    signs.push(await glanceAt(clip, f, (raster) => frameSign(motionView(raster, CUT_SIDE))));
  }
  return findCuts(signs).map((t) => t + from);
}

/** A map at another size. */
const sized = (plane: Plane, width: number, height: number): Plane =>
  plane.width === width && plane.height === height ? plane : samplePlaneLinear(plane, stretch(plane, width, height), width, height);

/**
 * Carries the estimates of a clip to all its frames along flow, and makes them steady; each finished frame is kept. Scenes are done one by one,
 * long ones in pieces; what was broken off before goes on after the last whole piece. Throws what `onProgress` throws.
 */
export async function steadyClip(
  spec: ClipDepthSpec,
  footage: ClipFootage,
  store: FrameStore,
  onProgress: (share: number) => void,
): Promise<Flickers> {
  const { from, to } = spec;
  const total = to - from + 1;
  const series = seriesOf(spec);
  const kept = await store.keptProgress(series);
  const begun = kept?.from === from && kept.to === to && kept.every === spec.every ? kept : null;
  const before = begun?.flickers.before.slice() ?? new Array<number | null>(total).fill(null);
  const after = begun?.flickers.after.slice() ?? new Array<number | null>(total).fill(null);
  // levels of what the next piece of a scene begins with
  let known: ReadonlyMap<number, Levels> = new Map(begun?.levels);
  for (const scene of scenesOf(spec, spec.cuts)) {
    for (const piece of piecesOfScene(scene, spec.every)) {
      if (piece.to < (begun?.next ?? from)) continue;
      const share = (s: number): void => onProgress((piece.own - from + s * (piece.to - piece.own + 1)) / total);
      const fresh = piece.own === scene.from;
      const made = await steadyPiece(spec, piece, fresh ? new Map() : known, footage, store, share);
      for (let f = piece.own; f <= piece.to; f++) {
        before[f - from] = made.before[f - piece.from] ?? null;
        after[f - from] = made.after[f - piece.from] ?? null;
      }
      known = made.levels;
      await store.keepProgress(series, { from, to, every: spec.every, next: piece.to + 1, flickers: { before, after }, levels: [...known] });
    }
  }
  return { before, after };
}

/** The map that a frame begins with. */
async function mapAt({ of, source }: ClipDepthSpec, frame: number, footage: ClipFootage, store: FrameStore): Promise<Plane | null> {
  if (source.is === 'estimate') return store.keptFrame(estimatesOf({ of, source })!, frame);
  const { offset, ...read } = source;
  // what is not known would spread: it is filled from around
  return pushPull(await footage.mapAt({ ...read, frame: mapFrameAt(read.ref, offset, of, frame) }));
}

async function steadyPiece(
  spec: ClipDepthSpec,
  piece: Piece,
  known: ReadonlyMap<number, Levels>,
  footage: ClipFootage,
  store: FrameStore,
  onProgress: (share: number) => void,
): Promise<Flickers & { readonly levels: ReadonlyMap<number, Levels> }> {
  const keys = new Set(keyFrames(piece, spec.every));
  const count = piece.to - piece.from + 1;
  const lumas: Plane[] = [];
  const found: (Plane | null)[] = [];
  let side = MOTION_SIDE;
  for (let f = piece.from; f <= piece.to; f++) {
    onProgress((0.15 * (f - piece.from)) / count);
    const map = keys.has(f) ? await mapAt(spec, f, footage, store) : null;
    if (keys.has(f) && !map) throw new OmbrageError('depth-missing', `The depth of frame ${f} is missing.`, 'Find depth for the clip again.');
    // a careful estimate is sharper than what motion is looked at by default; the first frame has a map
    if (map && f === piece.from) side = Math.max(side, map.width, map.height);
    const { luma } = await glanceAt(footage.clip, f, (raster) => motionView(raster, side));
    lumas.push(luma);
    found.push(map && sized(map, luma.width, luma.height));
  }
  const links = linksOf(lumas, [], undefined, (share) => onProgress(0.15 + 0.45 * share));
  const maps = spec.every === 1 ? found.map((m) => m!) : fromKeys(found, lumas, links, (share) => onProgress(0.6 + 0.2 * share));
  const pinned = new Map([...known].map(([f, levels]) => [f - piece.from, levels]));
  const { steady: strength, every, parallax = false } = spec;
  const steadied = steadyMaps(maps, lumas, links, { strength, every, pinned, parallax }, (share) => onProgress(0.8 + 0.15 * share));
  const series = seriesOf(spec);
  for (let f = piece.own; f <= piece.to; f++) {
    onProgress(0.95 + (0.05 * (f - piece.own)) / count);
    await store.keepFrame(series, f, steadied.maps[f - piece.from]!);
  }
  return {
    before: flickersOf(maps, links.before),
    after: flickersOf(steadied.maps, links.before),
    levels: new Map(steadied.levels.map((l, t) => [t + piece.from, l])),
  };
}
