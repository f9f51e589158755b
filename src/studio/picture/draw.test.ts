import { beforeEach, expect, test } from '@jest/globals';
import type { PlayedFrame, PreviewPart } from '../../engine/messages/protocol';
import { drawLast, drawPlayed, drawScene, type Scene } from './draw';

/** A canvas that writes down what is drawn: the bitmap's name, where, how opaque. */
let drawn: string[];
const context = {
  globalAlpha: 1,
  imageSmoothingEnabled: true,
  imageSmoothingQuality: 'low',
  fillStyle: '',
  setTransform: () => undefined,
  fillRect: (x: number, y: number, w: number, h: number) => drawn.push(`fill ${[x, y, w, h].join(' ')}`),
  drawImage(bitmap: { name: string }, x: number, y: number, w: number, h: number) {
    drawn.push(`${bitmap.name} ${[x, y, w, h].join(' ')}${this.globalAlpha < 1 ? ` at ${this.globalAlpha}` : ''}`);
  },
  save: () => drawn.push('save'),
  restore: () => drawn.push('restore'),
  beginPath: () => undefined,
  rect: (x: number, y: number, w: number, h: number) => drawn.push(`clip ${[x, y, w, h].join(' ')}`),
  clip: () => undefined,
};
const canvas = { width: 440, height: 240, getContext: () => context } as unknown as HTMLCanvasElement;
const bitmap = (name: string, width = 400, height = 200) => ({ name, width, height }) as unknown as ImageBitmap;
const part = {
  stage: 'full',
  size: { width: 400, height: 200 },
  plate: bitmap('plate'),
  depth: bitmap('depth'),
  finished: bitmap('finished'),
  before: bitmap('before'),
  marks: bitmap('marks'),
} as unknown as PreviewPart;
const usual: Scene = {
  part,
  mode: 'picture',
  peek: null,
  overlay: 0.5,
  wipe: 0.25,
  check: false,
  compares: 'picture',
  unfinished: false,
  lit: null,
  output: { width: 800, height: 400 },
};
const place = { scale: 0.5, left: 20, top: 20 };
const AT = '20 20 400 200';
const shown = (change: Partial<Scene>): string[] => {
  drawScene(canvas, { ...usual, ...change }, place, 1);
  return drawn.slice(1);
};

beforeEach(() => {
  drawn = [];
});

test('the surround is cleared, in screen px, before anything is drawn', () => {
  drawScene(canvas, usual, place, 2);
  expect(drawn[0]).toBe('fill 0 0 220 120');
});

test.each<[string, Partial<Scene>, string[]]>([
  ['the finished picture', {}, [`finished ${AT}`]],
  ['the plate where nothing is finished yet', { part: { ...part, finished: null } }, [`plate ${AT}`]],
  ['the plate in its own chapter', { unfinished: true }, [`plate ${AT}`]],
  ['the plate while its key is held, whatever the view', { peek: 'plate', mode: 'depth' }, [`plate ${AT}`]],
  ['depth while its key is held', { peek: 'depth' }, [`depth ${AT}`]],
  ['depth', { mode: 'depth' }, [`depth ${AT}`]],
  ['depth over the picture', { mode: 'overlay' }, [`finished ${AT}`, `depth ${AT} at 0.5`]],
  ['a check over the faint plate', { check: true }, [`plate ${AT} at 0.4`, `marks ${AT}`]],
  ['a check over faint depth', { check: true, mode: 'depth' }, [`depth ${AT} at 0.4`, `marks ${AT}`]],
  ['before and after', { mode: 'wipe' }, [`finished ${AT}`, 'save', 'clip 20 20 100 200', `plate ${AT}`, 'restore']],
  [
    'depth before and after clean-up',
    { mode: 'wipe', compares: 'clean-up' },
    [`depth ${AT}`, 'save', 'clip 20 20 100 200', `before ${AT}`, 'restore'],
  ],
  ['the plate beside its depth', { mode: 'wipe', compares: 'depth' }, [`depth ${AT}`, 'save', 'clip 20 20 100 200', `plate ${AT}`, 'restore']],
  ['lit pixels over a darkened picture', { lit: bitmap('lit') }, [`finished ${AT}`, `fill ${AT}`, `lit ${AT}`]],
])('shows %s', (_, change, expected) => {
  expect(shown(change)).toEqual(expected);
});

test('enlarged far, pixels stay pixels; made much smaller, they are filtered with care', () => {
  drawScene(canvas, usual, { ...place, scale: 4 }, 1);
  expect(context.imageSmoothingEnabled).toBe(false);
  drawScene(canvas, usual, { ...place, scale: 0.2 }, 1);
  expect([context.imageSmoothingEnabled, context.imageSmoothingQuality]).toEqual([true, 'high']);
});

test('the picture as it was left fills its place, unless the output has another shape by now', () => {
  drawLast(canvas, bitmap('last', 640, 320), usual.output, place, 1);
  expect(drawn.slice(1)).toEqual([`last ${AT}`]);
  drawn = [];
  drawLast(canvas, bitmap('last', 640, 640), usual.output, place, 1);
  expect(drawn.slice(1)).toEqual([]);
});

test.each<[string, Partial<Scene>, PlayedFrame, string[]]>([
  ['the picture', {}, { picture: bitmap('picture') }, ['picture']],
  ['the plate in its own chapter', {}, { plate: bitmap('plate') }, ['plate']],
  ['depth', { mode: 'depth' }, { depth: bitmap('depth') }, ['depth']],
  ['depth over the picture', { mode: 'overlay' }, { picture: bitmap('picture'), depth: bitmap('depth') }, ['picture', 'depth at 0.5']],
  ['a wipe', { mode: 'wipe' }, { plate: bitmap('plate'), picture: bitmap('picture') }, ['picture', 'plate left of 100']],
  [
    'a wipe of clean-up',
    { mode: 'wipe', compares: 'clean-up' },
    { before: bitmap('before'), depth: bitmap('depth') },
    ['depth', 'before left of 100'],
  ],
])('a frame that plays shows %s over its whole canvas', (_, change, made, expected) => {
  drawPlayed({ ...context, canvas: { width: 400, height: 200 } } as unknown as CanvasRenderingContext2D, made, { ...usual, ...change });
  const seen: string[] = [];
  let left = 400;
  for (const line of drawn) {
    if (line.startsWith('clip')) left = Number(line.split(' ')[3]);
    const [, name, alpha] = /^(\w+) 0 0 400 200( at [\d.]+)?$/.exec(line) ?? [];
    if (name && name !== 'clip') seen.push(`${name}${alpha ?? ''}${left < 400 ? ` left of ${left}` : ''}`);
  }
  expect(seen).toEqual(expected);
});
