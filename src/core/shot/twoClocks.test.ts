import { expect, test } from '@jest/globals';
import { newEffect, newLayer, newMove, newShot } from '../document/defaults';
import { setNumber } from '../document/driven';
import { estimatedFrames } from '../motion/clipSpec';
import { framesShown } from '../need/need';
import type { Drive } from '../values/drive';
import { clipDepthSpec } from './clipLayer';
import { lensBlur } from '../effects/lens/lensBlur';
import { paramsAt } from '../values/moment';
import { opacityAt, readAt } from './settingsAt';

const still = { sha256: 'a'.repeat(64), name: 'p.png', width: 160, height: 90, bits: 8, hfovFromFile: 60 };
const clip = (frames: number, fps: number, beyond?: 'hold' | 'loop') => ({ ...still, clip: { frames, fps, ...(beyond && { beyond }) } });

test('a shot at twice its clip’s rate shows each frame twice; one that goes on holds the last, or begins anew', () => {
  expect(framesShown(clip(3, 24), { length: 6, fps: 48 })).toEqual([0, 0, 1, 1, 2, 2]);
  expect(framesShown(clip(3, 24), { length: 5, fps: 24 })).toEqual([0, 1, 2, 2, 2]);
  expect(framesShown(clip(3, 24, 'loop'), { length: 7, fps: 24 })).toEqual([0, 1, 2, 0, 1, 2, 0]);
  expect(framesShown(clip(4, 50), { length: 3, fps: 25 })).toEqual([0, 2, 3]);
  expect(framesShown({ ...still, clip: undefined }, { length: 3, fps: 25 })).toEqual([0, 0, 0]);
});

test('where nothing is carried between frames each is estimated; where it is, some', () => {
  const layer = newLayer('estimate');
  const spec = (steady: number, every?: number) => clipDepthSpec(clip(49, 24), { ...layer, values: { ...layer.values, steady } }, every)!;
  const all = Array.from({ length: 49 }, (_, f) => f);
  expect(estimatedFrames(spec(0))).toEqual(all);
  expect(estimatedFrames(spec(0, 4))).toEqual(all);
  expect(estimatedFrames(spec(70, 4)).length).toBeLessThan(20);
});

const keys = (from: number, to: number): Drive => ({
  kind: 'keys',
  keys: [
    { frame: 0, value: from, easing: 'straight' },
    { frame: 10, value: to, easing: 'straight' },
  ],
});

test('settings are read as their drives have them, of every thing that has some; where nothing is driven they are the same', () => {
  const { settings } = newShot(still);
  const at = { frame: 5, fps: 24 };
  expect(readAt(settings, at)).toBe(settings);
  settings.effects = [{ ...newEffect('lens-blur'), drives: { focus: keys(2, 6) } }];
  settings.camera.moves = [{ ...newMove('push-in'), drives: { distance: keys(10, 30) } }];
  settings.layers = [{ ...newLayer('ground'), drives: { horizon: keys(40, 60), opacity: keys(0, 100) } }];
  settings.drives = { 'calibration.near': keys(1, 3) };
  const now = readAt(settings, at);
  expect(now.effects[0]!.values.focus).toBe(4);
  expect(now.camera.moves[0]!.values.distance).toBe(20);
  expect(now.layers[0]!.values.horizon).toBe(50);
  expect(now.layers[0]!.opacity).toBeCloseTo(0.5, 9);
  expect(now.calibration.near).toBeCloseTo(2, 9);
  expect(settings.effects[0]!.values.focus).not.toBe(4);
});

test('what was read is not driven again: what swings about its value is where it was, read once or twice', () => {
  const { settings } = newShot(still);
  const swings: Drive = { kind: 'wave', amount: 0.8, period: 20, phase: 0 };
  settings.effects = [{ ...newEffect('lens-blur'), drives: { focus: swings } }];
  settings.camera.moves = [{ ...newMove('push-in'), drives: { distance: swings } }];
  settings.layers = [{ ...newLayer('ground'), opacity: 0.5, drives: { opacity: { ...swings, amount: 20 } } }];
  settings.drives = { 'calibration.near': { ...swings, amount: 0.2 } };
  const at = { frame: 5, fps: 24 };
  const now = readAt(settings, at);
  const set = settings.effects[0]!.values.focus as number;
  expect(now.effects[0]!.values.focus).toBeCloseTo(set + 0.8, 9);
  expect(paramsAt(lensBlur, now.effects[0]!, at).focus).toBeCloseTo(set + 0.8, 9);
  expect(now.layers[0]!.opacity).toBeCloseTo(0.7, 9);
  expect(opacityAt(now.layers[0]!, at)).toBeCloseTo(0.7, 9);
  expect(readAt(now, at)).toBe(now);
});

test('a number of any place is set where it is driven, and where it is not', () => {
  const { settings } = newShot(still);
  setNumber(settings, { place: 'shot', item: '', name: 'calibration.near' }, 2, 5);
  expect(settings.calibration.near).toBe(2);
  setNumber(settings, { place: 'shot', item: '', name: 'calibration.far' }, Infinity, 5);
  expect(settings.calibration.far).toBe('infinite');
  settings.drives = { 'calibration.near': keys(1, 3) };
  setNumber(settings, { place: 'shot', item: '', name: 'calibration.near' }, 2.5, 5);
  expect(readAt(settings, { frame: 5, fps: 24 }).calibration.near).toBe(2.5);
  expect(settings.calibration.near).toBe(2);
  const layer = settings.layers[0]!;
  setNumber(settings, { place: 'layer', item: layer.id, name: 'opacity' }, 40, 0);
  setNumber(settings, { place: 'layer', item: layer.id, name: 'steady' }, 30, 0);
  expect([layer.opacity, layer.values.steady]).toEqual([0.4, 30]);
});
