import { expect, test } from '@jest/globals';
import { Bounded } from '../../core/bounded';
import { newEffect, newLayer, newShot } from '../../core/document/defaults';
import { frameAt, needKey, ofClip, type Need, type RasterNeed } from '../../core/need/need';
import { constantPlane, type Plane, type Raster } from '../../core/picture';
import { runAlone } from '../../core/run';
import { finishedPicture } from '../../core/shot/chain';
import { neededFor } from '../../core/shot/needs';
import { plainCache, type ChainInputs, type Held, type ShotRequest } from '../../core/shot/stage';
import { StageStore } from '../memory/stageStore';
import { bringing, FrameMissing } from './frameMissing';

const [W, H, FRAMES] = [32, 18, 40];
const clip = { sha256: 'c'.repeat(64), name: 'c.mp4', width: W, height: H, clip: { frames: FRAMES, fps: 24 } };
const mapClip = (k: number) => ({ ...clip, sha256: String(k % 10).repeat(64), name: `m${k}.mp4` });

const rasterOf = (frame: number): Raster => ({
  width: W,
  height: H,
  channels: 3,
  data: Uint8Array.from({ length: 3 * W * H }, (_, i) => (i * 7 + frame * 29) % 256),
});
const planeOf = (need: Need): Plane => constantPlane(W, H, ((need.frame * 13) % 40) / 40);

/** The chain over a clip of which so little is kept at a time; how often something was brought, and how often the work began. */
async function madeWith(request: ShotRequest, limit: number, told: boolean) {
  const rasters = new Bounded<Raster>({ limit });
  const planes = new Bounded<Plane>({ limit });
  const counts = { brought: 0, begun: 0 };
  const held: Held = {
    raster: (need: RasterNeed) => {
      const found = rasters.get(needKey(need));
      if (!found) throw new FrameMissing(need);
      return found;
    },
    plane: (need) => {
      const found = planes.get(needKey(need));
      if (!found) throw new FrameMissing(need);
      return { key: needKey(need), plane: found };
    },
  };
  const bring = (need: Need): Promise<void> => {
    counts.brought++;
    if (need.is === 'raster') rasters.set(needKey(need), rasterOf(need.frame));
    else planes.set(needKey(need), planeOf(need));
    return Promise.resolve();
  };
  const inputs: ChainInputs = { held, cache: new StageStore(3 * 16 * W * H), run: runAlone() };
  const ends = [rasters.begin(), planes.begin()];
  const needs = told ? neededFor(request, request.at).filter(ofClip) : [];
  const picture = await bringing(
    bring,
    () => {
      counts.begun++;
      return finishedPicture(request, inputs);
    },
    needs,
  );
  for (const end of ends) end();
  return { picture: picture.value, counts, left: rasters.size };
}

const shot = newShot({ ...clip, bits: 8, hfovFromFile: null });
const requestOf = (change: (s: typeof shot.settings) => void, frame: number): ShotRequest => {
  const settings = { ...shot.settings, layers: [...shot.settings.layers], effects: [] as typeof shot.settings.effects };
  change(settings);
  return { plate: clip, settings, at: { frame, fps: 24 }, size: { width: W, height: H } };
};

test('echoes of twelve earlier moments of a clip come in one go, whatever little is kept', async () => {
  const echoes = newEffect('echoes');
  const request = requestOf((s) => void s.effects.push({ ...echoes, values: { ...echoes.values, where: 'time', count: 12, every: 2 } }), 30);
  const whole = await madeWith(request, 1000, false);
  const small = await madeWith(request, 2, true);
  expect(small.picture.data).toEqual(whole.picture.data);
  expect(small.counts.begun).toBe(1);
  // 13 frames and 13 maps
  expect(small.counts.brought).toBe(26);
  expect(small.left).toBe(2);
  expect((await madeWith(request, 2, false)).picture.data).toEqual(whole.picture.data);
});

test('thirteen layers of maps of clips come in one go', async () => {
  const request = requestOf((s) => {
    s.layers = Array.from({ length: 13 }, (_, k) => ({
      ...newLayer('imported', mapClip(k)),
      opacity: 0.3,
      blend: k ? ('nearer' as const) : ('replace' as const),
    }));
    s.layers = s.layers.map((l, k) => ({ ...l, values: { ...l.values, offset: k, steady: 0 } }));
  }, 20);
  expect(request.settings.layers.map((l) => frameAt(l.media!, request.at))).toHaveLength(13);
  const small = await madeWith(request, 2, true);
  expect(small.counts.begun).toBe(1);
  expect(small.picture.data).toEqual((await madeWith(request, 1000, false)).picture.data);
});

test('an echo is made anew when the depth of an earlier moment gets better, though that of this one does not', async () => {
  const echoes = newEffect('echoes');
  const dark = newEffect('fog');
  const request = requestOf((s) => {
    s.effects.push(
      { ...dark, values: { ...dark.values, visibility: 2 } },
      { ...echoes, values: { ...echoes.values, where: 'time', count: 1, every: 5, fade: 100 } },
    );
  }, 10);
  let better = false;
  const cache = plainCache();
  const inputs: ChainInputs = {
    held: {
      raster: (need) => rasterOf(need.frame),
      plane: (need) => {
        const changed = better && need.frame === 5;
        return { key: `${needKey(need)}${changed ? ' better' : ''}`, plane: constantPlane(W, H, changed ? 1 : 0.2) };
      },
    },
    cache,
    run: runAlone(),
  };
  const before = (await finishedPicture(request, inputs)).value;
  better = true;
  const after = (await finishedPicture(request, inputs)).value;
  const fresh = (await finishedPicture(request, { ...inputs, cache: plainCache() })).value;
  expect(after.data).toEqual(fresh.data);
  expect(after.data).not.toEqual(before.data);
});

test('an echo is made anew when the depth below a map that is not there gets better', async () => {
  const echoes = newEffect('echoes');
  const estimate = (quality: string) => ({ ...newLayer('estimate'), id: quality, values: { ...newLayer('estimate').values, quality, steady: 0 } });
  const dark = newEffect('fog');
  const request = requestOf((s) => {
    s.layers = [estimate('draft'), estimate('fine')];
    s.effects.push(
      { ...dark, values: { ...dark.values, visibility: 2 } },
      { ...echoes, values: { ...echoes.values, where: 'time', count: 1, every: 5, fade: 100 } },
    );
  }, 10);
  let better = false;
  const inputs: ChainInputs = {
    held: {
      raster: (need) => rasterOf(need.frame),
      plane: (need) => {
        if (need.is !== 'estimate') throw new Error('no such map');
        // of the earlier frame the upper map has not been found
        if (need.quality === 'fine' && need.frame === 5) return null;
        const changed = better && need.frame === 5;
        return { key: `${needKey(need)}${changed ? ' better' : ''}`, plane: constantPlane(W, H, changed ? 1 : 0.2) };
      },
    },
    cache: plainCache(),
    run: runAlone(),
  };
  const before = (await finishedPicture(request, inputs)).value;
  better = true;
  const after = (await finishedPicture(request, inputs)).value;
  expect(after.data).toEqual((await finishedPicture(request, { ...inputs, cache: plainCache() })).value.data);
  expect(after.data).not.toEqual(before.data);
});
