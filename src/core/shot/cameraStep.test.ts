import { describe, expect, test } from '@jest/globals';
import { newEffect, newLayer, newMove, newShot } from '../document/defaults';
import type { Settings } from '../document/schema';
import { needKey, stillNeed } from '../need/need';
import { newPlane, type Plane, type Raster } from '../picture';
import { runAlone } from '../run';
import { finishedFrame, finishedPicture, finishedSize, seenDistance, seenNearness } from './chain';
import { distanceMap } from './depthChain';
import { needsOf } from './needs';
import { plainCache, type ChainInputs, type Kept, type ShotRequest } from './stage';

const [W, H] = [96, 54];
const plate = { sha256: 'b'.repeat(64), name: 'p.png', width: W, height: H, bits: 8, hfovFromFile: 60 };
const rasterOf = (light: (x: number, y: number) => number): Raster => ({
  width: W,
  height: H,
  channels: 3,
  data: Uint8Array.from({ length: W * H * 3 }, (_, i) => light(Math.floor(i / 3) % W, Math.floor(i / 3 / W))),
});
const picture = rasterOf((x, y) => 120 + 60 * Math.sin(x / 5) + 30 * Math.cos(y / 4));
/** near on the left, far on the right */
const map: Plane = newPlane(W, H);
for (let i = 0; i < W * H; i++) map.data[i] = i % W < 40 ? 1 : 0.1;

/** A shot of an estimate, as a fresh one is: with a push-in of 20 cm over 49 frames. */
function requestOf(change: (s: Settings) => void = () => undefined, frame = 48): ShotRequest {
  const { settings } = newShot(plate);
  const move = newMove('push-in');
  settings.layers = [{ ...newLayer('estimate'), id: 'map' }];
  settings.effects = [];
  settings.time.length = 49;
  settings.camera.moves = [{ ...move, id: 'push', values: { ...move.values, distance: 20, easing: 'straight' } }];
  change(settings);
  return { plate, settings, at: { frame, fps: 24 }, size: { width: W, height: H } };
}

/** Holds only what a still needs at its first frame, as the page provides it. */
function inputsFor(rasters: Readonly<Record<string, Raster>> = {}): ChainInputs & { readonly laid: () => number; readonly apart: () => number } {
  const { settings } = requestOf();
  const known = new Set(needsOf({ plate, settings }).map(needKey));
  const cache = plainCache();
  let laid = 0;
  let apart = 0;
  return {
    held: {
      raster: (need) => (needKey(need) === needKey(stillNeed(plate)) ? picture : (rasters[needKey(need)] ?? null)),
      plane: (need) => (known.has(needKey(need)) ? { key: needKey(need), plane: map } : null),
    },
    cache: {
      get: cache.get,
      set: (key, value: Kept) => {
        if ('rim' in value) laid++;
        if ('mixed' in value) apart++;
        cache.set(key, value);
      },
    },
    run: runAlone(),
    laid: () => laid,
    apart: () => apart,
  };
}

