import { afterEach, beforeEach, expect, jest, test } from '@jest/globals';

const kept = new Map<string, string>();

beforeEach(() => {
  kept.clear();
  Object.assign(globalThis, {
    localStorage: { getItem: (key: string) => kept.get(key) ?? null, setItem: (key: string, value: string) => void kept.set(key, value) },
  });
  jest.resetModules();
});
afterEach(() => void delete (globalThis as Record<string, unknown>).localStorage);

test('how the window is divided is remembered, that the picture is alone is not', async () => {
  const { useLayout } = await import('./layoutStore');
  expect(useLayout.getState()).toMatchObject({ panel: null, score: null, lanes: false, tracks: false, alone: false });
  useLayout.getState().set({ panel: 340, tracks: true, alone: true });
  jest.resetModules();
  const again = (await import('./layoutStore')).useLayout.getState();
  expect(again).toMatchObject({ panel: 340, tracks: true, alone: false });
});

test.each(['no json', '{"panel":9000}', '{"score":"high"}', '[]', 'null'])('what cannot be read (%s) is as usual', async (text) => {
  kept.set('ombrage.layout', text);
  const { useLayout } = await import('./layoutStore');
  expect(useLayout.getState()).toMatchObject({ panel: null, score: null });
});

test('a full disk only forgets it', async () => {
  localStorage.setItem = () => {
    throw new Error('full');
  };
  const { useLayout } = await import('./layoutStore');
  useLayout.getState().set({ panel: 400 });
  expect(useLayout.getState().panel).toBe(400);
});
