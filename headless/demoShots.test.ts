import { expect, test } from '@jest/globals';
import { openAsBlob } from 'node:fs';
import { join } from 'node:path';
import { newEffect } from '../src/core/document/defaults';
import type { Shot } from '../src/core/document/schema';
import { ofClip } from '../src/core/need/need';
import { runAlone } from '../src/core/run';
import { finishedPicture } from '../src/core/shot/chain';
import { neededFor } from '../src/core/shot/needs';
import { plainCache } from '../src/core/shot/stage';
import { copyOf } from '../src/core/values/copy';
import { assembleDemo } from '../src/store/demo';
import { openClipShot } from './clipShot';
import type { Media } from './loaders';

const { shots, files } = await assembleDemo((name) => openAsBlob(join('public/demo', name)), false);
const media: Media = new Map(await Promise.all(files.map(async (f) => [f.sha256, new Uint8Array(await f.blob.arrayBuffer())] as const)));
const SIZE = { width: 64, height: 36 };

/** How often the chain is entered for each of these frames: once where everything that it reads was fetched before. */
async function entered(shot: Shot, frames: readonly number[]): Promise<readonly number[]> {
  const counts: number[] = [];
  const at = (frame: number) => ({ plate: shot.plate, settings: shot.settings, at: { frame, fps: shot.settings.time.fps }, size: SIZE });
  const picture = async (held: Parameters<typeof finishedPicture>[1]['held'], frame: number) => {
    counts[counts.length - 1]!++;
    return (await finishedPicture(at(frame), { held, cache: plainCache(), run: runAlone(), quick: true })).value;
  };
  const opened = await openClipShot(shot, media, { from: frames[0]!, to: frames[0]! });
  try {
    for (const frame of frames) {
      counts.push(0);
      await opened.withFrames(() => picture(opened.held, frame), frame);
    }
    return counts;
  } finally {
    opened.close();
  }
}

test.each(shots.map((shot) => [shot.name, shot] as const))('%s: nothing that the chain reads is missing when it is entered', async (_, shot) => {
  const moves = neededFor(shot, { frame: 5, fps: shot.settings.time.fps }).some(ofClip);
  // what is needed of a still is there as a whole, before anything is begun
  expect(moves).toBe(shot.plate.clip !== undefined);
  if (moves) expect(await entered(shot, [0, 5])).toEqual([1, 1]);
});

test('the same of effects that look back, and of a camera that moves', async () => {
  const clip = copyOf(shots.find((s) => s.plate.clip)!);
  const echoes = newEffect('echoes');
  clip.settings.effects.push({ ...echoes, values: { ...echoes.values, where: 'time', count: 3, every: 2 } });
  clip.settings.camera.moves = copyOf(shots.find((s) => s.settings.camera.moves.length > 0)!.settings.camera.moves);
  expect(await entered(clip, [9])).toEqual([1]);
});