describe('a camera that moves', () => {
  test('sees an estimated still at every frame, by exact distances', async () => {
    for (const frame of [0, 12, 48]) {
      const { distance } = await finishedFrame(requestOf(undefined, frame), inputsFor());
      // the near end is 1 m away, and 20 cm less at the end
      expect(distance.value.data[27 * W + 10]).toBeCloseTo(1 - (0.2 * frame) / 48, 4);
    }
  });

  test('standing still it changes nothing, to the bit', async () => {
    const none = await finishedFrame(
      requestOf((s) => void (s.camera.moves[0]!.values.distance = 0)),
      inputsFor(),
    );
    const plain = await finishedFrame(
      requestOf((s) => void (s.camera.moves = [])),
      inputsFor(),
    );
    expect(none.picture.key).toBe(plain.picture.key);
    expect(none.picture.value.data).toEqual(plain.picture.value.data);
    expect(none.uncovered).toBeNull();
  });

  test('the plate is taken apart once for all frames, whatever comes after the camera', async () => {
    const inputs = inputsFor();
    const request = requestOf((s) => void s.effects.push(newEffect('lens-blur')));
    for (let frame = 1; frame < 49; frame += 6) await finishedPicture({ ...request, at: { frame, fps: 24 } }, inputs);
    expect(inputs.laid()).toBe(1);
    await finishedPicture(
      requestOf((s) => void s.effects.push({ ...newEffect('lens-blur'), values: { focus: 3 } })),
      inputs,
    );
    expect([inputs.laid(), inputs.apart()]).toEqual([1, 1]);
  });

  test('other colours before the camera leave the distances taken apart as they are', async () => {
    const inputs = inputsFor();
    const graded = (exposure: number) =>
      requestOf((s) => void s.effects.push({ ...newEffect('grade'), values: { ...newEffect('grade').values, exposure: exposure } }));
    for (const exposure of [0.4, 0.5, 0.6]) await finishedPicture({ ...graded(exposure), at: { frame: 12, fps: 24 } }, inputs);
    expect([inputs.laid(), inputs.apart()]).toEqual([3, 1]);
  });

  test('lens and what is measured by it grow with the zoom', async () => {
    const dolly = newMove('dolly-zoom');
    const zoomed = requestOf((s) => void (s.camera.moves = [{ ...dolly, id: 'zoom', values: { ...dolly.values, distance: 100, subject: 4 } }]));
    zoomed.settings.camera.border = 'mirrored';
    const plain = await finishedFrame(
      requestOf((s) => void (s.camera.moves = [])),
      inputsFor(),
    );
    const { lens } = await finishedFrame(zoomed, inputsFor());
    expect(lens.value.focalPx).toBeCloseTo(0.75 * plain.lens.value.focalPx, 6);
    expect(lens.key).not.toBe(plain.lens.key);
  });

  test('depth goes out as it is seen', async () => {
    const request = requestOf();
    const plain = distanceMap(request, inputsFor()).value;
    const seen = await seenDistance(request, inputsFor());
    expect(seen.data[27 * W + 10]).toBeCloseTo(plain.data[27 * W + 10]! - 0.2, 4);
    const nearness = await seenNearness({ ...request, at: { frame: 24, fps: 24 } }, inputsFor());
    expect(Math.min(...nearness.data)).toBeGreaterThanOrEqual(0);
    expect(nearness.data[27 * W + 10]).toBe(1);
    const still = requestOf((s) => void (s.camera.moves = []));
    expect((await seenDistance(still, inputsFor())).data).toEqual(distanceMap(still, inputsFor()).value.data);
  });

  test('two eyes are as large as their form says, and the pointer meets one of them', async () => {
    for (const [shown, width, height] of [
      ['side-by-side', 2 * W, H],
      ['over-under', W, 2 * H],
      ['red-cyan', W, H],
    ] as const) {
      const request = requestOf((s) => void (s.camera.stereo = { on: true, shown, eyes: 65, screen: 3 }));
      const { value } = await finishedPicture(request, inputsFor());
      expect([value.width, value.height]).toEqual([width, height]);
      expect(finishedSize(request.settings, { width: W, height: H })).toEqual({ width, height });
    }
  });

  test('a picture of what lies behind takes the place of what is made up as soon as it has come', async () => {
    const backdrop = { sha256: 'd'.repeat(64), name: 'behind.png', width: W, height: H };
    const truck = newMove('truck');
    const request = requestOf((s) => {
      s.camera.backdrop = backdrop;
      s.camera.border = 'mirrored';
      s.camera.moves = [{ ...truck, id: 'truck', values: { ...truck.values, distance: 12, stands: 1e6, plate: 'start' } }];
    });
    const rasters: Record<string, Raster> = {};
    const inputs = inputsFor(rasters);
    const before = await finishedFrame(request, inputs);
    rasters[needKey(stillNeed(backdrop))] = rasterOf(() => 255);
    const after = await finishedFrame(request, inputs);
    const open = after.uncovered!.value.data;
    let whiter = 0;
    for (let i = 0; i < W * H; i++) if (open[i] && after.picture.value.data[i * 4]! > before.picture.value.data[i * 4]! + 0.1) whiter++;
    expect(whiter).toBeGreaterThan(H);
  });
});
