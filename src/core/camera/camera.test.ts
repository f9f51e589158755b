import { describe, expect, test } from '@jest/globals';
import { seededRandom } from '../random';
import { linearToSrgb } from '../raster/colour';
import { newPicture, newPlane, type Picture, type Plane } from '../picture';
import { runAlone, type Run } from '../run';
import { layPlate } from './behind';
import { firmDistances, firmEdges } from './firmEdges';
import { JOINED_BELOW, JOINED_RIGHT } from './layered';
import { addPoses, AT_PLATE, plateLens, poseOf, ViewGeometry, type CameraPose, type Placed, type PlateLens } from './pose';
import { overscanFor, stretchAt, survey } from './relief';
import { isPlate, extentOf, viewFrom, type View } from './view';
import { viewKernel, type ViewInput } from './viewKernel';
import { viewRowsPlainly } from './viewTwin';

const run = runAlone();

/** A smooth coloured pattern, its light at a place in px. */
const pattern = (x: number, y: number, k: number): number => 0.45 + 0.25 * Math.sin(0.09 * x + k) + 0.2 * Math.cos(0.07 * y - 0.5 * k);

function painted(width: number, height: number, light: (x: number, y: number, k: number) => number): Picture {
  const picture = newPicture(width, height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      for (let k = 0; k < 3; k++) picture.data[(y * width + x) * 4 + k] = light(x + 0.5, y + 0.5, k);
      picture.data[(y * width + x) * 4 + 3] = 1;
    }
  return picture;
}

function placed(width: number, height: number, distance: (x: number, y: number) => number): Plane {
  const plane = newPlane(width, height);
  for (let i = 0; i < plane.data.length; i++) plane.data[i] = distance((i % width) + 0.5, Math.floor(i / width) + 0.5);
  return plane;
}

const seenBy = async (picture: Picture, distance: Plane, lens: PlateLens, pose: CameraPose, with_: Run = run, enlarged = 1): Promise<View> => {
  const qs = Array.from(distance.data, (z) => 1 / z);
  const ends = [Math.min(...qs), Math.max(...qs)];
  const extent = extentOf(lens, [{ pose, enlarged }], ends, 'mirrored', true);
  return viewFrom(with_, layPlate(picture, distance, extent), lens, { pose, enlarged }, true);
};

describe('the geometry of a moved camera', () => {
  const lens: PlateLens = { width: 300, height: 200, focalPx: 250, axisX: 140, axisY: 110 };

  test('back and forth is where it began, for any pose', () => {
    const random = seededRandom(3);
    const [a, b]: [Placed, Placed] = [
      { x: 0, y: 0, q: 0 },
      { x: 0, y: 0, q: 0 },
    ];
    for (let n = 0; n < 200; n++) {
      const r = (size: number): number => size * (2 * random() - 1);
      const pose: CameraPose = {
        x: r(0.4),
        y: r(0.4),
        z: r(0.4),
        yaw: r(0.4),
        pitch: r(0.4),
        roll: r(2),
        zoom: 1 + r(0.5),
        shiftX: r(0.2),
        shiftY: r(0.2),
      };
      const g = new ViewGeometry(lens, pose, 1 + 0.2 * random());
      const [x, y, q] = [300 * random(), 200 * random(), 0.8 * random()];
      expect(g.forward(x, y, q, a)).toBe(true);
      expect(g.backward(a.x, a.y, a.q, b)).toBe(true);
      expect(b.x).toBeCloseTo(x, 7);
      expect(b.y).toBeCloseTo(y, 7);
      expect(b.q).toBeCloseTo(q, 9);
    }
  });

  test('axes: a camera that moves or turns right sees things farther left, up lower, clockwise turned the other way', () => {
    const at = (pose: Partial<CameraPose>, x = 140, y = 110): Placed => {
      const out = { x: 0, y: 0, q: 0 };
      new ViewGeometry(lens, poseOf(pose)).forward(x, y, 0.5, out);
      return out;
    };
    expect(at({ x: 0.1 })).toMatchObject({ x: 140 - 250 * 0.1 * 0.5, y: 110, q: 0.5 });
    expect(at({ y: 0.1 })).toMatchObject({ x: 140, y: 110 - 250 * 0.1 * 0.5 });
    expect(at({ yaw: 0.1 }).x).toBeCloseTo(140 - 250 * Math.tan(0.1), 6);
    expect(at({ pitch: 0.1 }).y).toBeCloseTo(110 + 250 * Math.tan(0.1), 6);
    // what was right of the middle stands above it once the camera is rolled a quarter clockwise
    expect(at({ roll: Math.PI / 2 }, 190).y).toBeCloseTo(60, 6);
    expect(at({ z: 1 }).q).toBeCloseTo(1, 9);
  });

  test('moves add up: places and turns by sums, zooms by products', () => {
    const sum = addPoses(poseOf({ x: 1, yaw: 0.2, zoom: 2 }), poseOf({ x: 0.5, z: -1, zoom: 1.5 }));
    expect(sum).toEqual({ ...AT_PLATE, x: 1.5, z: -1, yaw: 0.2, zoom: 3 });
    expect(isPlate({ pose: addPoses(AT_PLATE, AT_PLATE), enlarged: 1 })).toBe(true);
    expect(isPlate({ pose: poseOf({ z: 1e-9 }), enlarged: 1 })).toBe(false);
  });
});

