import { describe, expect, test } from '@jest/globals';
import { newEffect, newLayer, newShot } from '../document/defaults';
import type { Settings } from '../document/schema';
import { newPlane, type Picture, type Plane, type Raster } from '../picture';
import { runAlone, Aborted, type Run } from '../run';
import { START } from '../values/moment';
import { finishedPicture, renderSize } from './chain';
import { composedPlate, depthOf, distanceMap } from './depthChain';
import { prepareLayers } from './placing';
import { framedPlate, type ChainInputs, type Held, type Kept, type ShotRequest } from './stage';
import { applyAffine, invertAffine } from '../raster/resample';
import { framingAffine, framingScale } from '../document/framing';
import { contentKey } from '../key';

const stop = (): never => {
  throw new Aborted();
};

const plate = { sha256: 'b'.repeat(64), name: 'p.png', width: 40, height: 20, bits: 8, hfovFromFile: null };

describe('framing', () => {
  const usual = { width: 40, height: 20, mode: 'fill' as const, scale: 1, x: 0, y: 0, turns: 0 };
  test('the plate at its own size is left alone', () => {
    expect(framingAffine(plate, usual, usual)).toEqual({ a: 1, b: 0, c: 0, d: 0, e: 1, f: 0 });
  });
  test('fill covers, fit contains', () => {
    expect(framingScale(plate, { ...usual, width: 40, height: 40 })).toBe(2);
    expect(framingScale(plate, { ...usual, width: 40, height: 40, mode: 'fit' })).toBe(1);
  });
  test('the middle stays the middle at any turn and scale', () => {
    for (const turns of [0, 1, 2, 3])
      for (const scale of [0.5, 1, 3]) {
        const m = framingAffine(plate, { ...usual, width: 30, height: 50, turns, scale }, { width: 30, height: 50 });
        const p = applyAffine(m, 15, 25);
        expect(p.x).toBeCloseTo(20, 9);
        expect(p.y).toBeCloseTo(10, 9);
      }
  });
  test('a quarter turn clockwise brings the plate’s lower left corner to the upper left', () => {
    const m = framingAffine(plate, { ...usual, width: 20, height: 40, turns: 1 }, { width: 20, height: 40 });
    const p = applyAffine(m, 0, 0);
    expect(p.x).toBeCloseTo(0, 9);
    expect(p.y).toBeCloseTo(20, 9);
  });
  test('offsets move the picture by shares of the output, whatever the size rendered', () => {
    const f = { ...usual, x: 0.25, y: -0.5 };
    for (const size of [usual, { width: 20, height: 10 }]) {
      const p = applyAffine(framingAffine(plate, f, size), 0.75 * size.width, 0);
      expect(p.x).toBeCloseTo(20, 9);
      expect(p.y).toBeCloseTo(10, 9);
    }
  });
  test('the inverse undoes the map', () => {
    const m = framingAffine(plate, { ...usual, turns: 3, scale: 1.7, x: 0.1 }, { width: 33, height: 21 });
    const there = applyAffine(m, 5, 7);
    const back = applyAffine(invertAffine(m), there.x, there.y);
    expect(back.x).toBeCloseTo(5, 9);
    expect(back.y).toBeCloseTo(7, 9);
  });
});

describe('content keys', () => {
  test('do not depend on the order of keys, but on everything else', () => {
    expect(contentKey({ a: 1, b: [2, 3] })).toBe(contentKey({ b: [2, 3], a: 1 }));
    expect(contentKey({ a: 1, b: undefined })).toBe(contentKey({ a: 1 }));
    const seen = new Set<string>();
    for (let i = 0; i < 20000; i++) seen.add(contentKey('x', { value: i / 7 }));
    expect(seen.size).toBe(20000);
    expect(contentKey(1)).not.toBe(contentKey('1'));
    expect(contentKey([1, 2], 3)).not.toBe(contentKey([1], [2, 3]));
    expect(contentKey(Infinity)).not.toBe(contentKey(null));
  });
});

