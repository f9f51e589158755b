import { describe, expect, test } from '@jest/globals';
import { newLayer, newShot } from '../../core/document/defaults';
import { needKey, type Need } from '../../core/need/need';
import { seededRandom } from '../../core/random';
import { runAlone } from '../../core/run';
import { finishedPicture } from '../../core/shot/chain';
import { plainCache, type ChainInputs, type Held, type ShotRequest } from '../../core/shot/stage';
import { randomWork } from '../../testing/randomWork';
import { walkDepth, walkPlate, walkRaster } from '../../testing/walk';
import { StageStore } from './stageStore';

// Whatever is done, in whatever order: what is made with a cache that saw all of it is what is made from nothing. A key that lacks something that
// was read shows here.

const RUNS = Number(process.env.MONKEY_RUNS ?? 20);
const [W, H, FRAMES, ACTS] = [48, 27, 12, 26];
const plate = walkPlate(FRAMES);

describe.each(Array.from({ length: RUNS }, (_, k) => k + 1))('seed %i', (seed) => {
  test('what is kept is what would be made anew', async () => {
    const shot = newShot(plate);
    shot.settings.layers = [{ ...newLayer('estimate'), id: 'estimate' }];
    shot.settings.framing = { ...shot.settings.framing, width: 64, height: 36 };
    shot.settings.time = { ...shot.settings.time, length: FRAMES };
    shot.settings.calibration = { ...shot.settings.calibration, near: 1, far: 12 };
    const random = seededRandom(seed * 31);
    const work = randomWork(seed, shot.settings, FRAMES);
    /** how good the depth of each frame is by now */
    const versions = new Array<number>(FRAMES).fill(0);
    const held: Held = {
      raster: (need) => walkRaster(need.frame),
      plane: (need: Need) => ({ key: `${needKey(need)} v${versions[need.frame]!}`, plane: walkDepth(need.frame, versions[need.frame]) }),
    };
    // small, so that much of it is let go
    const kept = new StageStore(60 * 16 * W * H);
    const said: string[] = [];
    for (let k = 0; k < ACTS; k++) {
      said.push(work.act());
      if (random() < 0.2) versions[Math.floor(random() * FRAMES)]!++;
      if (random() < 0.4) continue;
      const size = random() < 0.3 ? { width: W / 2, height: Math.ceil(H / 2) } : { width: W, height: H };
      const request: ShotRequest = { plate, settings: work.settings, at: { frame: work.frame, fps: 24 }, size };
      const inputs = (cache: ChainInputs['cache']): ChainInputs => ({ held, cache, run: runAlone(), quick: size.width < W });
      const [old, fresh] = [(await finishedPicture(request, inputs(kept))).value, (await finishedPicture(request, inputs(plainCache()))).value];
      let worst = 0;
      for (let i = 0; i < fresh.data.length; i++) {
        const [a, b] = [old.data[i]!, fresh.data[i]!];
        if (!Object.is(a, b) && !(Math.abs(a - b) <= worst)) worst = Math.abs(a - b);
      }
      if (worst !== 0) throw new Error(`off by ${worst} after\n${said.join('\n')}\n${JSON.stringify(work.settings.effects.filter((e) => e.on))}`);
      expect(old.data.some((v) => v !== v)).toBe(false);
    }
  });
});
