import * as Comlink from 'comlink';
import * as z from 'zod';
import { OmbrageError } from '../../core/error';
import { QUICKEST, type Quality } from '../../core/need/estimators';
import type { RasterNeed } from '../../core/need/need';
import { quantile } from '../../core/raster/filters';
import { kernelBytes } from '../../core/kernels/build/kernelBytes';
import { provideKernels, releaseKernels } from '../../core/kernels/loader';
import type { Size } from '../../core/picture';
import { finishedPicture, resolved } from '../../core/shot/chain';
import { Aborted } from '../../core/run';
import { surveyed } from '../../core/shot/survey';
import { prepareLayers } from '../../core/shot/placing';
import type { ShotRequest } from '../../core/shot/stage';
import type { ClipSpec } from '../../formats/outputs/clips';
import { mapAsNearness, readMapFile } from '../../formats/maps/mapFile';
import type { MapReading } from '../../formats/mapFacts';
import { sha256 } from '../../formats/bytes/sha256';
import { decodeFile, decodeRaster } from '../held/decode';
import { kindOfClip } from '../held/openClip';
import { framesChanged } from '../held/clipFrames';
import { fetchNetwork } from './fetchNetwork';
import { FrameMissing } from '../held/frameMissing';
import {
  cacheForOnce,
  framesFor,
  helper,
  hold,
  idle,
  inputsFor,
  intern,
  letGo,
  mapOf,
  meetHelpers,
  middleNearness,
  plateAt,
  plateOf,
  proxiesAreOthers,
  rendering,
  runFor,
  withClipCache,
  workOn,
  type How,
} from '../held/holding';
import { errorsCross } from '../messages/errors';
import { Newest } from '../messages/newest';
import { pictureBitmap } from '../show/paint';
import type { DecodedStill, Given, PreviewSpec, WorkerApi } from '../messages/protocol';
import { frameOf, outputOf, reliefOf } from './makes';
import { rehearse } from '../show/rehearse';
import { sweepingAfter } from '../memory/sweep';
import { bytesOfSmall, FIRST_PICTURE_SIDE, smallOf } from '../show/small';
import { chapterThumbs, litDistances, showStage } from '../show/show';

// nothing here may be made from text
z.config({ jitless: true });
provideKernels(kernelBytes);
errorsCross();

/** Work of this worker, which does not rest meanwhile. */
const guard = <A extends unknown[], R>(work: (...args: A) => R | Promise<R>): ((...args: A) => Promise<R>) =>
  idle.during(sweepingAfter(async (...args: A) => work(...args)));

/** Work whose code is read when it is first asked for: a worker begins sooner without it. */
const later =
  <A extends unknown[], R>(read: () => Promise<(...args: A) => R | Promise<R>>) =>
  async (...args: A): Promise<R> => {
    const work = await read();
    return work(...args);
  };
const clipWork = () => import('../clip/clipWork');
const cameraWork = () => import('../show/cameraWork');
const estimating = () => import('../../core/estimate/estimate');

/** What a file of a plate holds: of a clip its first frame. */
async function decoded(file: Blob, name: string, metadata: boolean): Promise<DecodedStill> {
  if (await kindOfClip(file)) return (await import('../clip/clipStart')).decodeClipStart(file, name, metadata);
  const { facts, raster, bytes } = await decodeFile(file, name, true, metadata);
  return { facts, raster, sha256: await sha256(bytes) };
}

const bytesOf = async (file: Blob): Promise<Uint8Array> => new Uint8Array(await file.arrayBuffer());

/** What is not newer by then has come to rest, and the small pictures follow. */
const REST_MS = 150;

/** Whether this worker has run everything that the first picture needs. */
let rehearsed = false;
let estimateReady = false;

