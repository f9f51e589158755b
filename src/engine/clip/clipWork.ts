import type { FileRef } from '../../core/need/fileRef';
import { releaseKernels } from '../../core/kernels/loader';
import type { ClipDepthSpec } from '../../core/motion/clipSpec';
import type { Span } from '../../core/motion/plan';
import type { Point } from '../../core/motion/track';
import type { ShotRequest } from '../../core/shot/stage';
import type { RasterNeed } from '../../core/need/need';
import type { Size } from '../../core/picture';
import { sampleRaster, stretch } from '../../core/raster/resample';
import { Aborted, unlessAborted } from '../../core/run';
import { storedZip } from '../../formats/bytes/zip';
import type { Flickers, FollowedPoint, RegionSpec } from '../messages/clipJobs';
import { clipMap, clipOf, readerOf, withFrames } from '../held/clipFrames';
import { inputsFor, intern, plateAt } from '../held/holding';
import { Newest } from '../messages/newest';
import { encodeCanvas } from '../show/outputs';
import type { Given, Report } from '../messages/protocol';
import { sweep, sweepAtTimes } from '../memory/sweep';

/** Reports the share done; throws Aborted where the work is not wanted any more. */
const progressFor =
  (id: number, words: Int32Array, report: (share: number) => void) =>
  (share: number): void => {
    report(share);
    sweepAtTimes();
    if (!new Newest(words).is(id)) throw new Aborted();
  };

/** The frames of a clip that begin a new scene; null where it was stopped. */
export async function clipCuts(of: FileRef, span: Span, id: number, words: Int32Array, report: Report): Promise<readonly number[] | null> {
  const { cutsOf } = await import('./clipDepth');
  const clip = await clipOf(of);
  return unlessAborted(() => cutsOf(clip, span, progressFor(id, words, report)));
}

/** Carries the depth of a clip to all its frames and makes them steady; null where it was stopped. */
export async function steadyWhole(spec: ClipDepthSpec, id: number, words: Int32Array, report: Report): Promise<Flickers | null> {
  const { steadyClip } = await import('./clipDepth');
  const store = await import('../../media/clipStore');
  const footage = { clip: await clipOf(spec.of), mapAt: clipMap };
  try {
    return await unlessAborted(() => steadyClip(spec, footage, store, progressFor(id, words, report)));
  } finally {
    releaseKernels();
    // a scene's frames, maps and flow are free now
    setTimeout(sweep);
  }
}

/** Where a point of a clip goes, and how far it is; null where it was stopped. */
export async function followedPoint(
  shot: ShotRequest,
  given: Given,
  start: Point,
  span: Span,
  id: number,
  words: Int32Array,
  report: Report,
): Promise<readonly FollowedPoint[] | null> {
  const { followPoint } = await import('./followPoint');
  const newest = new Newest(words);
  const inputs = inputsFor(given, { quick: true, alone: true, progress: () => newest.is(id), id, newest });
  const clip = await clipOf(shot.plate);
  return unlessAborted(() => followPoint(intern(shot), clip, inputs, start, span, progressFor(id, words, report)));
}

/** Carries a region of a clip to all its frames; null where it was stopped. */
export async function followedRegion(spec: RegionSpec, id: number, words: Int32Array, report: Report): Promise<readonly number[] | null> {
  const { followRegion } = await import('./followRegion');
  const store = await import('../../media/clipStore');
  const clip = await clipOf(spec.of);
  try {
    return await unlessAborted(() => followRegion(spec, clip, store, progressFor(id, words, report)));
  } finally {
    releaseKernels();
  }
}

/** Makes and keeps the proxy of a clip; its size, or null where it was stopped. */
export async function madeProxy(sha256: string, id: number, words: Int32Array, report: Report): Promise<Size | null> {
  const { makeProxy } = await import('./clipProxy');
  const { keepProxy } = await import('../../media/clipStore');
  const clip = await readerOf(sha256);
  return unlessAborted(async () => {
    const { blob, width, height } = await makeProxy(clip, progressFor(id, words, report));
    await keepProxy(sha256, { blob, width, height });
    return { width, height };
  });
}

/** Numbered pictures put together as one file. */
export const packFrames = async (files: readonly { readonly name: string; readonly blob: Blob }[]): Promise<Blob> => storedZip(files);

/** A held plate, or a frame of one that is a clip, as a PNG. */
export async function framePicture(need: RasterNeed): Promise<Blob> {
  const raster = await withFrames(() => plateAt(need));
  const { width, height } = raster;
  return encodeCanvas(sampleRaster(raster, stretch(raster, width, height), width, height), 'image/png', 1);
}
