import { describe, expect, test } from '@jest/globals';
import { newEffect, newLayer, newShot } from '../../core/document/defaults';
import type { Settings } from '../../core/document/schema';
import type { EffectDefinition } from '../../core/effects/definition';
import { effects } from '../../core/effects/registry';
import { needKey } from '../../core/need/need';
import { runAlone } from '../../core/run';
import { finishedPicture } from '../../core/shot/chain';
import { plainCache, type ChainInputs, type Held, type ShotRequest } from '../../core/shot/stage';
import { walkDepth, walkPlate, walkRaster } from '../../testing/walk';
import { StageStore } from './stageStore';

const FRAMES = 8;
const SIZE = { width: 32, height: 18 };
const PICTURE = 16 * SIZE.width * SIZE.height;
const plate = walkPlate(FRAMES);
const held: Held = {
  raster: (need) => walkRaster(need.frame),
  plane: (need) => ({ key: needKey(need), plane: walkDepth(need.frame) }),
};
const corners = [
  [0.2, 0.2],
  [0.8, 0.3],
  [0.6, 0.9],
].map(([x, y]) => ({ x, y }));

/** A shot with one effect, limited or not, whose depth lies near or far. */
function requestOf(kind: string, region: 'none' | 'inside' | 'outside', near: number, frame: number): ShotRequest {
  const { settings } = newShot(plate);
  const marks = { ...newLayer('shape'), id: 'marks', visible: false, content: { shapes: [{ id: 'a', name: 'A', points: corners, nearness: 0.5 }] } };
  const effect = { ...newEffect(kind), id: 'effect', ...(region !== 'none' && { region: { layer: 'marks', outside: region === 'outside' } }) };
  if ('reach' in effect.values) Object.assign(effect.values, { reach: true, reachFrom: near, reachTo: 3 * near });
  const now: Settings = {
    ...settings,
    layers: [{ ...newLayer('estimate'), id: 'estimate' }, marks],
    framing: { ...settings.framing, width: 64, height: 36 },
    time: { ...settings.time, length: FRAMES },
    calibration: { ...settings.calibration, near, far: 12 },
    effects: [effect],
  };
  return { plate, settings: now, at: { frame, fps: 24 }, size: SIZE };
}

/** Every combination, so that each follows one from which it differs in one thing. */
const requests = ({ kind }: EffectDefinition): readonly ShotRequest[] =>
  [0, 5].flatMap((frame) =>
    [1, 2.5].flatMap((near) => (['none', 'inside', 'outside'] as const).map((region) => requestOf(kind, region, near, frame))),
  );

const made = async (request: ShotRequest, cache: ChainInputs['cache']): Promise<Float32Array> =>
  (await finishedPicture(request, { held, cache, run: runAlone() })).value.data;

/** How many values are not the very same. */
const differing = (a: Float32Array, b: Float32Array): number =>
  a.reduce((sum, v, i) => sum + Number(!Object.is(v, b[i])), Math.abs(a.length - b.length));

describe.each(effects.map((definition) => [definition.kind, definition] as const))('%s', (_, definition) => {
  test('what is kept of one frame, distance or region is never taken for another’s', async () => {
    // one that keeps everything, and one of which nearly everything is let go after each picture
    const stores = [new StageStore(400 * PICTURE), new StageStore(3 * PICTURE)];
    for (const request of requests(definition)) {
      const fresh = await made(request, plainCache());
      for (const store of stores) {
        const end = store.begin();
        // asked again while it is there, it is the same
        for (let k = 0; k < 2; k++) expect(differing(await made(request, store), fresh)).toBe(0);
        end();
      }
      expect(stores[1]!.taken).toBeLessThanOrEqual(3 * PICTURE);
    }
  });
});
