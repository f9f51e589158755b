import { describe, expect, test } from '@jest/globals';
import { seededRandom } from '../../random';
import { newPlane, constantPlane, newPicture, type Plane } from '../../picture';
import { defaultsOf } from '../../values/params';
import { distanceOf, nearnessOf, type Calibration } from '../calibrate';
import { contentOf, type LayerDefinition, type LayerInput } from '../definition';
import { polygonCoverage } from '../outline/area';
import { flattenCurve } from '../outline/curve';
import { brushLayer, strokeCover } from './brush/brush';
import { strokeSchema, thinStroke, type Stroke } from './brush/content';
import { flatsLayer } from './flats/flats';
import { freePlace } from './flats/place';
import { groundLayer } from './ground';
import { layerOf } from './registry';
import { shapeSchema, type Shape } from './shape/content';
import { shapeCover, shapeLayer, shapeNearness } from './shape/shape';

const [W, H] = [200, 100];
const calibration: Calibration = { low: 0, high: 1, turnOver: false, bend: 1, near: 1, far: 50, spacing: 'perspective' };

const inputFor = (definition: LayerDefinition, content: unknown, change: Partial<LayerInput<never>> = {}): LayerInput<never> =>
  ({
    width: W,
    height: H,
    params: defaultsOf(definition.params),
    content: contentOf(definition, content),
    framing: { a: 1, b: 0, c: 0, d: 0, e: 1, f: 0 },
    plateSize: { width: W, height: H },
    map: null,
    picture: newPicture(W, H),
    below: constantPlane(W, H, 0.4),
    calibration,
    anchors: {},
    remember: <T>(_made: readonly unknown[], make: () => T): T => make(),
    rememberAlone: <T>(_made: readonly unknown[], make: () => T): T => make(),
    rasterOf: () => null,
    ...change,
  }) as unknown as LayerInput<never>;
const run = (kind: string, content: unknown, change: Partial<LayerInput<never>> = {}) =>
  layerOf(kind).build(inputFor(layerOf(kind), content, change))!;
const at = (plane: Plane, x: number, y: number): number => plane.data[y * plane.width + x]!;

describe('area of a polygon', () => {
  test('a rectangle between pixels covers each by its exact share', () => {
    const c = polygonCoverage(Float64Array.from([1.25, 1.5, 3.5, 1.5, 3.5, 3, 1.25, 3]), 5, 4);
    expect([...c.data.subarray(5, 10)].map((v) => Number(v.toFixed(6)))).toEqual([0, 0.375, 0.5, 0.25, 0]);
    expect([...c.data.subarray(10, 15)].map((v) => Number(v.toFixed(6)))).toEqual([0, 0.75, 1, 0.5, 0]);
    expect(c.data.subarray(15).every((v) => v === 0)).toBe(true);
  });
  test('random triangles, also beyond the borders, agree with 32x32 samples a pixel and turn round freely', () => {
    const random = seededRandom(11);
    for (let k = 0; k < 12; k++) {
      const xy = Float64Array.from({ length: 6 }, () => -4 + 20 * random());
      const c = polygonCoverage(xy, 12, 12);
      const back = polygonCoverage(Float64Array.from([xy[4]!, xy[5]!, xy[2]!, xy[3]!, xy[0]!, xy[1]!]), 12, 12);
      const side = (ax: number, ay: number, bx: number, by: number, x: number, y: number): boolean => (bx - ax) * (y - ay) - (by - ay) * (x - ax) > 0;
      for (let i = 0; i < 144; i++) {
        let inside = 0;
        for (let s = 0; s < 1024; s++) {
          const x = (i % 12) + ((s % 32) + 0.5) / 32;
          const y = Math.floor(i / 12) + (Math.floor(s / 32) + 0.5) / 32;
          const [a, b, d] = [0, 2, 4].map((q) => side(xy[q]!, xy[q + 1]!, xy[(q + 2) % 6]!, xy[(q + 3) % 6]!, x, y));
          if (a === b && b === d) inside++;
        }
        expect(Math.abs(c.data[i]! - inside / 1024)).toBeLessThan(0.03);
        expect(back.data[i]).toBeCloseTo(c.data[i]!, 5);
      }
    }
  });
  test('a circle of curves has the area of a circle', () => {
    const k = 0.5522847498;
    const points = [
      { x: 0.75, y: 0.5, inX: 0, inY: -0.25 * k, outX: 0, outY: 0.25 * k },
      { x: 0.5, y: 0.75, inX: 0.25 * k, inY: 0, outX: -0.25 * k, outY: 0 },
      { x: 0.25, y: 0.5, inX: 0, inY: 0.25 * k, outX: 0, outY: -0.25 * k },
      { x: 0.5, y: 0.25, inX: -0.25 * k, inY: 0, outX: 0.25 * k, outY: 0 },
    ];
    const { xy } = flattenCurve(points, (x, y) => [100 * x, 100 * y]);
    const sum = polygonCoverage(xy, 100, 100).data.reduce((a, b) => a + b, 0);
    expect(Math.abs(sum / (Math.PI * 625) - 1)).toBeLessThan(0.001);
  });
});