describe('a view of a plane', () => {
  const [width, height] = [220, 150];
  const lens = plateLens(width, height, 50);
  const picture = painted(width, height, pattern);

  test.each([
    ['truck', { x: 0.12 }],
    ['rise', { y: -0.09 }],
    ['push-in', { z: 0.4 }],
    ['roll', { roll: 0.12 }],
    ['all at once', { x: -0.08, y: 0.05, z: 0.2, yaw: 0.03, pitch: -0.02, roll: 0.05, zoom: 1.1 }],
  ] as const)('under %s meets the analytic homography within 0.02 of sRGB, and its distances are exact', async (_, part) => {
    const pose = poseOf(part);
    const z = 2.5;
    const got = await seenBy(
      picture,
      placed(width, height, () => z),
      lens,
      pose,
    );
    const g = new ViewGeometry(lens, pose);
    // places of the plane by the homography of three of its rays: R·K⁻¹·x' cut with the plane z = 2.5
    const place: Placed = { x: 0, y: 0, q: 0 };
    let [worst, seen, farthest, off] = [0, 0, 0, 0];
    for (let y = 12; y < height - 12; y++)
      for (let x = 12; x < width - 12; x++) {
        const { r, tx, ty, tz, f, f2, cx, cy, cx2, cy2 } = g;
        const [u, v] = [(x + 0.5 - cx2) / f2, (y + 0.5 - cy2) / f2];
        const ray = [r[0]! * u + r[3]! * v + r[6]!, r[1]! * u + r[4]! * v + r[7]!, r[2]! * u + r[5]! * v + r[8]!];
        const depth = (z - tz) / ray[2]!;
        const [sx, sy] = [cx + (f * (tx + ray[0]! * depth)) / z, cy + (f * (ty + ray[1]! * depth)) / z];
        if (sx < 6 || sy < 6 || sx > width - 6 || sy > height - 6) continue;
        seen++;
        for (let k = 0; k < 3; k++)
          worst = Math.max(worst, Math.abs(linearToSrgb(got.picture.data[(y * width + x) * 4 + k]!) - linearToSrgb(pattern(sx, sy, k))));
        farthest = Math.max(farthest, Math.abs(got.distance.data[y * width + x]! / depth - 1));
        g.forward(sx, sy, 1 / z, place);
        off = Math.max(off, Math.abs(1 / place.q - depth));
      }
    expect(seen).toBeGreaterThan(9000);
    expect(worst).toBeLessThan(0.02);
    expect(farthest).toBeLessThan(1e-5);
    expect(off).toBeLessThan(1e-6);
  });

  test('slanted ground is one surface, whatever its slope; a step in depth is none', () => {
    const reach = { gain: 40, pad: 4, border: 'mirrored', hidden: true } as const;
    const ground = layPlate(
      picture,
      placed(width, height, (x, y) => 1 / (0.05 + 0.003 * y + 0.001 * x)),
      reach,
    );
    const inner = (f: (i: number) => void): void => {
      for (let y = 6; y < ground.height - 6; y++) for (let x = 6; x < ground.width - 6; x++) f(y * ground.width + x);
    };
    let torn = 0;
    inner((i) => (torn += (ground.flags[i]! & (JOINED_RIGHT | JOINED_BELOW)) === (JOINED_RIGHT | JOINED_BELOW) ? 0 : 1));
    expect(torn).toBe(0);
    expect(ground.hidden.pixel.length).toBe(0);
    const step = layPlate(
      picture,
      placed(width, height, (x) => (x < 100 ? 1 : 3)),
      reach,
    );
    let cuts = 0;
    inner((i) => (cuts += step.flags[i]! & JOINED_RIGHT ? 0 : 1));
    expect(cuts).toBe(step.height - 12);
  });
});

