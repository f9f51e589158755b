import { describe, expect, test } from '@jest/globals';
import { seededRandom } from '../random';
import { newPicture, newPlane } from '../picture';
import { apertureOutline, denseKernel, outlineSpan, spanTable, RADIUS_STEP, type Aperture } from './aperture';
import { blurShape, sliceEdges, type BlurShape } from './blurShape';
import { guidedEnlarge, picturesRows } from './guidedHost';
import { guidedTwin } from '../raster/guidedTwin';
import { blurRows, packLight, sourceRows, type LensRadii, type RadiusPicture } from './lensBlurHost';
import { Aborted } from '../run';
import { blurTwin } from './lensBlurTwin';
import { hiddenPlateTwin, NOTHING } from './lensBlurTwinSheets';

const disc: Aperture = { blades: 0, rounding: 0, turn: 0 };
const hexagon: Aperture = { blades: 6, rounding: 0, turn: 0.2 };
const five: Aperture = { blades: 5, rounding: 0.3, turn: 0 };

const W = 120;
const H = 90;

const pictureOf = (light: (x: number, y: number) => number, radius: (x: number, y: number) => number, width = W, height = H): RadiusPicture => {
  const data = new Float32Array(width * height * 4);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const l = light(x, y);
      data.set([l, l * 0.8, l * 0.5, radius(x, y)], (y * width + x) * 4);
    }
  return { width, height, data };
};

const random = seededRandom(5);
const noisy = Float32Array.from({ length: W * H }, () => (random() < 0.01 ? 40 * random() : random()));
const noise = (x: number, y: number): number => noisy[y * W + x]!;

const blur = (picture: RadiusPicture, shape: BlurShape): Float32Array => {
  const out = new Float32Array(picture.width * picture.height * 4).fill(1);
  blurRows(picture, shape, 0, picture.height, out);
  return out;
};

/** The largest of what `difference` says of every place; one expectation for many pixels. */
const largest = (data: Float32Array, difference: (i: number) => number): number => {
  let most = 0;
  for (let i = 0; i < data.length; i++) most = Math.max(most, difference(i));
  return most;
};

describe('aperture', () => {
  test('a disc is a disc: spans are half chords', () => {
    const outline = apertureOutline(disc);
    for (const t of [-0.7, 0, 0.31]) expect(outlineSpan(outline, t)![1]).toBeCloseTo(Math.sqrt(1 - t * t), 3);
    expect(outlineSpan(outline, 1.01)).toBeNull();
  });
  test('a hexagon has the area of a hexagon', () => {
    const o = apertureOutline({ blades: 6, rounding: 0, turn: 0 }, 6000);
    let area = 0;
    for (let i = 0; i < 6000; i++) {
      const j = (i + 1) % 6000;
      area += (o[2 * i]! * o[2 * j + 1]! - o[2 * j]! * o[2 * i + 1]!) / 2;
    }
    expect(area).toBeCloseTo((3 * Math.sqrt(3)) / 2, 3);
  });
  test.each([
    ['disc', disc],
    ['hexagon', hexagon],
    ['five blades', five],
  ] as const)('kernels of every radius sum to one: %s', (_, aperture) => {
    const table = spanTable(aperture, 12);
    for (let q = 0; q < table.steps; q++) {
      const { weights } = denseKernel(table, q);
      let sum = 0;
      for (const w of weights) sum += w;
      expect(sum).toBeCloseTo(1, 5);
    }
  });
  test('a wide disc kernel is flat inside and empty outside', () => {
    const { n, weights } = denseKernel(spanTable(disc, 10), 10 / RADIUS_STEP);
    const at = (x: number, y: number): number => weights[(y + n) * (2 * n + 1) + x + n]!;
    expect(at(0, 0)).toBeCloseTo(1 / (Math.PI * 100), 4);
    expect(at(5, -5)).toBeCloseTo(at(0, 0), 4);
    expect(at(8, 8)).toBeCloseTo(0, 9);
  });
});