const square = (change: Partial<Shape> = {}): Shape => ({
  ...shapeSchema.parse({
    id: 's',
    name: 'Square',
    points: [
      { x: 0.25, y: 0.2 },
      { x: 0.75, y: 0.2 },
      { x: 0.75, y: 0.8 },
      { x: 0.25, y: 0.8 },
    ],
  }),
  ...change,
});

describe('shapes', () => {
  const input = inputFor(layerOf('shape'), {});
  const shapeCoverage = (shape: Shape, at: LayerInput<never>): Plane => {
    const whole = newPlane(at.width, at.height);
    const cover = shapeCover(shape, at)!;
    for (let y = 0; y < cover.height; y++)
      whole.data.set(cover.data.subarray(y * cover.width, (y + 1) * cover.width), (cover.y0 + y) * at.width + cover.x0);
    return whole;
  };
  const row = (shape: Shape): Float32Array => shapeCoverage(shape, input).data.subarray(50 * W, 51 * W);
  test('a feather is half inside and half outside, falls steadily and is as wide as it says', () => {
    const r = row(square({ feather: 20 }));
    expect(r[39]).toBe(0);
    expect(r[60]).toBe(1);
    expect((r[49]! + r[50]!) / 2).toBeCloseTo(0.5, 3);
    for (let x = 40; x < 60; x++) expect(r[x + 1]!).toBeGreaterThan(r[x]!);
  });
  test('growing and shrinking move the edge by so many pixels of the plate, at any size of rendering', () => {
    const covered = (r: Float32Array): number => r.reduce((a, b) => a + b, 0);
    expect(covered(row(square({ grow: 6 })))).toBeCloseTo(112, 1);
    expect(covered(row(square({ grow: -6 })))).toBeCloseTo(88, 1);
    const half = inputFor(layerOf('shape'), {}, { width: 100, height: 50, framing: { a: 2, b: 0, c: 0, d: 0, e: 2, f: 0 } });
    expect(covered(shapeCoverage(square({ grow: 6 }), half).data.subarray(25 * 100, 26 * 100))).toBeCloseTo(56, 1);
  });
  test('a point’s own feather softens the edge beside it alone', () => {
    const shape = square();
    const soft = shapeCoverage({ ...shape, points: shape.points.map((p, i) => (i === 0 ? { ...p, feather: 30 } : p)) }, input);
    const width = (y: number, from: number, to: number): number =>
      soft.data.subarray(y * W + from, y * W + to).filter((v) => v > 0.01 && v < 0.99).length;
    expect(width(40, 20, 90)).toBeGreaterThan(8);
    expect(width(50, 130, 180)).toBeLessThanOrEqual(2);
  });
  test('two nearnesses run along their direction and stop at its ends', () => {
    const shape = square({ nearness: 0.2, slope: { nearness: 0.8, x0: 0.3, y0: 0, x1: 0.7, y1: 0 } });
    expect(shapeNearness(shape, 0.5, 0.9)).toBeCloseTo(0.5, 9);
    expect(shapeNearness(shape, 0.1, 0.5)).toBe(0.2);
    expect(shapeNearness(shape, 0.9, 0.5)).toBeCloseTo(0.8, 9);
  });
  test('later shapes lie over earlier ones; half opacity mixes them', () => {
    const { nearness, coverage } = run('shape', { shapes: [square({ nearness: 0.2 }), square({ id: 't', nearness: 0.8, opacity: 0.5 })] });
    expect(at(nearness, 100, 50)).toBeCloseTo(0.5, 6);
    expect(at(coverage!, 100, 50)).toBe(1);
    expect(at(coverage!, 5, 5)).toBe(0);
  });
  test('a shape tied to a head takes its distance, set off', () => {
    const { nearness } = run('shape', { shapes: [square({ tie: { layer: 'head', offset: -0.5 } })] }, { anchors: { head: 3 } });
    expect(distanceOf(nearnessOf(at(nearness, 100, 50), calibration), calibration)).toBeCloseTo(2.5, 4);
  });
  test('its words count', () => expect(shapeLayer.summary({}, { shapes: [square()], follow: null })).toBe('1 shape'));
});