const api: WorkerApi = {
  decode: guard(async (file: Blob, name: string, metadata: boolean) => {
    const still = await decoded(file, name, metadata);
    if (!metadata) return still;
    const firstPicture = await pictureBitmap(smallOf(still.raster, FIRST_PICTURE_SIDE));
    return Comlink.transfer({ ...still, look: firstPicture }, [firstPicture]);
  }),
  packFrames: guard(later(async () => (await clipWork()).packFrames)),
  readMap: guard(async (file: Blob, name: string, channel: string | null, plate: Size, estimate: string | null) => {
    if (await kindOfClip(file))
      return (await import('../clip/clipStart')).readMapClip(file, name, channel, plate, (estimate !== null && mapOf(estimate)) || null);
    const bytes = await bytesOf(file);
    const map = await readMapFile(bytes, name, channel, decodeRaster);
    const { proposeMap } = await import('../../formats/maps/proposal');
    const proposal = proposeMap(map, plate, (estimate !== null && mapOf(estimate)) || null);
    return { facts: map.facts, proposal, sha256: await sha256(bytes), plane: mapAsNearness(map, proposal.reading).plane };
  }),
  decodeMap: guard(
    async (file: Blob, name: string, channel: string | null, reading: MapReading) =>
      mapAsNearness(await readMapFile(await bytesOf(file), name, channel, decodeRaster), reading).plane,
  ),
  unpackProject: guard(later(async () => (await import('../../formats/project/projectFile')).unpackProject)),
  live: (lock, beats) => {
    if (beats) Newest.beats = beats;
    const { locks } = navigator as { locks?: LockManager };
    if (!lock || !locks) return Promise.resolve(false);
    // held for as long as this worker lives
    return new Promise((holds) => void locks.request(lock, () => new Promise(() => holds(true))));
  },
  ping: () => undefined,
  hold,
  letGo,
  framesChanged,
  proxiesChanged: proxiesAreOthers,
  subject: guard(async (key: string) => {
    const map = mapOf(key);
    if (!map) throw new OmbrageError('map-missing', 'The map is not loaded.', 'Reload the page.');
    const { findSubject } = await import('../../core/estimate/subject');
    return { subject: findSubject(map), far: quantile(map, 0.04) };
  }),
  nearnessAt: guard(middleNearness),
  surroundings: guard(async (file: Blob, name: string) =>
    (await import('../../formats/hdr/surroundings')).readSurroundings(await bytesOf(file), name, decodeRaster),
  ),
  horizon: guard(async (hash: string) => {
    const plate = plateOf(hash);
    return (await estimating()).findPlateHorizon(plate);
  }),
  prepare: guard(async (asked: ShotRequest, sizes: readonly Size[], id: number, words: Int32Array) => {
    workOn(asked.plate, true);
    const newest = new Newest(words);
    const request = intern(asked);
    const how: How = { quick: true, alone: true, progress: () => newest.is(id), id, newest };
    try {
      for (const size of sizes) prepareLayers(resolved({ ...request, size }), inputsFor({}, how));
      if (rehearsed || !sizes[0]) return;
      await rehearse({ ...request, size: sizes[0] }, runFor(how));
      rehearsed = true;
    } catch (error) {
      // frames of a clip are brought when they are looked at
      if (!(error instanceof Aborted || error instanceof FrameMissing)) throw error;
    }
  }),
  preview: guard(
    async (
      asked: PreviewSpec,
      id: number,
      words: Int32Array,
      onPart: Parameters<WorkerApi['preview']>[3],
      onThumbs: Parameters<WorkerApi['preview']>[4],
    ) => {
      workOn(asked.shot.plate, true);
      const newest = new Newest(words);
      if (!newest.is(id)) return false;
      const spec = { ...asked, shot: intern(asked.shot) };
      try {
        const { quick, shot, given } = spec;
        const at = (size: Size) => framesFor({ ...shot, size }, given);
        const has = quick ? await rendering(() => showStage(spec, quick, 'quick', id, newest, onPart), at(quick)) : spec.has;
        await rendering(() => showStage({ ...spec, has }, shot.size, 'full', id, newest, onPart), at(shot.size));
        // while a slider moves the picture comes first
        await new Promise((rested) => setTimeout(rested, REST_MS));
        if (!newest.is(id)) return false;
        await rendering(() => chapterThumbs(spec, id, newest, (thumb) => onThumbs(Comlink.transfer(thumb, Object.values(thumb)))));
        return true;
      } catch (error) {
        if (error instanceof Aborted) return false;
        throw error;
      }
    },
  ),
  survey: guard((asked: ShotRequest, given: Given) => {
    const newest = new Newest(new Int32Array(1));
    const id = newest.next();
    const request = intern(asked);
    const inputs = inputsFor(given, { quick: true, alone: true, progress: () => true, id, newest });
    return rendering(() => surveyed(request, inputs).value, framesFor({ ...request, at: { ...request.at, frame: 0 } }, given));
  }),
  relief: guard(reliefOf),
  judgePath: guard(later(async () => (await cameraWork()).judgePath)),
  fitMoves: guard(later(async () => (await cameraWork()).fitMoves)),
  shortenMoves: guard(later(async () => (await cameraWork()).shortenMoves)),
  frame: guard(frameOf),
  highlight: async (from, to) => {
    const bitmap = await litDistances(from, to);
    return bitmap && Comlink.transfer(bitmap, [bitmap]);
  },
  readyEstimate: guard(async () => {
    await fetchNetwork();
    if (!estimateReady) (await estimating()).estimateDepth({ width: 96, height: 64, channels: 3, data: new Uint8Array(96 * 64 * 3) }, QUICKEST);
    estimateReady = true;
  }),
  estimate: guard(async (plate: RasterNeed, quality: Quality, id: number, words: Int32Array, report: (share: number) => void) => {
    await fetchNetwork();
    const newest = new Newest(words);
    const raster = await rendering(() => plateAt(plate));
    const { estimateDepth } = await estimating();
    return estimateDepth(raster, quality, (share) => {
      report(share);
      return newest.is(id);
    });
  }),
  estimateOwn: guard(async (plate, use, call, seconds, id, words, report) =>
    (await import('./ownEstimate')).ownEstimate(await rendering(() => plateAt(plate)), use, call, seconds, new Newest(words), id, report),
  ),
  tryNetwork: guard(async (plate, use, sure, call, estimate) =>
    (await import('./ownEstimate')).ownTrial(await rendering(() => plateAt(plate)), use, sure, call, (estimate !== null && mapOf(estimate)) || null),
  ),
  personsCover: guard(later(async () => (await import('./persons')).personsCover)),
  personsFound: guard(later(async () => (await import('./persons')).personsFound)),
  clipCuts: guard(later(async () => (await clipWork()).clipCuts)),
  steadyClip: guard(later(async () => (await clipWork()).steadyWhole)),
  followPoint: guard(later(async () => (await clipWork()).followedPoint)),
  followRegion: guard(async (spec, id, words, report) => {
    if (spec.drawings.some((drawing) => 'clicked' in drawing)) await fetchNetwork();
    return (await clipWork()).followedRegion(spec, id, words, report);
  }),
  makeProxy: guard(later(async () => (await clipWork()).madeProxy)),
  output: guard(outputOf),
  clipPiece: guard(
    async (
      asked: ShotRequest,
      given: Given,
      clip: ClipSpec,
      from: number,
      to: number,
      id: number,
      words: Int32Array,
      report: (share: number) => void,
    ) => {
      const newest = new Newest(words);
      const count = to - from + 1;
      const shot = intern(asked);
      const { renderPiece } = await import('../clip/export');
      try {
        const frames = (request: ShotRequest) => framesFor(request, given, true);
        return await withClipCache(clip, (cache) =>
          renderPiece(shot, clip, from, to, frames, (index) =>
            inputsFor(given, {
              quick: false,
              alone: true,
              whole: true,
              progress: (share) => {
                report((index + share) / count);
                return newest.is(id);
              },
              id,
              newest,
              cache,
            }),
          ),
        );
      } catch (error) {
        if (error instanceof Aborted) return null;
        throw error;
      } finally {
        releaseKernels();
      }
    },
  ),
  joinClip: guard(later(async () => (await import('../clip/export')).joinClip)),
  framePicture: guard(later(async () => (await clipWork()).framePicture)),
  thumbnail: guard(async (asked: ShotRequest, given: Given) => {
    const request = intern(asked);
    const inputs = inputsFor(given, {
      quick: true,
      alone: true,
      progress: () => true,
      id: 0,
      newest: new Newest(),
      cache: cacheForOnce(request),
    });
    const { encodeCanvas } = await import('../show/outputs');
    return encodeCanvas((await rendering(() => finishedPicture(request, inputs), framesFor(request, given))).value, 'image/jpeg', 0.85);
  }),
  plateThumbnail: guard(async (hash: string, longSide: number) => {
    const small = smallOf(plateOf(hash), longSide);
    return (await import('../show/outputs')).encodeCanvas(small, 'image/jpeg', 0.85);
  }),
  smallPlate: guard((hash: string, longSide: number) => bytesOfSmall(plateOf(hash), longSide)),
  meetHelpers,
  serveHelper: (port) => Comlink.expose(helper, port),
};

Comlink.expose(api);
