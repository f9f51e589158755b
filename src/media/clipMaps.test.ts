import { expect, test } from '@jest/globals';
import { importedLayer, importedContentSchema } from '../core/depth/layers/imported';
import { seriesOf } from '../core/motion/clipSpec';
import { clipFrameOf, FIRST_FRAME, needKey, type MapNeed } from '../core/need/need';
import { newPlane } from '../core/picture';
import { encodeExr } from '../formats/exr/exr';
import { mapAsNearness, readMapFile } from '../formats/maps/mapFile';
import { nearnessIn, endsOfClip } from './clipMaps';

const [W, H, FRAMES] = [20, 10, 12];

/** Metres of a frame: the left half stands still at 5 m, what is on the right comes nearer, and in the middle frames something is very far. */
const metres = (frame: number) => {
  const plane = newPlane(W, H);
  for (let i = 0; i < plane.data.length; i++) plane.data[i] = i % W < W / 2 ? 5 : i % W === W - 1 ? (frame % 5 === 3 ? 400 : 60) : 12 - frame / 2;
  return plane;
};
const clip = {
  frame: () => Promise.reject(new Error('its frames hold maps alone')),
  file: (index: number) => Promise.resolve({ bytes: encodeExr({ Z: metres(index) }), name: `z.${index}.exr` }),
};
const undecoded = () => Promise.reject(new Error('no picture'));
const ref = { sha256: 'd'.repeat(64), name: 'z.zip', width: W, height: H, clip: { frames: FRAMES, fps: 24 } };

/** Distance of a raw nearness through perspective spacing between two ends. */
const back = (n: number, { near, far }: { near: number; far: number }): number => 1 / (n / near + (1 - n) / far);

test('a thing that stands still is as far away at every frame, whatever else comes and goes', async () => {
  const ends = await endsOfClip(clip, FRAMES, null, undecoded);
  expect(ends.near).toBeCloseTo(5, 3);
  const told: MapNeed = { is: 'map', ref, frame: FIRST_FRAME, channel: null, reading: 'distance', ends };
  for (const given of [told, { ...told, ends: undefined }])
    for (let frame = 0; frame < FRAMES; frame++) {
      const { data } = await nearnessIn(clip, { ...given, frame: clipFrameOf(frame) }, undecoded);
      expect(back(data[2]!, ends)).toBeCloseTo(5, 2);
      // nearer than anything that was looked at is at the near end, not nearer
      expect(back(data[W - 3]!, ends)).toBeCloseTo(12 - frame / 2, 1);
    }
});

test('the ends that were found when a clip came in go with what its layer needs, and with its keys', () => {
  const found = { format: 'ZIP', bits: 32, float: true, channels: [], low: 1, high: 9, holes: 0, colourful: false, agreement: null, because: 'file' };
  const plate = { ...ref, sha256: 'e'.repeat(64) };
  const needs = (near: number, far: number | null, reading: string, at = 3) => {
    const content = importedContentSchema.parse({ reading, found: { ...found, ends: { near, far } } });
    return importedLayer.needs!({
      params: { steady: 70, offset: 0 } as never,
      content,
      media: ref,
      plate,
      at: { frame: at, fps: 24 },
    })[0] as MapNeed;
  };
  expect(needs(1, 9, 'distance').ends).toEqual({ near: 1, far: 9 });
  expect(needs(1, null, 'distance').ends).toEqual({ near: 1, far: Infinity });
  expect(needs(1, 9, 'grey').ends).toBeUndefined();
  const keys = [needs(1, 9, 'distance'), needs(1, 8, 'distance'), needs(1, null, 'distance'), needs(1, 9, 'grey')].map(needKey);
  expect(new Set(keys).size).toBe(4);
  expect(needs(1, 9, 'distance').steady!.series).not.toBe(needs(1, 8, 'distance').steady!.series);
  const { steady, ...source } = needs(1, 9, 'distance');
  expect(steady!.series).toBe(seriesOf({ of: plate, source: { ...source, offset: 0 }, steady: 70 }));
});

test('distances that carry their own ends are read between those', async () => {
  const map = await readMapFile(encodeExr({ Z: metres(0) }), 'z.exr', null, undecoded);
  const { plane } = mapAsNearness({ ...map, facts: { ...map.facts, ends: { near: 2, far: 100 } } }, 'distance');
  expect(back(plane.data[2]!, { near: 2, far: 100 })).toBeCloseTo(5, 3);
});
