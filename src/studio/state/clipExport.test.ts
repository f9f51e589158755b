import { beforeEach, expect, jest, test } from '@jest/globals';
import { newEffect, newLayer, newShot } from '../../core/document/defaults';
import { estimateKey } from '../../core/need/estimateKey';
import type { Given } from '../../engine/messages/protocol';

const held = new Set<string>();
jest.unstable_mockModule('../../engine/pool/engine', () => ({
  engine: () => ({ holds: (_kind: string, name: string) => held.has(name), hands: 1 }),
}));
let finished: number[] = [];
jest.unstable_mockModule('../../media/clipStore', () => ({
  keptFrames: () => Promise.resolve(finished),
  keptReport: () => Promise.resolve(null),
  forgetFrames: () => undefined,
  keepFrame: () => undefined,
  keepReport: () => undefined,
}));
const { exportName, clipOf } = await import('./clipExport');
const { somethingMissing } = await import('./missing');
const { useView } = await import('./viewStore');

const plate = { sha256: 'a'.repeat(64), name: 'c.mp4', width: 64, height: 36, bits: 8, hfovFromFile: null };
const picture = { sha256: 'b'.repeat(64), name: 'b.png', width: 64, height: 36 };
beforeEach(() => {
  held.clear();
  finished = [];
});

test('pieces of an export are of the depth they were made with, and of the code that made them', async () => {
  const names: string[] = [];
  const name = async (clip: boolean, given: Given = {}, revision?: string): Promise<void> => {
    const shot = newShot(clip ? { ...plate, clip: { frames: 10, fps: 24 } } : plate);
    shot.id = 'one';
    shot.settings.layers[0]!.id = shot.settings.effects[0]!.id = 'same';
    const request = { plate: shot.plate, settings: shot.settings, at: { frame: 0, fps: 24 }, size: { width: 64, height: 36 } };
    names.push(await exportName({ request, clip: clipOf(shot, 'clip-mp4', {}, { width: 64, height: 36 }) }, given, revision));
  };
  await name(true);
  await name(true);
  expect(names[0]).toBe(names[1]);
  finished = [0, 1, 2];
  await name(true);
  const need = estimateKey(plate.sha256, { quality: 'fine' });
  await name(false, {});
  await name(false, { [need]: need });
  await name(true, {}, 'another version');
  expect(new Set(names).size).toBe(5);
});

test('what is off and lacks its picture stands in no export’s way; what is on does', () => {
  const shot = newShot(plate);
  shot.settings.layers = [];
  shot.settings.effects = [{ ...newEffect('backdrop'), on: false, media: picture }];
  held.add(plate.sha256);
  expect(somethingMissing(shot.plate, shot.settings, {})).toBe(false);
  shot.settings.effects[0]!.on = true;
  expect(somethingMissing(shot.plate, shot.settings, {})).toBe(true);
  shot.settings.effects = [];
  shot.settings.layers = [{ ...newLayer('imported', picture), visible: false }];
  expect(somethingMissing(shot.plate, shot.settings, {})).toBe(false);
});

test('a page of a clip holds all that is nearer or farther in any of its frames, wherever the playhead is', () => {
  const shot = newShot({ ...plate, clip: { frames: 10, fps: 24 } });
  shot.settings.calibration = { ...shot.settings.calibration, near: 2, far: 50 };
  const facts = () => clipOf(shot, 'clip-page', {}, { width: 64, height: 36 }).page!.facts;
  const still = facts();
  expect([still.least, still.most]).toEqual([1 / 50, 1 / 2]);
  shot.settings.drives = {
    'calibration.near': {
      kind: 'keys',
      keys: [
        { frame: 0, value: 2, easing: 'straight' },
        { frame: 9, value: 1, easing: 'straight' },
      ],
    },
  };
  expect(facts().most).toBeCloseTo(1, 6);
  const first = facts();
  useView.getState().set({ frame: 7 });
  expect(facts()).toEqual(first);
  shot.settings.calibration = { ...shot.settings.calibration, far: 'infinite' };
  expect(facts().least).toBe(0);
  // by twice the strength it moves twice as far
  const aside = (parallax: number): number => clipOf(shot, 'clip-page', { parallax }, { width: 64, height: 36 }).page!.facts.aside;
  expect(aside(4) / aside(2)).toBeCloseTo(2, 6);
});