describe('a near thing before a far one', () => {
  const [width, height] = [240, 120];
  const lens = plateLens(width, height, 45);
  /** red from x = 90 to 150 at 1 m, green behind it at 4 m */
  const near = (x: number): boolean => x > 90 && x < 150;
  const picture = painted(width, height, (x, _, k) => (near(x) ? (k === 0 ? 0.7 : 0.02) : k === 1 ? 0.5 : 0.05));
  const distance = placed(width, height, (x) => (near(x) ? 1 : 4));
  const pose = poseOf({ x: 0.04 });
  const opens = lens.focalPx * 0.04 * (1 - 1 / 4);

  test('what opens is as wide as the formula says, is filled with what lies behind, and nothing of red is left in it', async () => {
    const { picture: got, distance: far, uncovered } = await seenBy(picture, distance, lens, pose);
    const row = 60 * width;
    let open = 0;
    for (let x = 0; x < width; x++) open += uncovered[row + x]!;
    expect(Math.abs(open - opens)).toBeLessThanOrEqual(1.5);
    for (let x = 0; x < width; x++) {
      if (!uncovered[row + x]) continue;
      expect(got.data[(row + x) * 4]!).toBeLessThan(0.07);
      expect(got.data[(row + x) * 4 + 1]!).toBeCloseTo(0.5, 1);
      expect(far.data[row + x]).toBeCloseTo(4, 3);
    }
  });

  test('colours on either side are kept: red as wide as it was, no mix outside one pixel of its edges', async () => {
    const { picture: got } = await seenBy(picture, distance, lens, pose);
    const row = 60 * width;
    let reds = 0;
    let mixed = 0;
    for (let x = 10; x < width - 10; x++) {
      const red = got.data[(row + x) * 4]!;
      if (red > 0.6) reds++;
      else if (red > 0.1) mixed++;
    }
    expect(Math.abs(reds - 60)).toBeLessThanOrEqual(2);
    expect(mixed).toBeLessThanOrEqual(2);
  });

  test('the stretch meter tells the same gap, and where', () => {
    const relief = survey(distance);
    const stretch = stretchAt(lens, pose, relief);
    expect(stretch.px).toBeCloseTo(opens, 4);
    expect(stretch.x * width).toBeCloseTo(150, 0);
    expect(stretchAt(lens, poseOf({ x: -0.04 }), relief).x * width).toBeCloseTo(90, 0);
    expect(stretchAt(lens, poseOf({ yaw: 0.1 }), relief).px).toBeLessThan(1e-6);
  });

  test('bands give the same bits as the whole', async () => {
    const moved = poseOf({ x: 0.03, y: -0.02, z: 0.1, roll: 0.04 });
    const whole = await seenBy(picture, distance, lens, moved);
    const banded: Run = {
      ...run,
      rows: (kernel, rows, input, out, look = () => undefined) => {
        for (const [a, b] of [
          [88, rows],
          [0, 34],
          [34, 36],
          [36, 88],
        ] as const)
          kernel.make(input, a, b, out, look);
        return Promise.resolve();
      },
    };
    const parts = await seenBy(picture, distance, lens, moved, banded);
    expect(parts.picture.data).toEqual(whole.picture.data);
    expect(parts.distance.data).toEqual(whole.distance.data);
  });

  test.each([true, false])('the kernel makes what its readable twin makes (cubic: %s)', (cubic) => {
    const moved = poseOf({ x: 0.03, y: -0.02, z: 0.1, roll: 0.04, yaw: 0.01, zoom: 1.05 });
    const extent = extentOf(lens, [{ pose: moved, enlarged: 1.02 }], [0.25, 1], 'mirrored', true);
    const plate = layPlate(picture, distance, extent);
    const made = [viewRowsPlainly, (i: ViewInput, a: number, b: number, out: Float32Array) => viewKernel.make(i, a, b, out, () => undefined)].map(
      (make) => {
        const out = new Float32Array(width * height * 4);
        const input = {
          plate,
          lens,
          pose: moved,
          enlarged: 1.02,
          cubic,
          distance: new Float32Array(width * height),
          uncovered: new Uint8Array(width * height),
        };
        make(input, 0, height, out);
        return { out, distance: input.distance, uncovered: input.uncovered };
      },
    );
    const [plain, fast] = made as [(typeof made)[0], (typeof made)[0]];
    // single precision decides otherwise where a pixel's middle lies on the border of a cell
    let [differ, worst] = [0, 0];
    for (let i = 0; i < width * height; i++) {
      const off = Math.max(...[0, 1, 2, 3].map((k) => Math.abs(plain.out[i * 4 + k]! - fast.out[i * 4 + k]!)));
      if (off > 2e-3 || plain.uncovered[i] !== fast.uncovered[i]) differ++;
      else worst = Math.max(worst, off, Math.abs(plain.distance[i]! / fast.distance[i]! - 1));
    }
    expect(differ).toBeLessThan(0.002 * width * height);
    expect(worst).toBeLessThan(2e-3);
  });

  test('the two eyes of a mirrored scene are the mirrored eyes of the scene', async () => {
    const flip = (x: number): number => width - x;
    const random = (x: number, y: number, k: number): number => pattern(1.7 * x, y, k) * (near(x) ? 1 : 0.4);
    const scene = painted(width, height, random);
    const mirrored = painted(width, height, (x, y, k) => random(flip(x), y, k));
    const depth = placed(width, height, (x, y) => (x > 70 && x < 150 ? 1 : 3 + y / 100));
    const depthMirrored = placed(width, height, (x, y) => (flip(x) > 70 && flip(x) < 150 ? 1 : 3 + y / 100));
    const left = await seenBy(scene, depth, lens, poseOf({ x: -0.03, shiftX: -0.02 }));
    const right = await seenBy(mirrored, depthMirrored, lens, poseOf({ x: 0.03, shiftX: 0.02 }));
    let [worst, sum] = [0, 0];
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++)
        for (let k = 0; k < 3; k++) {
          const d = Math.abs(left.picture.data[(y * width + x) * 4 + k]! - right.picture.data[(y * width + width - 1 - x) * 4 + k]!);
          worst = Math.max(worst, d);
          sum += d;
        }
    expect(sum / (width * height * 3)).toBeLessThan(0.003);
    expect(worst).toBeLessThan(0.25);
  });
});

