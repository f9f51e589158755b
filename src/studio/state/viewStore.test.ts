import { beforeEach, expect, test } from '@jest/globals';
import { useView } from './viewStore';

const { set } = useView.getState();
const go = (chapter: Parameters<typeof set>[0]['chapter']): string => {
  set({ chapter: chapter! });
  return useView.getState().mode;
};

beforeEach(() => set({ chapter: 'effects', mode: 'picture', modes: {} }));

test('Depth opens on depth, Calibrate goes on with it, and every chapter comes back as it was left', () => {
  expect(go('depth')).toBe('overlay');
  set({ mode: 'depth' });
  expect(go('calibrate')).toBe('depth');
  expect(go('camera')).toBe('picture');
  expect(go('effects')).toBe('picture');
  set({ mode: 'wipe' });
  expect(go('depth')).toBe('depth');
  expect(go('effects')).toBe('wipe');
  // going where one is changes nothing
  expect(go('effects')).toBe('wipe');
});

test('what sets both gets both, and a view chosen on purpose is kept in Depth', () => {
  set({ chapter: 'camera', mode: 'overlay' });
  expect(useView.getState()).toMatchObject({ chapter: 'camera', mode: 'overlay' });
  expect(go('depth')).toBe('overlay');
  set({ chapter: 'effects', mode: 'wipe', modes: {} });
  expect(go('depth')).toBe('wipe');
});
