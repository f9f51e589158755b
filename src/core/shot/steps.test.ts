import { describe, expect, test } from '@jest/globals';
import { newEffect, newLayer, newShot } from '../document/defaults';
import type { Settings } from '../document/schema';
import { defineEffect } from '../effects/definition';
import { effectRegistry, effects } from '../effects/registry';
import { constantPlane, newPicture, newPlane, type Picture, type Plane, type Raster } from '../picture';
import { runAlone, type RowKernel } from '../run';
import { metres } from '../values/params';
import { finishedFrame } from './chain';
import { withParts } from './frame';
import { addressOf } from '../key';
import { opacityAt, settingsAt } from './settingsAt';
import { plainCache, type ChainInputs, type ShotRequest, type StageCache } from './stage';
import type { Step } from './frame';
import { steps, stepsWith } from './steps';

const [W, H] = [40, 20];
const plate = { sha256: 'b'.repeat(64), name: 'p.png', width: W, height: H, bits: 8, hfovFromFile: null };
const raster: Raster = { width: W, height: H, channels: 3, data: Uint8Array.from({ length: W * H * 3 }, (_, i) => (i * 31) % 256) };
const map: Plane = newPlane(W, H);
for (let i = 0; i < W * H; i++) map.data[i] = (i % W) / (W - 1);

const requestOf = (change: (s: Settings) => void): ShotRequest => {
  const { settings } = newShot(plate);
  settings.layers = [{ ...newLayer('imported', { sha256: 'c'.repeat(64), name: 'm.png', width: W, height: H }), id: 'map' }];
  settings.calibration = { ...settings.calibration, near: 1, far: 10 };
  settings.effects = [];
  change(settings);
  return { plate, settings, at: { frame: 0, fps: 24 }, size: { width: W, height: H } };
};
const inputs = (): ChainInputs => ({
  held: { raster: () => raster, plane: () => ({ key: 'map', plane: map }) },
  cache: plainCache(),
  run: runAlone(),
});

describe('what is added in a few lines', () => {
  test('a step', async () => {
    const nearer: Step = (from) =>
      Promise.resolve(
        withParts(from, {
          distance: () => {
            const { width, height, data } = from.distance.value;
            return { ...addressOf((of) => ['nearer', of(from.distance)]), value: { width, height, data: data.map((z) => z / 2) } };
          },
        }),
      );
    const request = requestOf(() => undefined);
    const plain = await finishedFrame(request, inputs());
    const moved = await finishedFrame(request, inputs(), [nearer, ...steps]);
    expect(plain.distance.value.data[0]).toBeCloseTo(10, 4);
    expect(moved.distance.value.data[0]).toBeCloseTo(5, 4);
    expect(moved.picture.key).toBe(plain.picture.key);
    expect(moved.distance.key).not.toBe(plain.distance.key);
  });

  test.each([
    ['distortion', { k1: -0.3, k2: 0.1, way: 'added' }],
    ['bulge', { amount: 100, x: 42, y: 50, radius: 100 }],
    ['kaleidoscope', { pieces: 5, turn: 20 }],
  ] as const)('distances and plate go with what %s moves, and not where it acts on a part alone', async (kind, values) => {
    // the left third of the plate is light and near, the rest dark and far
    const light: Raster = { ...raster, data: raster.data.map((_, i) => (Math.floor(i / 3) % W < 13 ? 230 : 10)) };
    const split: Plane = { ...map, data: map.data.map((_, i) => (i % W < 13 ? 1 : 0)) };
    const given = (): ChainInputs => ({ ...inputs(), held: { raster: () => light, plane: () => ({ key: 'split', plane: split }) } });
    const effect = newEffect(kind);
    const bent = requestOf((s) => void (s.effects = [{ ...effect, values: { ...effect.values, ...values } }]));
    const { picture, distance, plate: seen } = await finishedFrame(bent, given());
    let moved = 0;
    for (let i = 0; i < W * H; i++) {
      const shown = picture.value.data[i * 4]!;
      // what is mixed of both lies on the edge between them
      if (shown > 0.02 && shown < 0.7) continue;
      expect(distance.value.data[i]! < 5).toBe(shown > 0.5);
      expect(seen.value.data[i * 4]).toBeCloseTo(shown, 5);
      if (i % W < 13 !== shown > 0.5) moved++;
    }
    expect(moved).toBeGreaterThan(3);
    const part = requestOf(
      (s) => void (s.effects = [{ ...effect, values: { ...effect.values, ...values, reach: true, reachFrom: 5, reachTo: 20 } }]),
    );
    expect((await finishedFrame(part, given())).distance.value.data).toEqual(
      (
        await finishedFrame(
          requestOf(() => undefined),
          given(),
        )
      ).distance.value.data,
    );
  });

  test('an effect that puts things at a distance: what follows meets it there', async () => {
    const wall = defineEffect({
      kind: 'wall',
      group: 'surface',
      label: 'Wall',
      help: 'Everything stands at one distance',
      params: { at: metres({ label: 'At', min: 1, max: 10, default: 4 }) },
      needs: () => [],
      summary: (p) => `${p.at} m`,
      apply: ({ picture, params }) => ({ picture, distance: constantPlane(picture.width, picture.height, params.at) }),
    });
    const chain = stepsWith(effectRegistry([...effects, wall]));
    const request = requestOf((s) => {
      s.effects = [newEffect('lens-blur'), { id: 'w', kind: 'wall', on: true, values: { at: 3 }, drives: {} }];
      Object.assign(s.effects[0]!.values, { focus: 3, aperture: 0.1 });
    });
    const kept = inputs();
    const frame = await finishedFrame(request, kept, chain);
    expect([...new Set(frame.distance.value.data)]).toEqual([3]);
    // in focus on the wall: the blur leaves the picture as it is
    const sharp = (
      await finishedFrame(
        requestOf(() => undefined),
        kept,
      )
    ).picture.value;
    for (let i = 0; i < sharp.data.length; i++) expect(Math.abs(frame.picture.value.data[i]! - sharp.data[i]!)).toBeLessThan(1e-5);
    // found again with its distance
    expect((await finishedFrame(request, kept, chain)).distance.value).toBe(frame.distance.value);
    // and made again where a bounded cache has let the distances go and kept the picture
    const { cache } = inputs();
    const forgetful: StageCache = { get: cache.get, set: (key, value) => void (key.endsWith(':distance') || cache.set(key, value)) };
    const other = { ...inputs(), cache: forgetful };
    const elsewhere = requestOf((s) => {
      s.effects = [{ id: 'w', kind: 'wall', on: true, values: { at: 7 }, drives: {} }];
    });
    for (let k = 0; k < 2; k++) expect((await finishedFrame(elsewhere, other, chain)).distance.value.data[5]).toBe(7);
  });

  test('a row kernel: its rows are the same in one piece and in several', async () => {
    const shade: RowKernel<Picture> = {
      name: 'shade',
      step: 1,
      make: ({ width, data }, y0, y1, out) =>
        out.set(
          data.subarray(y0 * width * 4, y1 * width * 4).map((v) => v / 2),
          y0 * width * 4,
        ),
    };
    const picture = newPicture(3, 4);
    picture.data.fill(1);
    const [whole, parts] = [new Float32Array(48), new Float32Array(48)];
    await runAlone().rows(shade, 4, picture, whole);
    for (let y = 0; y < 4; y++) shade.make(picture, y, y + 1, parts, () => undefined);
    expect(whole.every((v) => v === 0.5)).toBe(true);
    expect(parts).toEqual(whole);
  });
});