describe('lens blur kernel', () => {
  test('slices grow outwards from the focus', () => {
    const edges = sliceEdges(-4, 6);
    expect(edges).toEqual([...edges].sort((a, b) => a - b));
    expect(edges).toContain(0.5);
    expect(edges).toContain(-0.5);
    expect(edges).toContain(1.5);
  });

  test.each([
    [disc, -7.5],
    [hexagon, 4.25],
    [five, -6],
    [five, 9],
  ] as const)('a constant distance is a convolution with the span kernel (%#)', (aperture, radius) => {
    const shape = blurShape(aperture, -9, 9);
    const out = blur(
      pictureOf(noise, () => radius),
      shape,
    );
    const { n, weights } = denseKernel(radius < 0 ? shape.near : shape.far, Math.abs(radius) / RADIUS_STEP);
    for (const [x, y] of [
      [40, 40],
      [61, 37],
      [80, 50],
      [33, 60],
    ] as const) {
      let sum = 0;
      for (let j = -n; j <= n; j++) for (let i = -n; i <= n; i++) sum += weights[(j + n) * (2 * n + 1) + i + n]! * noise(x - i, y - j);
      expect(Math.abs(out[(y * W + x) * 4]! - sum)).toBeLessThan(1e-5 * (1 + sum) * 4);
    }
  });

  test('no blur is no change', () => {
    const picture = pictureOf(noise, () => 0);
    const out = blur(picture, blurShape(disc, -3, 3));
    // sums run along rows in single precision, and the brightest pixel here is 40
    expect(largest(out, (i) => (i % 4 === 0 ? Math.abs(out[i]! - picture.data[i]!) : 0))).toBeLessThan(40 * 1e-6);
  });

  test('the light of a lamp is kept', () => {
    const out = blur(
      pictureOf(
        (x, y) => (x === 60 && y === 45 ? 1000 : 0),
        () => 8,
      ),
      blurShape(hexagon, 0, 8),
    );
    let sum = 0;
    let least = 0;
    for (let i = 0; i < out.length; i += 4) {
      sum += out[i]!;
      least = Math.min(least, out[i]!);
    }
    expect(Math.abs(sum / 1000 - 1)).toBeLessThan(1e-5);
    expect(least).toBeGreaterThan(-1e-3);
  });

  /** What becomes of a lamp: its light, where its middle lies, how far it spreads across and along, from its own place. */
  const discOf = (x: number, y: number, radius: number, cat: number, weight = 0) => {
    const out = blur(
      pictureOf(
        (u, v) => (u === x && v === y ? 1000 : 0),
        () => radius,
      ),
      blurShape(disc, Math.min(0, radius), Math.max(0, radius), cat, weight),
    );
    let [sum, sx, sy, sxx, syy] = [0, 0, 0, 0, 0];
    for (let v = 0; v < H; v++)
      for (let u = 0; u < W; u++) {
        const light = out[(v * W + u) * 4]! / 1000;
        sum += light;
        sx += light * (u - x);
        sy += light * (v - y);
        sxx += light * (u - x) ** 2;
        syy += light * (v - y) ** 2;
      }
    return { sum, dx: sx / sum, dy: sy / sum, across: sxx / sum - (sx / sum) ** 2, along: syy / sum - (sy / sum) ** 2, out };
  };

  test('a cat’s eye: discs are whole in the middle, cut towards the border, upright beside it, and keep their light', () => {
    const middle = discOf(60, 45, 8, 1);
    expect(middle.across / middle.along).toBeCloseTo(1, 1);
    const side = discOf(104, 45, 8, 1);
    // two circles of radius 1, their middles d apart: the rest is 2(1 − d/2) wide and 2√(1 − d²/4) high, and lies d/2 off
    const d = (1.2 * (104 + 0.5 - 60)) / (Math.hypot(W, H) / 2);
    expect(side.dx / 8).toBeCloseTo(-d / 2, 1);
    expect(side.dy).toBeCloseTo(0, 1);
    expect(side.across / side.along).toBeLessThan(0.5);
    // the discs of neighbours are moved closer together by up to 6 % a side, and share what there is
    expect(Math.abs(side.sum - 1)).toBeLessThan(0.13);
    // before the focus the other side is cut
    expect(discOf(104, 45, -8, 1).dx / 8).toBeCloseTo(d / 2, 1);
    // to the left it is the mirror image, but for pieces of a row being cut alike
    const left = discOf(15, 45, 8, 1).dx / -side.dx;
    expect(left).toBeGreaterThan(0.75);
    expect(left).toBeLessThan(1.35);
  });

  test('edge weight: a disc is brighter at its rim, or in its middle, and keeps its light', () => {
    const [even, rim, soft] = [0, 1, -1].map((w) => discOf(60, 45, 8, 0, w));
    for (const d of [even!, rim!, soft!]) expect(Math.abs(d.sum - 1)).toBeLessThan(1e-4);
    const at = (d: { out: Float32Array }, x: number): number => d.out[(45 * W + x) * 4]!;
    expect(at(rim!, 67)).toBeGreaterThan(1.5 * at(even!, 67));
    expect(at(rim!, 60)).toBeLessThan(0.3 * at(even!, 60));
    expect(at(rim!, 60)).toBeGreaterThan(0);
    expect(at(soft!, 60)).toBeGreaterThan(1.5 * at(even!, 60));
    expect(at(soft!, 67)).toBeLessThan(0.6 * at(even!, 67));
    // a disc's variance across is R²/4
    expect(rim!.across).toBeGreaterThan(1.15 * even!.across);
    expect(soft!.across).toBeLessThan(0.85 * even!.across);
  });

  test('a flat colour stays flat under cut and uneven discs', () => {
    for (const [cat, weight] of [
      [1, 0],
      [0, 1],
      [0.6, -0.8],
    ] as const) {
      const out = blur(
        pictureOf(
          () => 0.5,
          (x) => 9 * Math.sin(x / 40),
        ),
        blurShape(disc, -9, 9, cat, weight),
      );
      expect(largest(out, (i) => (i % 4 === 0 ? Math.abs(out[i]! - 0.5) : 0))).toBeLessThan(1e-4);
    }
  });

  test('a flat colour stays flat on a slanted plane: slices leave no seams', () => {
    const out = blur(
      pictureOf(
        () => 0.5,
        (_, y) => -8 + (16 * y) / H,
      ),
      blurShape(disc, -8, 8),
    );
    expect(largest(out, (i) => (i % 4 === 0 ? Math.abs(out[i]! - 0.5) : 0))).toBeLessThan(1e-3);
  });

  test('a sharp bar before a blurred ground leaks nothing and loses nothing', () => {
    for (const [bar, ground] of [
      [1, 0],
      [0, 1],
      [20, 0.1],
    ] as const) {
      const inBar = (x: number): boolean => x >= 50 && x < 70;
      const out = blur(
        pictureOf(
          (x) => (inBar(x) ? bar : ground),
          (x) => (inBar(x) ? 0 : 9),
        ),
        blurShape(disc, 0, 9),
      );
      expect(largest(out, (i) => (i % 4 === 0 ? Math.abs(out[i]! - (inBar((i / 4) % W) ? bar : ground)) : 0))).toBeLessThan(1e-3);
    }
  });

  test('a blurred bar before a sharp ground has the coverage of a bar seen through a disc', () => {
    const out = blur(
      pictureOf(
        (x) => (x >= 45 && x < 75 ? 1 : 0.1),
        (x) => (x >= 45 && x < 75 ? -9 : 0),
      ),
      blurShape(disc, -9, 0),
    );
    const covered = (t: number): number => (t <= -1 ? 0 : t >= 1 ? 1 : 0.5 + (t * Math.sqrt(1 - t * t) + Math.asin(t)) / Math.PI);
    for (let x = 20; x < 100; x++) {
      const a = covered((x + 0.5 - 45) / 9) - covered((x + 0.5 - 75) / 9);
      expect(Math.abs(out[(45 * W + x) * 4]! - (a + (1 - a) * 0.1))).toBeLessThan(0.01);
    }
  });

  test('the kernel does what its readable twin does', () => {
    const r = seededRandom(9);
    const picture = pictureOf(noise, (x, y) => (x > 30 && x < 60 && y > 20 ? -6 : 8 * Math.sin(x / 17) + r() * 0.2), 72, 56);
    for (const shape of [
      blurShape(disc, -8.5, 8.5),
      blurShape(five, -8.5, 8.5),
      blurShape(disc, -8.5, 8.5, 0.8),
      blurShape(five, -8.5, 8.5, 0.6, 0.7),
      blurShape(disc, -8.5, 8.5, 0, -1),
    ]) {
      const out = blur(picture, shape);
      const twin = blurTwin(picture, shape);
      expect(largest(out, (i) => Math.abs(out[i]! - twin[i]!) / (1 + Math.abs(twin[i]!)))).toBeLessThan(2e-4);
    }
  });

  test('what is far out of focus is scattered at half and a quarter of the size, as the twin does it', () => {
    const r = seededRandom(11);
    // a bar far before the focus, a ground from before it to far beyond, a post in focus, lamps on all of them; odd sides
    const picture = pictureOf(
      (x, y) => (x % 23 === 4 && y % 19 < 2 ? 30 : 0.3 * noise(x, y)),
      (x, y) => (x > 12 && x < 26 && y > 9 ? -24 - r() : x > 60 && x < 66 ? 0.2 : -12 + 38 * (y / 61) + 0.3 * r()),
      91,
      61,
    );
    for (const shape of [blurShape(disc, -25, 27), blurShape(five, -25, 27, 0.7, 0.5)]) {
      expect([shape.before.length, shape.after.length]).toEqual([2, 2]);
      const out = blur(picture, shape);
      const twin = blurTwin(picture, shape);
      expect(largest(out, (i) => Math.abs(out[i]! - twin[i]!) / (1 + Math.abs(twin[i]!)))).toBeLessThan(2e-4);
    }
  });

  test.each([-16, 16, -33, 33])(
    'far out of focus too a lamp’s disc is even, sharp and where it belongs, and a flat colour stays flat: %d px',
    (radius) => {
      const [size, x0, y0] = [160, 81, 77];
      const shape = blurShape(disc, Math.min(0, radius), Math.max(0, radius));
      const lamp = blur(
        pictureOf(
          (x, y) => (x === x0 && y === y0 ? 1000 : 0),
          () => radius,
          size,
          size,
        ),
        shape,
      );
      const R = Math.abs(radius);
      const inside = 1000 / (Math.PI * R * R);
      let [sum, sx, sy] = [0, 0, 0];
      for (let y = 0; y < size; y++)
        for (let x = 0; x < size; x++) {
          const light = lamp[(y * size + x) * 4]!;
          sum += light;
          sx += light * (x - x0);
          sy += light * (y - y0);
        }
      expect(Math.abs(sum / 1000 - 1)).toBeLessThan(1e-3);
      expect(Math.hypot(sx, sy) / sum).toBeLessThan(0.02);
      const off = (d: number): number => lamp[(y0 * size + x0 + d) * 4]! / inside;
      for (const d of [0, R / 2, 2 - R, R - 2]) expect(off(Math.round(d))).toBeCloseTo(1, 1);
      for (const d of [R + 2, -R - 2]) expect(off(d)).toBeLessThan(0.01);
      const flat = blur(
        pictureOf(
          () => 0.5,
          () => radius,
          size,
          size,
        ),
        shape,
      );
      expect(largest(flat, (i) => (i % 4 === 0 ? Math.abs(flat[i]! - 0.5) : 0))).toBeLessThan(1e-4);
    },
  );

  test('a lamp far beyond the focus is cut by a sharp post before it, and by a blurred one', () => {
    for (const [post, seen] of [
      [0, [1, 0]],
      [13, [1, 0.5]],
    ] as const) {
      const picture = pictureOf(
        (x, y) => (x === 60 && y === 45 ? 1000 : 0),
        (x) => (x >= 62 && x < 100 ? post : 22),
      );
      const out = blur(picture, blurShape(disc, 0, 22));
      const inside = 1000 / (Math.PI * 22 * 22);
      // to the left all of the disc is seen; within a sharp post nothing; at the edge of a blurred one half of it
      expect(out[(45 * W + 42) * 4]! / inside).toBeCloseTo(seen[0], 1);
      expect(Math.abs(out[(45 * W + (post ? 62 : 70)) * 4]! / inside - seen[1])).toBeLessThan(0.12);
    }
  });

  test('lamps whose radius is rounded into the next sheet are seen as the twin sees them', () => {
    const shape = blurShape(disc, -27, 27);
    const ends = [...shape.before, ...shape.after].flatMap(({ least, beyond }) => [least, beyond]).filter(Number.isFinite);
    expect(ends).toHaveLength(6);
    // one lamp alone for each: no other has asked for the share of its slice
    for (const end of new Set(ends))
      for (const aside of [-0.12, -0.01, 0.01, 0.12]) {
        const picture = pictureOf(
          (x, y) => (x === 30 && y === 22 ? 400 : 0.01),
          (x, y) => (x === 30 && y === 22 ? end + aside : 0.6 * end),
          60,
          44,
        );
        const [out, twin] = [blur(picture, shape), blurTwin(picture, shape)];
        expect(largest(out, (i) => Math.abs(out[i]! - twin[i]!) / (1 + Math.abs(twin[i]!)))).toBeLessThan(2e-4);
      }
  });

  test('a continuous surface shows no seam where half the size begins', () => {
    const out = blur(
      pictureOf(
        () => 0.5,
        (_, y) => -20 + (40 * y) / H,
      ),
      blurShape(disc, -20, 20),
    );
    expect(largest(out, (i) => (i % 4 === 0 ? Math.abs(out[i]! - 0.5) : 0))).toBeLessThan(1e-3);
  });

  test('bands put together are bit-identical to one piece', () => {
    const tall = pictureOf(
      (x, y) => (x % 31 === 3 && y % 37 === 5 ? 20 : 0.4 * noise(x, y % H)),
      (x, y) => (x % 50 < 20 ? -24 : (27 * y) / 300),
      W,
      300,
    );
    const far = blurShape(hexagon, -24, 27);
    const inOne = blur(tall, far);
    const inBands = new Float32Array(inOne.length).fill(1);
    for (const [a, b] of [
      [0, 24],
      [24, 134],
      [134, 300],
    ] as const)
      blurRows(tall, far, a, b, inBands);
    expect(Buffer.compare(Buffer.from(inBands.buffer), Buffer.from(inOne.buffer))).toBe(0);
    const picture = pictureOf(noise, (x, y) => (x % 50 < 20 ? -5 : (7 * y) / H));
    for (const shape of [blurShape(hexagon, -5, 7), blurShape(hexagon, -5, 7, 0.7, 0.4)]) {
      const whole = blur(picture, shape);
      const parts = new Float32Array(whole.length).fill(1);
      for (const [a, b] of [
        [0, 24],
        [24, 58],
        [58, H],
      ] as const)
        blurRows(picture, shape, a, b, parts);
      expect(Buffer.compare(Buffer.from(parts.buffer), Buffer.from(whole.buffer))).toBe(0);
    }
    const shape = blurShape(hexagon, -5, 7);
    const { from, to } = sourceRows(shape, 4000, 2000, 2100);
    expect(from).toBeLessThan(2000 - 7);
    expect(to).toBeGreaterThan(2100 + 7);
  });

  test('it stops when asked to', () => {
    const picture = pictureOf(noise, () => 3);
    const out = new Float32Array(W * H * 4).fill(-1);
    const stop = (row: number): void => {
      if (row >= 40) throw new Aborted();
    };
    expect(() => blurRows(picture, blurShape(disc, 0, 3), 0, H, out, stop)).toThrow(Aborted);
    expect(out[0]).not.toBe(-1);
    expect(out[(H - 1) * W * 4]).toBe(-1);
  });

  test('the hidden plate continues the ground behind a bar and nothing behind the ground', () => {
    const picture = pictureOf(
      (x) => (x >= 50 && x < 58 ? 1 : 0.25),
      (x) => (x >= 50 && x < 58 ? -8 : 0),
    );
    const hidden = hiddenPlateTwin(picture, 8);
    // it is at half the size
    const i = (22 * (W / 2) + 27) * 4;
    expect(hidden[i + 3]).toBeCloseTo(0, 5);
    expect(hidden[i]).toBeCloseTo(0.25, 5);
    expect(hidden[(22 * (W / 2) + 5) * 4 + 3]).toBe(NOTHING);
  });
});

