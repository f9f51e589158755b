import { afterEach, expect, test } from '@jest/globals';
import { estimateDepth, methodRegistry } from '../core/estimate/estimate';
import { estimatorRegistry, namedQuality, type Quality } from '../core/need/estimators';
import { clipOpeners, openClip } from '../engine/held/openClip';
import { clipKindRegistry, type ClipKind } from '../media/clipKind';
import type { ClipReader } from '../media/clip';
import { codecRegistry, writePiece } from '../media/writeClip';
import { layerRegistry } from '../core/depth/layers/registry';
import { newLayer, newShot } from '../core/document/defaults';
import { loadNetwork } from '../../headless/network';
import { chapterOf, chapterRegistry } from './chapters/registry';
import { toolOf, toolRegistry } from './chapters/depth/tools/registry';
import { chapterFacts, factsOf, type Chapter } from './state/chapterFacts';
import { partsSeen } from './state/seen';
import { viewRegistry, type ViewMode } from './state/views';

const shot = newShot({ sha256: 'a'.repeat(64), name: 'p.png', width: 64, height: 36, bits: 8, hfovFromFile: null });

const taken: (() => void)[] = [];
afterEach(() => {
  for (const away of taken.splice(0)) away();
});

test('a way to look', () => {
  const kind = 'twice' as ViewMode;
  taken.push(viewRegistry.add({ kind, label: 'Twice', parts: ({ compared }) => [compared[1], compared[0]], splits: true }));
  expect(partsSeen(kind, 'effects', 'picture')).toEqual(['picture', 'plate']);
  expect(viewRegistry.all.at(-1)!.label).toBe('Twice');
});

test('a chapter', () => {
  const kind = 'proof' as Chapter;
  taken.push(
    chapterFacts.add({ kind, label: 'Proof', result: 'plate', compares: () => 'depth', firstView: () => 'overlay' }),
    chapterRegistry.add({ kind, figure: ({ name }) => name, thumb: 'plate', load: () => Promise.resolve({ default: () => null }) }),
  );
  expect(partsSeen('overlay', kind, factsOf(kind).compares(null))).toEqual(['plate', 'depth']);
  expect(chapterOf(kind).thumb).toBe('plate');
});

test('a source of a clip', async () => {
  const kind = 'dots' as ClipKind;
  const reader = { facts: { frames: 3 } } as unknown as ClipReader;
  taken.push(
    clipKindRegistry.add({ kind, matches: (head) => head[0] === 46 && head[1] === 46 }),
    clipOpeners.add({ kind, open: () => Promise.resolve(reader) }),
  );
  expect(await openClip(new Blob(['...']), 'three.dots', () => Promise.reject(new Error('no picture')))).toBe(reader);
});

test('an estimator', () => {
  loadNetwork();
  const kind = 'glance' as Quality;
  taken.push(
    estimatorRegistry.add({ kind, label: 'Glance', first: null, every: 1, seconds: 0.1, bytes: 1e4 }),
    methodRegistry.add({
      kind,
      side: 96,
      scales: [{ side: 96, patches: 60 }],
      views: [{ area: 96 * 64, mirrored: false }],
      trained: 1,
      coarse: null,
    }),
  );
  expect(namedQuality('glance')).toBe(kind);
  const grey = { width: 192, height: 128, channels: 1 as const, data: Uint8Array.from({ length: 192 * 128 }, (_, i) => Math.floor(i / 192)) };
  expect(estimateDepth(grey, kind)).toMatchObject({ width: 96, height: 64 });
});

test('a codec', async () => {
  const kind = 'none' as never;
  const encoder = Object.getOwnPropertyDescriptor(globalThis, 'VideoEncoder');
  Object.defineProperty(globalThis, 'VideoEncoder', { value: class {}, configurable: true });
  taken.push(
    codecRegistry.add({
      kind,
      label: 'None',
      encoded: 'vp9',
      webm: true,
      able: ({ width }) => Promise.resolve(width < 100),
      write: () => Promise.resolve(new Blob(['nothing'])),
    }),
    () => (encoder ? Object.defineProperty(globalThis, 'VideoEncoder', encoder) : Reflect.deleteProperty(globalThis, 'VideoEncoder')),
  );
  const format = { codec: kind, width: 64, height: 36, fps: 24, bitrate: 1e6 };
  const none = async function* () {};
  expect(await (await writePiece(format, none())).text()).toBe('nothing');
  await expect(writePiece({ ...format, width: 128 }, none())).rejects.toThrow('This browser cannot write None at 128×36.');
});

test('a layer with a tool', () => {
  const kind = 'mirror';
  const clicked: string[] = [];
  taken.push(
    layerRegistry.add({
      kind,
      label: 'Mirror',
      help: '',
      params: {},
      summary: () => '',
      build: ({ below }) => ({ nearness: below, coverage: null }),
    }),
    toolRegistry.add({ kind, click: (_, layer, { x }) => void clicked.push(`${layer.kind} at ${x}`) }),
  );
  const layer = newLayer(kind);
  expect(layer.name).toBe('Mirror');
  toolOf(layer).click?.(shot, layer, { x: 0.5, y: 0.5 });
  expect(clicked).toEqual(['mirror at 0.5']);
  // what has no tool gets none
  expect(toolOf({ kind: 'nothing' })).toEqual({});
});