test('an effect cannot read what it has not declared', async () => {
  const sly = defineEffect({
    kind: 'sly',
    group: 'air',
    label: 'Sly',
    help: 'Reads what it does not say',
    params: {},
    needs: () => ['lens'],
    summary: () => 'sly',
    apply: (input) => (input.lens.focalPx > 0 && input.distance ? input.picture : input.picture),
  });
  const request = requestOf((s) => void (s.effects = [{ id: 'x', kind: 'sly', on: true, values: {}, drives: {} }]));
  await expect(finishedFrame(request, inputs(), stepsWith(effectRegistry([sly])))).rejects.toThrow('sly reads distance');
});

test('what an effect does not read is not part of its key: grain is found again when the depth changes', async () => {
  const keyWith = async (far: number): Promise<string> =>
    (
      await finishedFrame(
        requestOf((s) => {
          s.effects = [{ ...newEffect('grain'), id: 'g' }];
          s.calibration.far = far;
        }),
        inputs(),
      )
    ).picture.key;
  expect(await keyWith(20)).toBe(await keyWith(30));
});

describe('numbers of the shot over time', () => {
  const drive = (from: number, to: number) => ({ kind: 'ease' as const, from, to, start: 0, end: 10, easing: 'straight' as const });
  const at = (frame: number) => ({ frame, fps: 24 });
  test('the same settings where nothing is driven', () => {
    const { settings } = requestOf(() => undefined);
    expect(settingsAt(settings, at(7))).toBe(settings);
  });
  test('framing, lens, calibration and opacity follow their drives within their limits, and the document stays as it was', () => {
    const { settings } = requestOf((s) => {
      s.drives = { 'framing.x': drive(0, 50), 'lens.hfov': drive(40, 400), 'calibration.near': drive(1, 40), unknown: drive(0, 1) };
      s.layers[0]!.drives = { opacity: drive(100, 0) };
    });
    const half = settingsAt(settings, at(5));
    expect(half.framing.x).toBeCloseTo(0.25, 9);
    expect(half.hfovDegrees).toBe(170);
    // the near end does not pass the far end at 10 m
    expect(half.calibration.near).toBeCloseTo(9.8, 9);
    expect(half.layers[0]!.opacity).toBeCloseTo(0.5, 9);
    expect(opacityAt(settings.layers[0]!, at(10))).toBe(0);
    expect(settings.framing.x).toBe(0);
    expect(settings.layers[0]!.opacity).toBe(1);
  });
  test('the picture follows them', async () => {
    const request = requestOf((s) => void (s.drives = { 'framing.x': drive(0, 50) }));
    const kept = inputs();
    const first = (await finishedFrame(request, kept)).picture.value;
    const later = (await finishedFrame({ ...request, at: at(10) }, kept)).picture.value;
    // half a width to the right: the left half is empty, the right one shows what the left was
    expect(later.data[3]).toBe(0);
    expect(later.data[(W / 2 + 3) * 4]).toBeCloseTo(first.data[3 * 4]!, 5);
  });
});