describe('chain', () => {
  const raster: Raster = { width: 40, height: 20, channels: 3, data: Uint8Array.from({ length: 2400 }, (_, i) => (i * 31) % 256) };
  const settingsOf = (change: (s: Settings) => void): Settings => {
    const { settings } = newShot(plate);
    const map = { sha256: 'c'.repeat(64), name: 'm.png', width: 40, height: 20 };
    settings.layers = [{ ...newLayer('imported', map), id: 'map' }];
    settings.calibration = { ...settings.calibration, near: 1, far: 10 };
    change(settings);
    return settings;
  };
  const run = (settings: Settings) => {
    const kept = new Map<string, Kept>();
    const made: string[] = [];
    const held: Held = { raster: (need) => (need.ref.sha256 === plate.sha256 ? raster : null), plane: () => ({ key: 'map', plane }) };
    const inputs: ChainInputs = {
      held,
      cache: {
        get: <T extends Kept>(k: string) => kept.get(k) as T | undefined,
        set: (k, v) => {
          made.push(k);
          kept.set(k, v);
        },
      },
      run: runAlone(),
    };
    const plane = newPlane(40, 20);
    for (let i = 0; i < 800; i++) plane.data[i] = (i % 40) / 39;
    const request: ShotRequest = { plate, settings, at: START, size: { width: 40, height: 20 } };
    return { inputs, request, made };
  };

  test('distance follows the map and the calibration', () => {
    const { inputs, request } = run(settingsOf(() => undefined));
    const { value } = distanceMap(request, inputs);
    expect(value.data[0]).toBeCloseTo(10, 4);
    expect(value.data[39]).toBeCloseTo(1, 5);
  });

  test('depth is not computed again because an effect moved', async () => {
    const { inputs, request, made } = run(settingsOf(() => undefined));
    await finishedPicture(request, inputs);
    const first = made.length;
    const moved = structuredClone(request.settings);
    moved.effects[0]!.values.focus = 3;
    await finishedPicture({ ...request, settings: moved }, inputs);
    expect(made.length).toBe(first + 1);
    await finishedPicture(request, inputs);
    expect(made.length).toBe(first + 1);
  });

  test('without an effect that is on, the plate is the picture', async () => {
    const { inputs, request } = run(settingsOf((s) => void (s.effects[0]!.on = false)));
    expect((await finishedPicture(request, inputs)).value).toBe(framedPlate(request, inputs).value);
  });

  test('drives change what is rendered at a frame', async () => {
    const { inputs, request } = run(
      settingsOf((s) => {
        s.effects[0]!.values.aperture = 0.7;
        s.effects[0]!.drives = { focus: { kind: 'ease', from: 1, to: 8, start: 0, end: 10, easing: 'straight' } };
      }),
    );
    const at = async (frame: number): Promise<Picture> => (await finishedPicture({ ...request, at: { frame, fps: 24 } }, inputs)).value;
    expect((await at(0)).data).not.toEqual((await at(10)).data);
    expect((await at(10)).data).toEqual((await at(30)).data);
  });

  test('a still is made once for all of its frames, and only what reads the time or has a drive is made anew', async () => {
    const stages = async (change: (s: Settings) => void): Promise<number> => {
      const { inputs, request, made } = run(settingsOf(change));
      await finishedPicture(request, inputs);
      const once = made.length;
      for (let frame = 1; frame < 300; frame++) await finishedPicture({ ...request, at: { frame, fps: 24 } }, inputs);
      return made.length - once;
    };
    expect(await stages(() => undefined)).toBe(0);
    const drive = { kind: 'ease' as const, from: 1, to: 8, start: 0, end: 299, easing: 'straight' as const };
    // the blur alone, once a frame
    expect(await stages((s) => void (s.effects[0]!.drives = { focus: drive }))).toBe(299);
    expect(await stages((s) => void s.effects.push({ ...newEffect('grain') }))).toBe(299);
    expect(await stages((s) => void s.effects.push({ ...newEffect('grain'), on: false }))).toBe(0);
  });

  test('a fingerprint names what is shown, whatever its size; a map that arrives and hides a flat changes the fingerprint of the plate', () => {
    const flats = { ...newLayer('flats'), id: 'flats', content: { flats: [{ id: 'f', name: 'Card', distance: 5 }] } as never };
    const { inputs, request } = run(settingsOf((s) => void s.layers.push(flats)));
    const looks = (r: ShotRequest, i: ChainInputs) => [composedPlate(r, i).fingerprint, distanceMap(r, i).fingerprint];
    const whole = looks(request, inputs);
    const cold = { ...inputs, cache: { get: () => undefined, set: () => undefined } };
    expect(looks({ ...request, size: { width: 20, height: 10 } }, cold)).toEqual(whole);
    const without = looks(request, { ...cold, held: { ...cold.held, plane: () => null } });
    expect(without[0]).not.toBe(whole[0]);
    expect(without[1]).not.toBe(whole[1]);
  });

  test('a still that arrives changes the fingerprint of the layer that places it and of no other', () => {
    const media = { sha256: 'd'.repeat(64), name: 's.png', width: 2, height: 2 };
    const flats = { ...newLayer('flats'), id: 'flats', content: { flats: [{ id: 'f', name: 'Sign', distance: 5, media }] } as never };
    const { inputs, request, made } = run(settingsOf((s) => void s.layers.push(flats)));
    const before = composedPlate(request, inputs);
    const count = made.length;
    const still: Raster = { width: 2, height: 2, channels: 4, data: new Uint8Array(16).fill(255) };
    const after = composedPlate(request, { ...inputs, held: { ...inputs.held, raster: (n) => (n.ref.sha256 === media.sha256 ? still : raster) } });
    expect(after.fingerprint).not.toBe(before.fingerprint);
    // the flat, its cover, its picture and what they are laid into; the map below is found
    expect(made.length - count).toBeLessThanOrEqual(4);
  });

  test('an effect, a layer and a step of clean-up that are not known are left out of the picture', async () => {
    const strange = settingsOf((s) => {
      s.effects.push({ id: 'x', kind: 'halo', on: true, values: {}, drives: {} });
      s.layers.push({ ...newLayer('ground'), id: 'y', kind: 'sonar' });
      s.cleanup.push({ kind: 'polish', on: true, values: {}, drives: {} });
    });
    const plain = run(settingsOf(() => undefined));
    const { inputs, request } = run(strange);
    expect((await finishedPicture(request, inputs)).value.data).toEqual((await finishedPicture(plain.request, plain.inputs)).value.data);
  });

  test('work for an older request stops', async () => {
    const { inputs, request } = run(settingsOf(() => undefined));
    await expect(finishedPicture(request, { ...inputs, run: runAlone(stop) })).rejects.toThrow(Aborted);
  });

  test.each([1, 0.5])('a blur that was stopped among the workers leaves nothing behind (alpha %s)', async (alpha) => {
    const begin = () => {
      const begun = run(settingsOf(() => undefined));
      const { data } = framedPlate(begun.request, begun.inputs).value;
      for (let i = 3; i < data.length; i += 4) data[i] = alpha;
      return begun;
    };
    const { inputs, request } = begin();
    // a picture that is seen through is blurred twice, and may be stopped in either pass
    const passes = alpha < 1 ? 2 : 1;
    const whole = (await finishedPicture(request, begin().inputs)).value;
    for (let last = 1; last <= passes; last++) {
      let calls = 0;
      const rows: Run['rows'] = (kernel, height, input, out) => {
        kernel.make(input, 0, height, out, () => undefined);
        return ++calls < last ? Promise.resolve() : Promise.reject(new Aborted());
      };
      await expect(finishedPicture(request, { ...inputs, run: { ...runAlone(), rows } })).rejects.toThrow(Aborted);
      expect(calls).toBe(last);
    }
    expect((await finishedPicture(request, inputs)).value.data).toEqual(whole.data);
  });

  test('a layer that has no map yet leaves the empty grey', () => {
    const { inputs, request } = run(settingsOf(() => undefined));
    const { value } = distanceMap(request, { ...inputs, held: { ...inputs.held, plane: () => null } });
    expect(value.data.every((z) => z === value.data[0])).toBe(true);
  });

  test('a layer that covers all hides what is below it, which is not even asked for; one whose map is not there yet hides nothing', () => {
    const estimate = (quality: string) => ({ ...newLayer('estimate'), id: quality, values: { ...newLayer('estimate').values, quality } });
    const { inputs, request } = run(settingsOf((s) => void (s.layers = [estimate('draft'), estimate('fine')])));
    const planes = { draft: newPlane(40, 20), fine: newPlane(40, 20) };
    planes.draft.data.fill(0.25);
    planes.fine.data.fill(0.75);
    const asked = new Set<string>();
    const greys = (there: (quality: string) => boolean): number => {
      asked.clear();
      const plane: Held['plane'] = (need) => {
        if (need.is !== 'estimate') throw new Error('no such map');
        asked.add(need.quality);
        return there(need.quality) ? { key: `${need.quality} there`, plane: planes[need.quality as 'draft' | 'fine'] } : null;
      };
      return depthOf(request, { ...inputs, held: { ...inputs.held, plane } }).stack.value.data[0]!;
    };
    expect(greys(() => true)).toBeCloseTo(0.75, 6);
    expect([...asked]).toEqual(['fine']);
    expect(greys((quality) => quality === 'draft')).toBeCloseTo(0.25, 6);
  });

  test('few greys of a smaller map are mended before it is enlarged, and told against the stack as it came', () => {
    const size = { width: 240, height: 120 };
    const settings = settingsOf((s) => {
      s.framing = { ...s.framing, ...size };
      s.cleanup = [{ kind: 'de-band', on: true, values: {}, drives: {} }] as never;
    });
    const { inputs, request } = run(settings);
    const small = newPlane(80, 40);
    const greys = 24;
    for (let i = 0; i < small.data.length; i++) small.data[i] = Math.round((0.1 + (0.7 * ((i % 80) + 0.5)) / 80) * (greys - 1)) / (greys - 1);
    // a plate full of texture: the steps take it up when they are enlarged along it
    const given = { ...inputs, held: { ...inputs.held, plane: () => ({ key: 'small', plane: small }) } };
    const { steps, cleaned } = depthOf({ ...request, size }, given);
    const map = cleaned.value;
    const error = (p: Plane): number => {
      let sum = 0;
      let n = 0;
      for (let i = 0; i < p.data.length; i++) {
        const x = (i % size.width) + 0.5;
        if (x < 15 || x > size.width - 15) continue;
        sum += (p.data[i]! - (0.1 + (0.7 * x) / size.width)) ** 2;
        n++;
      }
      return Math.sqrt(sum / n);
    };
    expect(steps.map((s) => s.kind)).toEqual(['de-band']);
    expect(steps[0]!.after.value).toBe(map);
    // enlarging along texture costs something of its own, also with all greys there
    const exact = newPlane(80, 40);
    for (let i = 0; i < exact.data.length; i++) exact.data[i] = 0.1 + (0.7 * ((i % 80) + 0.5)) / 80;
    const all = depthOf(
      { ...request, size, settings: { ...settings, cleanup: [] } },
      { ...inputs, held: { ...inputs.held, plane: () => ({ key: 'exact', plane: exact }) } },
    );
    expect(error(map)).toBeLessThan(1.4 * error(all.cleaned.value));
    expect(error(steps[0]!.before.value)).toBeGreaterThan(1.8 * error(all.cleaned.value));
    const off = depthOf({ ...request, size, settings: { ...settings, cleanup: [] } }, given).cleaned.value;
    expect([...steps[0]!.before.value.data]).toEqual([...off.data]);
  });

  test('what needs no pixels of the plate is prepared before they are there, found again, and stops for a newer request', () => {
    const settings = settingsOf((s) => {
      const square = [
        [0.2, 0.2],
        [0.8, 0.2],
        [0.8, 0.8],
        [0.2, 0.8],
      ].map(([x, y]) => ({ x, y, inX: 0, inY: 0, outX: 0, outY: 0, feather: 0 }));
      const stroke = { id: 's', mode: 'nearer', radius: 4, amount: 0.2, points: [0.1, 0.5, 1, 0.9, 0.5, 1] };
      s.layers.push(
        { ...newLayer('head'), id: 'head' },
        { ...newLayer('shape'), id: 'shape', content: { shapes: [{ id: 'a', name: 'A', points: square, nearness: 0.7 }] } },
        { ...newLayer('brush'), id: 'brush', content: { strokes: [stroke, { ...stroke, id: 't', edgeStop: 0.5 }] } },
      );
    });
    const { inputs, request, made } = run(settings);
    const noPlate = (): never => {
      throw new Error('there is no plate yet');
    };
    const without = { ...inputs, held: { ...inputs.held, raster: noPlate } };
    prepareLayers(request, without);
    // a head, the shapes with their one cover, and the stroke that follows no edges
    const prepared = made.length;
    expect(prepared).toBeGreaterThanOrEqual(4);
    made.length = 0;
    prepareLayers(request, without);
    expect(made).toEqual([]);
    const { value } = depthOf(request, inputs).cleaned;
    const { value: plain } = depthOf(request, { ...inputs, cache: { get: () => undefined, set: () => undefined } }).cleaned;
    expect([...value.data]).toEqual([...plain.data]);
    expect(() => prepareLayers({ ...request, size: { width: 20, height: 10 } }, { ...without, run: runAlone(stop) })).toThrow(Aborted);
  });

  test('a preview is never larger than the output', () => {
    expect(renderSize({ width: 1600, height: 900 }, { width: 800, height: 800 })).toEqual({ width: 800, height: 450 });
    expect(renderSize({ width: 100, height: 50 }, { width: 800, height: 800 })).toEqual({ width: 100, height: 50 });
  });
});