describe('radii beside the light', () => {
  const [w, h] = [39, 12];
  const plain: LensRadii = { atInfinity: 6, scale: 12, least: -100, most: 100, snapAbove: Infinity };
  /** the distance that a radius of `plain` stands for */
  const metres = (rho: number): number => 12 / (6 - rho);
  const pack = (rho: (x: number, i: number) => number, lens: Partial<LensRadii> = {}, light?: Float32Array) => {
    const distance = Float32Array.from({ length: w * h }, (_, i) => metres(rho(i % w, i)));
    const packed = new Float32Array(w * h * 4);
    const found = packLight(light ?? new Float32Array(w * h * 4).fill(1), distance, w, { ...plain, ...lens }, packed);
    return { found, packed, radii: packed.filter((_, i) => i % 4 === 3) };
  };

  test('the thin lens, within its limits, at infinity too', () => {
    const { radii, found } = pack((x) => (x === 3 ? 6 : x - 20), { least: -8 });
    expect(largest(radii, (i) => Math.abs(radii[i]! - (i % w === 3 ? 6 : Math.max(-8, (i % w) - 20))))).toBeLessThan(1e-4);
    expect(found.lowest).toBe(-8);
    expect(found.highest).toBeCloseTo(18, 4);
  });

  test('the range holds 0; light is kept, its strongest channel and its thinnest alpha are told', () => {
    const light = Float32Array.from({ length: w * h * 4 }, (_, i) => (i % 4 === 3 ? 1 : (i % 7) / 10));
    light[4 * 100 + 1] = 3;
    light[4 * (w * h - 1) + 3] = 0.25;
    const { packed, found } = pack(() => 2, {}, light);
    expect(found.lowest).toBe(0);
    expect(found.highest).toBeCloseTo(2, 5);
    expect(found.brightest).toBe(3);
    expect(found.thinnest).toBe(0.25);
    expect(largest(packed, (i) => (i % 4 === 3 ? 0 : Math.abs(packed[i]! - light[i]!)))).toBe(0);
  });

  test('in-between radii of a soft edge join the nearer side; gentle slopes are left', () => {
    const { radii } = pack((x) => (x < 20 ? -6 : x === 20 ? -2 : x === 21 ? 3 : 5), { snapAbove: 1.5 });
    expect(largest(radii, (i) => Math.abs(radii[i]! - (i % w <= 20 ? -6 : 5)))).toBeLessThan(1e-5);
    const slope = pack((x) => x * 0.2 - 4);
    expect(pack((x) => x * 0.2 - 4, { snapAbove: 1.5 }).radii).toEqual(slope.radii);
  });
});

