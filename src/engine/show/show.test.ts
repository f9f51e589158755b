import { beforeAll, describe, expect, test } from '@jest/globals';
import { newShot } from '../../core/document/defaults';
import { estimateKey } from '../../core/need/estimateKey';
import { newPlane, type Raster } from '../../core/picture';
import { Aborted } from '../../core/run';
import { START } from '../../core/values/moment';
import { giveBitmaps } from './bitmapsForTests';
import { hold, inputsFor } from '../held/holding';
import { Newest } from '../messages/newest';
import type { ChapterThumbs, Fingerprints, PreviewPart, PreviewSpec } from '../messages/protocol';
import { chapterThumbs, frameParts, showStage } from './show';

let onBitmap: () => void = () => undefined;
let open = 0;
giveBitmaps(({ width, height }) => {
  open++;
  onBitmap();
  return { width, height, close: () => open-- };
});

const plate = { sha256: 'b'.repeat(64), name: 'p.png', width: 64, height: 36, bits: 8, hfovFromFile: 60 };
const shot = newShot(plate);
const newest = new Newest();
const specOf = (
  has: Fingerprints | null,
  change: (s: typeof shot.settings) => void = () => undefined,
  more: Partial<PreviewSpec> = {},
): PreviewSpec => {
  const settings = structuredClone(shot.settings);
  change(settings);
  return {
    shot: { plate, settings, at: START, size: { width: 64, height: 36 } },
    given: { [estimateKey(plate.sha256, { quality: 'fine' })]: 'map' },
    estimate: null,
    cleaning: false,
    has,
    quick: null,
    dragged: false,
    depthColours: 'grey',
    check: null,
    reach: null,
    region: null,
    ruler: { near: 1, far: 30, spacing: 'log' },
    finished: true,
    ...more,
  };
};
const show = async (
  spec: PreviewSpec,
  size = spec.shot.size,
  stage: 'quick' | 'full' = 'full',
): Promise<{ part: PreviewPart; has: Fingerprints }> => {
  const parts: PreviewPart[] = [];
  const has = await showStage(spec, size, stage, newest.next(), newest, (part) => parts.push(part));
  expect(parts).toHaveLength(1);
  expect(parts[0]!.fingerprints).toEqual(has);
  return { part: parts[0]!, has };
};
const sent = (part: PreviewPart): (keyof PreviewPart)[] => (['plate', 'depth', 'before', 'finished'] as const).filter((k) => part[k] !== null);

beforeAll(() => {
  const raster: Raster = { width: 64, height: 36, channels: 3, data: Uint8Array.from({ length: 64 * 36 * 3 }, (_, i) => (i * 37) % 251) };
  hold('raster', plate.sha256, raster);
  const map = newPlane(64, 36);
  for (let i = 0; i < map.data.length; i++) map.data[i] = (i % 64) / 63;
  hold('map', 'map', map);
});

describe('what the page is sent', () => {
  test('is everything where it has nothing, and the finished picture alone where the rest is as it has it', async () => {
    const first = await show(specOf(null));
    expect(sent(first.part)).toEqual(['plate', 'depth', 'finished']);
    expect(first.part.distance).toHaveLength(64 * 36);
    const aperture = (s: typeof shot.settings): void => void (s.effects[0]!.values.aperture = 1.2);
    expect(sent((await show(specOf(first.has, aperture))).part)).toEqual(['finished']);
  });

  test('comes again where it was overtaken on its way', async () => {
    const first = await show(specOf(null));
    const bent = (s: typeof shot.settings): void => void (s.calibration.bend = 2);
    expect(sent((await show(specOf(first.has, bent))).part)).toEqual(['depth', 'finished']);
    // the page never took that: it still has what it had
    expect(sent((await show(specOf(first.has, bent))).part)).toEqual(['depth', 'finished']);
  });

  test('is sharp at last: what a quick look left small comes in full', async () => {
    const quick = await show(specOf(null), { width: 32, height: 18 }, 'quick');
    expect(quick.part.plate!.width).toBe(32);
    const full = await show(specOf(quick.has));
    expect(full.part.plate!.width).toBe(64);
    // and a quick look after that does with the sharper one
    expect(sent((await show(specOf(full.has), { width: 32, height: 18 }, 'quick')).part)).toEqual(['finished']);
  });

  test('has depth as it was before clean-up and the figures of its steps where they are wanted', async () => {
    const cleaned = (s: typeof shot.settings): void => void (s.cleanup = [{ kind: 'de-band', on: true, values: {}, drives: {} }] as never);
    const { part } = await show(specOf(null, cleaned, { cleaning: true }));
    expect(sent(part)).toEqual(['plate', 'depth', 'before', 'finished']);
    expect(Object.keys(part.cleaned!)).toHaveLength(1);
    expect(sent((await show(specOf(null, cleaned))).part)).toEqual(['plate', 'depth', 'finished']);
  });
});