const stroke = (change: Partial<Stroke> = {}): Stroke => ({
  ...strokeSchema.parse({ id: 'b', mode: 'nearer', points: [0.2, 0.5, 1, 0.8, 0.5, 1], radius: 10, softness: 0, amount: 0.25 }),
  ...change,
});

describe('brush', () => {
  test('a stroke that crosses itself covers no more than once; a second stroke builds on it', () => {
    const crossing = stroke({ points: [0.2, 0.5, 1, 0.8, 0.5, 1, 0.5, 0.2, 1, 0.5, 0.9, 1] });
    const once = run('brush', { strokes: [crossing] }).nearness;
    expect(at(once, 100, 50)).toBeCloseTo(0.65, 6);
    expect(at(once, 60, 50)).toBeCloseTo(0.65, 6);
    const twice = run('brush', { strokes: [crossing, stroke({ id: 'c' })] }).nearness;
    expect(at(twice, 60, 50)).toBeCloseTo(0.9, 6);
    expect(at(twice, 10, 10)).toBeCloseTo(0.4, 6);
  });
  test('coverage does not depend on how densely the pointer was sampled', () => {
    const dense: number[] = [];
    for (let i = 0; i <= 600; i++) dense.push(0.2 + (0.6 * i) / 600, 0.5, 1);
    const thin = thinStroke(dense, 10, { width: W, height: H });
    expect(thin.length).toBeLessThan(dense.length / 3);
    const [a, b] = [dense, thin].map((points) => strokeCover(stroke({ points, softness: 0.6 }), inputFor(layerOf('brush'), {}))!);
    for (let i = 0; i < a!.data.length; i++) expect(Math.abs(a!.data[i]! - b!.data[i]!)).toBeLessThan(1e-3);
  });
  test('pressure narrows the stroke; softness fades it from the middle', () => {
    const cover = strokeCover(stroke({ points: [0.2, 0.5, 1, 0.8, 0.5, 0.2], radius: 20 }), inputFor(layerOf('brush'), {}))!;
    const tall = (x: number): number =>
      Array.from({ length: cover.height }, (_, v) => cover.data[v * cover.width + x - cover.x0]!).filter((v) => v > 0.5).length;
    expect(tall(45)).toBeGreaterThan(35);
    expect(tall(155)).toBeLessThan(14);
    const soft = strokeCover(stroke({ points: [0.5, 0.5, 1], radius: 20, softness: 1 }), inputFor(layerOf('brush'), {}))!;
    const value = (x: number): number => soft.data[(50 - soft.y0) * soft.width + x - soft.x0]!;
    expect(value(100)).toBeGreaterThan(0.98);
    expect(value(110)).toBeCloseTo(0.5, 1);
  });
  test('set, farther, smooth and erase do what they say', () => {
    const set = run('brush', { strokes: [stroke({ mode: 'set', amount: 1, nearness: 0.9 })] }).nearness;
    expect(at(set, 100, 50)).toBeCloseTo(0.9, 6);
    const farther = run('brush', { strokes: [stroke({ mode: 'farther', amount: 0.3 })] }).nearness;
    expect(at(farther, 100, 50)).toBeCloseTo(0.1, 6);
    const erased = run('brush', {
      strokes: [stroke(), stroke({ id: 'e', mode: 'erase', amount: 1, points: [0.45, 0.5, 1, 0.55, 0.5, 1] })],
    }).nearness;
    expect(at(erased, 100, 50)).toBeCloseTo(0.4, 6);
    expect(at(erased, 50, 50)).toBeCloseTo(0.65, 6);
    const step = constantPlane(W, H, 0.2);
    for (let i = 0; i < step.data.length; i++) if (i % W >= 100) step.data[i] = 0.8;
    const smoothed = run('brush', { strokes: [stroke({ mode: 'smooth', amount: 1, radius: 20 })] }, { below: step }).nearness;
    expect(at(smoothed, 99, 50)).toBeGreaterThan(0.35);
    expect(at(smoothed, 99, 5)).toBeCloseTo(0.2, 6);
  });
  test('an edge stop keeps to the colour under the start', () => {
    const picture = newPicture(W, H);
    for (let i = 0; i < W * H; i++) picture.data.set(Math.floor(i / W) < 50 ? [0.5, 0.2, 0.1, 1] : [0.1, 0.2, 0.5, 1], i * 4);
    const out = run('brush', { strokes: [stroke({ points: [0.2, 0.45, 1, 0.8, 0.45, 1], radius: 20, edgeStop: 0.9 })] }, { picture }).nearness;
    expect(at(out, 100, 44)).toBeCloseTo(0.65, 3);
    expect(at(out, 100, 56)).toBeCloseTo(0.4, 3);
  });
  test('many strokes come out the same however they are kept together', () => {
    const strokes = Array.from({ length: 19 }, (_, i) =>
      stroke({ id: `s${i}`, amount: 0.02, points: [0.1 + i * 0.03, 0.3, 1, 0.9, 0.3 + i * 0.02, 1] }),
    );
    const kept = new Map<string, Plane>();
    const remember = ((made: readonly unknown[], make: () => Plane) => {
      const key = JSON.stringify(made);
      if (!kept.has(key)) kept.set(key, make());
      return kept.get(key)!;
    }) as LayerInput<never>['remember'];
    const grown = Array.from({ length: 19 }, (_, n) => run('brush', { strokes: strokes.slice(0, n + 1) }, { remember }).nearness)[18]!;
    expect(grown.data).toEqual(run('brush', { strokes }).nearness.data);
  });
  test('without strokes there is nothing', () => expect(brushLayer.build(inputFor(layerOf('brush'), {}) as never)).toBeNull());
});

