import * as Comlink from 'comlink';
import { releaseKernels } from '../../core/kernels/loader';
import { unlessAborted } from '../../core/run';
import type { ShotRequest } from '../../core/shot/stage';
import { cacheForOnce, framesFor, hold, inputsFor, intern, letGo, rendering, workOn, type How } from '../held/holding';
import type { Brought, Given, MadeFile, OutputSpec, PlayedFrame, ReliefPart, ReliefSpec, ViewSpec } from '../messages/protocol';
import { Newest } from '../messages/newest';
import { frameParts } from '../show/show';

/** The scene of a shot as it is seen in space; null where it was stopped. */
export function reliefOf(asked: ShotRequest, given: Given, spec: ReliefSpec, id: number, words: Int32Array): Promise<ReliefPart | null> {
  const newest = new Newest(words);
  return unlessAborted(async () => {
    if (!newest.is(id)) return null;
    const request = intern(asked);
    const inputs = inputsFor(given, { quick: false, alone: true, progress: () => newest.is(id), id, newest });
    const { reliefPart } = await import('../show/relief');
    const part = await rendering(() => reliefPart(request, inputs, spec), framesFor(request, given));
    return Comlink.transfer(
      part,
      part.surfaces.flatMap((s) => [...(s.picture ? [s.picture.bitmap] : []), s.corners.buffer, s.triangles.buffer]),
    );
  });
}

/** What is looked at, at one moment, as good as a first look; null where it was stopped. */
export async function frameOf(
  asked: ShotRequest,
  given: Given,
  view: ViewSpec,
  id: number,
  words: Int32Array,
  brought?: Brought,
): Promise<PlayedFrame | null> {
  const newest = new Newest(words);
  if (!newest.is(id)) return null;
  workOn(asked.plate);
  if (brought) {
    hold('raster', brought.key, brought.raster);
    if (brought.map) hold('map', brought.key, brought.map);
  }
  try {
    return await unlessAborted(async () => {
      const how: How = { quick: true, alone: true, progress: () => newest.is(id), id, newest };
      const request = intern(asked);
      const made = await rendering(() => frameParts(request, inputsFor(given, how), view), framesFor(request, given));
      return Comlink.transfer(made, Object.values(made));
    });
  } finally {
    if (brought) {
      letGo('raster', brought.key);
      letGo('map', brought.key);
    }
  }
}

/** A shot as a file; null where it was stopped. */
export async function outputOf(
  asked: ShotRequest,
  given: Given,
  spec: OutputSpec,
  id: number,
  words: Int32Array,
  report: (share: number) => void,
): Promise<MadeFile | null> {
  const newest = new Newest(words);
  const progress = (share: number): boolean => {
    report(share);
    return newest.is(id);
  };
  const { renderFile } = await import('../show/outputs');
  const request = intern(asked);
  const inputs = inputsFor(given, { quick: false, alone: true, whole: true, progress, id, newest, cache: cacheForOnce(request) });
  try {
    return await unlessAborted(() => rendering(() => renderFile(request, inputs, spec), framesFor(request, given, true)));
  } finally {
    releaseKernels();
  }
}
