import { describe, expect, test } from '@jest/globals';
import { newPicture, newPlane, type Picture, type Plane } from '../picture';
import { seededRandom } from '../random';
import { colourPlate, layPlate } from './behind';
import { linkTwin, mirroredTwin, mixedTwin, seedTwin, smoothTwin } from './behindTwin';
import type { PathExtent } from './layered';
import { cleanFarSide } from './mixedPixels';
import { SWEEPS, takeApart } from './plateShape';

const [W, H] = [90, 64];
const extent: PathExtent = { gain: 60, pad: 6, border: 'mirrored', hidden: true };
const nothing = (): void => undefined;

/** A ground that falls away, two things before it, and something thin; colours that differ from pixel to pixel. */
function scene(seed: number): { picture: Picture; distance: Plane } {
  const random = seededRandom(seed);
  const picture = newPicture(W, H);
  for (let i = 0; i < picture.data.length; i++) picture.data[i] = i % 4 === 3 ? 1 : random() < 0.01 ? 8 * random() : random();
  const distance = newPlane(W, H);
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++) {
      const thing = x > 20 && x < 40 && y > 15 ? 1.5 + 0.01 * x : x > 55 && x < 75 && y > 25 && y < 50 ? 2.5 : x === 82 ? 2 : Infinity;
      distance.data[y * W + x] = Math.min(thing, y > 30 ? 60 / (y - 24) : y < 8 ? Infinity : 12);
    }
  return { picture, distance };
}

describe('a plate taken apart', () => {
  test('surfaces and what lies behind them are found as the twin finds them', () => {
    const { picture, distance } = scene(3);
    const shape = takeApart(distance, extent, false, nothing);
    const twin = linkTwin(shape);
    expect(Buffer.compare(shape.flags, twin.flags)).toBe(0);
    const { seed, away, found } = seedTwin(shape, twin.flags, extent.gain);
    const hidden = shape.hidden!;
    expect(found).toBeGreaterThan(500);
    expect([...hidden.pixels]).toEqual([...seed.keys()].filter((i) => seed[i]! >= 0));
    expect([...hidden.away]).toEqual([...hidden.pixels].map((i) => away[i]));
    expect([...hidden.from]).toEqual([...hidden.pixels].map((i, k) => mirroredTwin(shape, i, seed[i]!, hidden.away[k]!, twin.cut)));
    expect([...hidden.seeded]).toEqual([...hidden.pixels].map((i) => shape.q[seed[i]!]));

    const plate = layPlate(picture, distance, extent);
    const colour = new Float32Array(plate.colour.length);
    for (let y = 0; y < shape.height; y++)
      for (let x = 0; x < shape.width; x++) {
        const [u, v] = [x - extent.pad, y - extent.pad].map((a, n) => (a < 0 ? -1 - a : a >= [W, H][n]! ? 2 * [W, H][n]! - 1 - a : a)) as [
          number,
          number,
        ];
        for (let c = 0; c < 4; c++) colour[(y * shape.width + x) * 4 + c] = Math.sqrt(picture.data[(v * W + u) * 4 + c]!);
      }
    const mixed = mixedTwin(shape, twin.cut);
    expect([...shape.mixed.pixels]).toEqual([...mixed.pixels]);
    expect([...shape.mixed.candidates]).toEqual([...mixed.candidates]);
    cleanFarSide(shape, mixed, colour);
    const off = (a: Float32Array, b: Float32Array): number => a.reduce((most, v, i) => Math.max(most, Math.abs(v - b[i]!)), 0);
    expect(off(plate.colour, colour)).toBeLessThan(1e-6);

    const behind = new Float32Array(shape.q.length).fill(-1);
    const out = new Float32Array(found * 4);
    for (const [k, i] of hidden.pixels.entries()) {
      behind[i] = hidden.seeded[k]!;
      for (let c = 0; c < 4; c++) out[k * 4 + c] = Math.min(1, colour[hidden.from[k]! * 4 + c]!);
    }
    const texture = out.slice();
    smoothTwin(shape, colour, hidden.pixels, shape.hiddenAt, behind, out);
    expect(hidden.masks.length).toBe(SWEEPS * found);
    expect([...plate.hidden.q]).toEqual([...hidden.pixels].map((i) => behind[i]));
    const laid = out.map((v, n) => v + 0.6 * Math.min(1, Math.max(0, (hidden.away[n >> 2]! - 1.5) / 4)) * (texture[n]! - v));
    expect(off(plate.hidden.colour, laid)).toBeLessThan(1e-5);
  });

  test('other colours on the same distances are as if all were made anew', () => {
    const { picture, distance } = scene(3);
    const other = scene(8).picture;
    const shape = takeApart(distance, extent, false, nothing);
    colourPlate(shape, { picture, border: 'mirrored' });
    const again = colourPlate(shape, { picture: other, border: 'mirrored' });
    const anew = layPlate(other, distance, extent);
    for (const name of ['colour', 'q', 'flags', 'hiddenAt', 'rimCover', 'rowRange'] as const)
      expect(Buffer.compare(Buffer.from(again[name].buffer), Buffer.from(anew[name].buffer))).toBe(0);
    expect([...again.hidden.colour]).toEqual([...anew.hidden.colour]);
    expect(again.rim.pixel.length).toBeGreaterThan(0);
    expect([...again.rim.pixel]).toEqual([...anew.rim.pixel]);
  });

  test('a backdrop takes the place of what is beside, as far back as it says, and never in front', () => {
    const { picture, distance } = scene(3);
    const backdrop = newPicture(W, H);
    for (let i = 0; i < backdrop.data.length; i++) backdrop.data[i] = 0.25;
    const far = newPlane(W, H);
    far.data.fill(30).fill(0.5, 0, (W * H) / 2);
    const plate = layPlate(picture, distance, extent, { picture: backdrop, distance: far });
    const shape = takeApart(distance, extent, false, nothing);
    expect(plate.hidden.pixel.length).toBeGreaterThan(500);
    expect(plate.hidden.colour.every((v) => v === 0.5)).toBe(true);
    for (const [k, i] of plate.hidden.pixel.entries()) {
      const y = Math.floor(i / shape.width) - extent.pad;
      const given = y < H / 2 ? 1 / 0.5 : 1 / 30;
      expect(plate.hidden.q[k]).toBeCloseTo(given < shape.q[i]! - shape.tau ? given : shape.hidden!.seeded[k]!, 6);
    }
  });
});