test('an older request stops and sends nothing', async () => {
  const id = newest.next();
  newest.next();
  let parts = 0;
  await expect(showStage(specOf(null), { width: 64, height: 36 }, 'full', id, newest, () => parts++)).rejects.toBeInstanceOf(Aborted);
  expect(parts).toBe(0);
});

/** Runs something that a newer request overtakes as its second picture is made. */
async function overtaken(make: (id: number) => Promise<unknown>): Promise<void> {
  open = 0;
  let made = 0;
  onBitmap = () => {
    if (++made === 2) newest.next();
  };
  await expect(make(newest.next())).rejects.toBeInstanceOf(Aborted);
  onBitmap = () => undefined;
  expect(made).toBeGreaterThanOrEqual(2);
}

test('pictures of a request that is overtaken while they are made are closed', async () => {
  await overtaken((id) => showStage(specOf(null), { width: 64, height: 36 }, 'full', id, newest, () => undefined));
  expect(open).toBe(0);
});

test('the chapters’ small pictures are sent as each is made, and none is kept when they are overtaken', async () => {
  const sent: Partial<ChapterThumbs>[] = [];
  const send = (thumb: Partial<ChapterThumbs>): unknown => sent.push(thumb);
  await chapterThumbs(specOf(null), newest.next(), newest, send);
  expect(sent.map((thumb) => Object.keys(thumb))).toEqual([['plate'], ['depth'], ['calibrate'], ['effects'], ['camera']]);
  sent.length = 0;
  const other = specOf(null, (s) => void (s.effects[0]!.values.aperture = 1.37));
  await overtaken((id) => chapterThumbs(other, id, newest, send));
  // whoever they were sent to closes them
  expect(sent.length).toBeGreaterThanOrEqual(1);
  expect(open).toBe(sent.length);
});

test('a frame for playing has the parts that are looked at, and no others', async () => {
  const spec = specOf(null, (s) => void s.cleanup.forEach((c) => (c.on = true)));
  const inputs = inputsFor(spec.given, { quick: true, alone: true, progress: () => true, id: newest.next(), newest });
  const look = { colours: 'distance', hues: null } as const;
  for (const parts of [['picture'], ['depth'], ['plate', 'picture'], ['before', 'depth']] as const)
    expect(Object.entries(await frameParts(spec.shot, inputs, { ...look, parts })).map(([name, { width, height }]) => [name, width, height])).toEqual(
      parts.map((name) => [name, 64, 36]),
    );
});

test('the parts of a frame that were made before it was stopped are closed', async () => {
  let open = 0;
  giveBitmaps(({ width, height }) => {
    open++;
    return { width, height, close: () => void open-- };
  });
  const spec = specOf(null, (shot) => void (shot.effects[0]!.values.aperture = 1.7));
  const inputs = inputsFor(spec.given, { quick: true, alone: true, progress: () => open === 0, id: newest.next(), newest });
  await expect(frameParts(spec.shot, inputs, { parts: ['plate', 'picture'], colours: 'grey', hues: null })).rejects.toThrow(Aborted);
  expect(open).toBe(0);
});