describe('guided filter', () => {
  const guide = newPicture(48, 40);
  const map = newPlane(48, 40);
  const r = seededRandom(3);
  for (let i = 0; i < map.data.length; i++) {
    const right = i % 48 > 23;
    guide.data.set([right ? 0.9 : 0.1, right ? 0.2 : 0.6, 0.4 + 0.05 * r(), 1], i * 4);
    map.data[i] = (right ? 0.8 : 0.3) + 0.1 * (r() - 0.5);
  }
  test('the kernel at full size does what its twin does', () => {
    const out = guidedEnlarge(guide, map, 3, 1e-3, picturesRows(guide));
    const twin = guidedTwin(guide, map, 3, 1e-3);
    expect(largest(out.data, (i) => Math.abs(out.data[i]! - twin.data[i]!))).toBeLessThan(1e-4);
  });
  test('it smooths within surfaces and keeps the edge', () => {
    const out = guidedEnlarge(guide, map, 4, 1e-4, picturesRows(guide));
    const at = (x: number): number => out.data[20 * 48 + x]!;
    expect(Math.abs(at(10) - 0.3)).toBeLessThan(0.03);
    expect(at(25) - at(22)).toBeGreaterThan(0.4);
  });
  test('a constant map stays constant', () => {
    const flat = newPlane(48, 40);
    flat.data.fill(0.7);
    for (const v of guidedEnlarge(guide, flat, 3, 1e-3, picturesRows(guide)).data) expect(v).toBeCloseTo(0.7, 4);
  });
});