describe('ground', () => {
  const ground = (change: object, framing = {}) =>
    groundLayer.build({ ...inputFor(layerOf('ground'), {}, framing), params: { ...defaultsOf(groundLayer.params), ...change } })!.nearness;
  test('a level ground seen by a level camera comes out exact', () => {
    // camera 1.5 m above the ground: 1/z is linear below the horizon
    const nearness = ground({ horizon: 40, soft: 0 });
    const bottom = 1.5 / 60;
    for (const y of [45, 60, 80, 99]) {
      const truth = (y + 0.5 - 40) / 60;
      expect(at(nearness, 100, y)).toBeCloseTo(truth, 5);
      expect((1.5 / (y + 0.5 - 40)) * truth).toBeCloseTo(bottom, 8);
    }
    expect(at(nearness, 100, 30)).toBe(0);
  });
  test('tilt turns the line about the middle of the plate', () => {
    const nearness = ground({ horizon: 40, tilt: 10, soft: 0 });
    const line = (x: number): number => 40 + (x - 100) * Math.tan((10 * Math.PI) / 180);
    for (const x of [20, 100, 180]) {
      expect(at(nearness, x, Math.ceil(line(x)) + 1)).toBeGreaterThan(0);
      expect(at(nearness, x, Math.floor(line(x)) - 2)).toBe(0);
    }
  });
  test('it stays with the plate when the framing changes', () => {
    const whole = ground({ horizon: 40 });
    const zoomed = ground({ horizon: 40 }, { framing: { a: 0.5, b: 0, c: 50, d: 0, e: 0.5, f: 40 } });
    expect(at(zoomed, 100, 60)).toBeCloseTo(0.5 * (at(whole, 100, 69) + at(whole, 100, 70)), 2);
  });
});

