import { beforeEach, expect, test } from '@jest/globals';
import { newShot } from '../../core/document/defaults';
import { runAlone, Aborted } from '../../core/run';
import type { ShotRequest } from '../../core/shot/stage';
import { START } from '../../core/values/moment';
import { giveBitmaps } from './bitmapsForTests';
import { rehearse } from './rehearse';

/** Bitmaps as far as painting asks for them: made and freed are counted, the last one's bytes kept. */
let made = 0;
let freed = 0;
const greens = new Set<number>();
giveBitmaps(({ data }) => {
  made++;
  for (let i = 1; i < data.length; i += 4) greens.add(data[i]!);
  return { close: () => freed++ };
});

const plate = { sha256: 'a'.repeat(64), name: 'p.png', width: 640, height: 360, bits: 8, hfovFromFile: 60 };
const request = (): ShotRequest => ({ plate, settings: newShot(plate).settings, at: START, size: { width: 64, height: 36 } });
beforeEach(() => {
  made = freed = 0;
  greens.clear();
});

test('a whole shot is rendered without its plate, its maps or the cache, and nothing is kept', async () => {
  let asked = 0;
  await rehearse(
    request(),
    runAlone(() => void asked++),
  );
  expect([made, freed]).toEqual([3, 3]);
  // a picture with something in it, and looks for a newer request on the way
  expect(greens.size).toBeGreaterThan(20);
  expect(asked).toBeGreaterThan(0);
});

test('it stops for a newer request', async () => {
  const stop = (): never => {
    throw new Aborted();
  };
  await expect(rehearse(request(), runAlone(stop))).rejects.toBeInstanceOf(Aborted);
  expect(made).toBe(freed);
});