describe('overscan', () => {
  const [width, height] = [160, 90];
  const lens = plateLens(width, height, 60);
  const distance = placed(width, height, (x, y) => (x < 30 ? 1.2 : y > 70 ? 2 : 6));
  const relief = survey(distance);

  /** The least enlargement, by trying every pixel of every side. */
  function tried(poses: readonly CameraPose[]): number {
    let scale = 1;
    const place: Placed = { x: 0, y: 0, q: 0 };
    for (const pose of poses) {
      const g = new ViewGeometry(lens, pose);
      for (let i = 0; i < width * height; i++) {
        const [x, y, q] = [i % width, Math.floor(i / width), 1 / distance.data[i]!];
        if (x === 0 && g.forward(0, y + 0.5, q, place)) scale = Math.max(scale, width / 2 / (width / 2 - place.x));
        if (x === width - 1 && g.forward(width, y + 0.5, q, place)) scale = Math.max(scale, width / 2 / (place.x - width / 2));
        if (y === 0 && g.forward(x + 0.5, 0, q, place)) scale = Math.max(scale, height / 2 / (height / 2 - place.y));
        if (y === height - 1 && g.forward(x + 0.5, height, q, place)) scale = Math.max(scale, height / 2 / (place.y - height / 2));
      }
    }
    return scale;
  }

  test('of moves without turns is what trying every pixel of the border finds', () => {
    for (const path of [
      [{ x: 0.05 }],
      [{ x: -0.08 }, { x: 0.02 }],
      [{ y: 0.06 }],
      [{ z: -0.2 }],
      [{ z: 0.3 }],
      [{ x: 0.03, z: -0.1, shiftX: 0.01 }],
    ]) {
      const poses = path.map(poseOf);
      expect(overscanFor(lens, poses, relief)).toBeCloseTo(tried(poses), 6);
    }
    expect(overscanFor(lens, [poseOf({ z: 0.3 })], relief)).toBe(1);
  });

  test('of turns is enough, and only just: at four fifths of its margin the border is seen', () => {
    const corners = [
      [0, 0],
      [width, 0],
      [0, height],
      [width, height],
    ] as const;
    const outside = (pose: CameraPose, enlarged: number): number => {
      const g = new ViewGeometry(lens, pose, enlarged);
      const place: Placed = { x: 0, y: 0, q: 0 };
      return Math.max(
        ...corners.map(([x, y]) => {
          g.backward(x, y, 0, place);
          return Math.max(-place.x, -place.y, place.x - width, place.y - height);
        }),
      );
    };
    for (const pose of [poseOf({ yaw: 0.03 }), poseOf({ pitch: -0.04 }), poseOf({ roll: 0.06 })]) {
      const scale = overscanFor(lens, [pose], relief);
      expect(outside(pose, scale)).toBeLessThan(1e-6);
      expect(outside(pose, 1 + 0.8 * (scale - 1))).toBeGreaterThan(0.2);
    }
  });
});