describe('flats', () => {
  const flats = [
    { id: 'a', name: 'Back', x: 0.5, y: 0.9, height: 0.8, aspect: 2, distance: 12, colour: '#ffffff' },
    { id: 'b', name: 'Front', x: 0.5, y: 0.7, height: 0.4, aspect: 1, distance: 2.5, colour: '#808080' },
  ];
  test('each stands at exactly its distance, the nearer in front', () => {
    const { nearness, coverage } = run('flats', { flats: [flats[1], flats[0]] });
    const metres = (x: number, y: number): number => distanceOf(nearnessOf(at(nearness, x, y), calibration), calibration);
    expect(metres(100, 60)).toBeCloseTo(2.5, 4);
    expect(metres(40, 60)).toBeCloseTo(12, 3);
    expect(at(coverage!, 5, 60)).toBe(0);
  });
  test('the composed plate shows the same, in linear light', () => {
    const picture = flatsLayer.paint!(inputFor(layerOf('flats'), { flats }) as never)!;
    const pixel = (x: number, y: number): number[] => [...picture.data.subarray((y * W + x) * 4, (y * W + x) * 4 + 4)];
    expect(pixel(100, 60)[0]).toBeCloseTo(0.2159, 3);
    expect(pixel(40, 60)).toEqual([1, 1, 1, 1]);
    expect(pixel(5, 60)).toEqual([0, 0, 0, 0]);
  });
  test('a picture with alpha is there where it is mostly solid', () => {
    const raster = { width: 2, height: 1, channels: 4 as const, data: Uint8Array.from([255, 0, 0, 255, 0, 255, 0, 60]) };
    const media = { sha256: 'a'.repeat(64), name: 'f.png', width: 2, height: 1 };
    const { coverage } = run('flats', { flats: [{ ...flats[0], aspect: 2, media }] }, { rasterOf: () => raster });
    expect(at(coverage!, 40, 60)).toBe(1);
    expect(at(coverage!, 165, 60)).toBe(0);
    expect(run('flats', { flats: [{ ...flats[0], media }] }).coverage!.data.every((v) => v === 0)).toBe(true);
  });
});

describe('a free place for a new flat', () => {
  const aspect = 16 / 9;
  const overlap = (a: Parameters<typeof freePlace>[0][number], b: typeof a): boolean =>
    Math.abs(a.x - b.x) < (a.height * a.aspect + b.height * b.aspect) / 2 / aspect - 1e-9 && a.y > b.y - b.height && b.y > a.y - a.height;
  test('the first stands in the middle; cards and words after it stand free of all before, within the plate', () => {
    const sizes = [{ height: 0.4, aspect: 0.7 }, ...Array.from({ length: 9 }, (_, k) => ({ height: 0.14, aspect: 2 + 0.4 * k }))];
    const placed: { x: number; y: number; height: number; aspect: number }[] = [];
    for (const size of sizes) placed.push({ ...size, ...freePlace(placed, size, aspect) });
    expect(placed[0]).toMatchObject({ x: 0.5, y: 0.9 });
    placed.forEach((a, i) => placed.slice(0, i).forEach((b) => expect(overlap(a, b)).toBe(false)));
    for (const f of placed) {
      expect(f.x - (f.height * f.aspect) / aspect / 2).toBeGreaterThanOrEqual(0);
      expect(f.x + (f.height * f.aspect) / aspect / 2).toBeLessThanOrEqual(1);
      expect(f.y - f.height).toBeGreaterThanOrEqual(0);
    }
  });
  test('once the plate is full they lie a little off the last', () => {
    const whole = { x: 0.5, y: 1, height: 1, aspect };
    const at = freePlace([whole], { height: 0.5, aspect: 1 }, aspect);
    expect(at.x).toBeCloseTo(0.52, 9);
  });
});