describe('soft edges made firm', () => {
  const [width, height] = [120, 80];
  /** near up to x = 60, far beyond, by a ramp of so many px; ground below y = 50 that runs away to the horizon */
  const map = (ramp: number, ground = false): Float32Array =>
    Float32Array.from({ length: width * height }, (_, i) => {
      const [x, y] = [i % width, Math.floor(i / width)];
      if (ground && y > 50) return 0.02 + 0.03 * (y - 50);
      const t = Math.min(1, Math.max(0, (x - 59.5) / Math.max(1e-6, ramp) + 0.5));
      return 1 - 0.75 * t;
    });

  test('a ramp of a few px becomes one step in its middle', () => {
    for (const ramp of [3, 5]) {
      const firm = firmEdges(map(ramp), width, height);
      const off = firm.map((v, i) => Math.abs(v - (i % width < 60 ? 1 : 0.25)));
      expect(Math.max(...off)).toBeLessThan(1e-5);
    }
  });

  test('ground keeps its slope, and a map of firm edges is given back as it is', () => {
    const sloped = map(4, true);
    const firm = firmEdges(sloped, width, height);
    expect(firm.subarray(60 * width)).toEqual(sloped.subarray(60 * width));
    const exact = map(0);
    expect(firmEdges(exact, width, height)).toBe(exact);
  });

  test('a soft edge that lies beside that of the picture moves onto it; without a picture it stays, and one-coloured ground says nothing', () => {
    const soft = map(5);
    const distance: Plane = { width, height, data: soft.map((v) => 1 / v) };
    const inside = (data: Float32Array): number[] => [...data.subarray(40 * width + 10, 40 * width + 110)];
    const step = (at: number): number[] => inside(Float32Array.from({ length: width * height }, (_, i) => (i % width < at ? 1 : 4)));
    for (const at of [59, 60, 61]) {
      const picture = painted(width, height, (x) => (x < at ? 0.6 : 0.1));
      inside(firmDistances(distance, picture).data).forEach((z, x) => expect(z).toBeCloseTo(step(at)[x]!, 5));
    }
    const even = painted(width, height, () => 0.3);
    for (const picture of [null, even]) inside(firmDistances(distance, picture).data).forEach((z, x) => expect(z).toBeCloseTo(step(60)[x]!, 5));
  });
});
