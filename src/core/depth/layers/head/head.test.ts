import { describe, expect, test } from '@jest/globals';
import { seededRandom } from '../../../random';
import { constantPlane, newPicture, type Plane } from '../../../picture';
import { defaultsOf } from '../../../values/params';
import { distanceOf, nearnessOf, type Calibration } from '../../calibrate';
import { marksOfFace, poseOfFace } from './face';
import { fitParts, fitPose } from './fit';
import { headLayer, poseOf, placeHead } from './head';
import { facings, markNames, placeMarks, type HeadPose } from './marks';
import { usualShape } from './parts';
import { headMesh, headPoint, headRadius, turn } from './surface';

const ASPECT = 1.5;
const pose: HeadPose = { yaw: 0, pitch: 0, roll: 0, x: 0.5, y: 0.5, height: 0.5 };
const calibration: Calibration = { low: 0, high: 1, turnOver: false, bend: 1, near: 0.5, far: 20, spacing: 'perspective' };
const [W, H] = [240, 160];

const build = (change: object = {}) =>
  headLayer.build({
    width: W,
    height: H,
    params: { ...defaultsOf(headLayer.params), height: 60, ...change },
    content: headLayer.content!.parse({}),
    framing: { a: 1, b: 0, c: 0, d: 0, e: 1, f: 0 },
    plateSize: { width: W, height: H },
    map: null,
    picture: newPicture(W, H),
    below: constantPlane(W, H, 0),
    calibration,
    anchors: {},
    remember: (_made: readonly unknown[], make: () => never) => make(),
    rememberAlone: (_made: readonly unknown[], make: () => never) => make(),
    rasterOf: () => null,
  } as never)!;
const metres = (plane: Plane, x: number, y: number): number => distanceOf(nearnessOf(plane.data[y * W + x]!, calibration), calibration);

describe('surface', () => {
  test('is as tall as it says, symmetric, and the tip of the nose stands out farthest', () => {
    const { xyz, headCorners } = headMesh(usualShape, false);
    let [top, bottom, front] = [Infinity, -Infinity, Infinity];
    for (let i = 0; i < headCorners; i++) {
      top = Math.min(top, xyz[i * 3 + 1]!);
      bottom = Math.max(bottom, xyz[i * 3 + 1]!);
      front = Math.min(front, xyz[i * 3 + 2]!);
    }
    expect(bottom - top).toBeGreaterThan(0.94);
    expect(bottom - top).toBeLessThan(1.08);
    for (const [a, e] of [
      [20, 3],
      [60, -30],
      [93, -4],
    ] as const)
      expect(headRadius(a, e, usualShape)).toBeCloseTo(headRadius(-a, e, usualShape), 9);
    expect(headPoint(0, -19, usualShape)[2]).toBeCloseTo(front, 2);
  });
  test('eyes lie behind the brow, lips before the groove, and relief of a part moves it alone', () => {
    const z = (a: number, e: number, shape = usualShape): number => headPoint(a, e, shape)[2];
    expect(z(18, -8)).toBeGreaterThan(z(18, 10));
    expect(z(0, -33)).toBeLessThan(z(0, -27));
    const flat = { ...usualShape, nose: { ...usualShape.nose, relief: 0 } };
    expect(z(0, -19, flat) - z(0, -19)).toBeGreaterThan(0.05);
    expect(z(60, 20, flat)).toBeCloseTo(z(60, 20), 9);
  });
  test('turning looks where it says', () => {
    const nose = headPoint(0, 0, usualShape);
    expect(turn(nose, 30, 0, 0)[0]).toBeGreaterThan(0);
    expect(turn(nose, 0, 30, 0)[1]).toBeLessThan(0);
    expect(Math.hypot(...turn(nose, 40, -20, 15))).toBeCloseTo(Math.hypot(...nose), 9);
  });
});

describe('fitting', () => {
  test('marks of a turned head give its pose back', () => {
    const random = seededRandom(2);
    for (let k = 0; k < 20; k++) {
      const truth: HeadPose = {
        yaw: -45 + 90 * random(),
        pitch: -25 + 50 * random(),
        roll: -20 + 40 * random(),
        x: 0.3 + 0.4 * random(),
        y: 0.3 + 0.4 * random(),
        height: 0.2 + 0.6 * random(),
      };
      const found = fitPose(placeMarks(truth, usualShape, ASPECT), pose, usualShape, ASPECT);
      for (const angle of ['yaw', 'pitch', 'roll'] as const) expect(Math.abs(found[angle] - truth[angle])).toBeLessThan(0.5);
      expect(found.height / truth.height).toBeCloseTo(1, 2);
      expect(found.x).toBeCloseTo(truth.x, 3);
    }
  });
  test('marks that are a little off turn the head by little', () => {
    const random = seededRandom(5);
    const truth: HeadPose = { ...pose, yaw: 25, pitch: -8, roll: 4 };
    const off = Object.fromEntries(
      Object.entries(placeMarks(truth, usualShape, ASPECT)).map(([n, p]) => [
        n,
        { x: p.x + 0.006 * (random() - 0.5), y: p.y + 0.006 * (random() - 0.5) },
      ]),
    );
    expect(Math.abs(fitPose(off, pose, usualShape, ASPECT).yaw - 25)).toBeLessThan(3);
  });
  test('one mark moves it, two also scale and lean it; the facing stays', () => {
    const marks = placeMarks(pose, usualShape, ASPECT);
    const one = fitPose({ nose: { x: marks.nose.x + 0.1, y: marks.nose.y } }, { ...pose, yaw: 42 }, usualShape, ASPECT);
    expect(one.yaw).toBe(42);
    expect(one.height).toBeCloseTo(0.5, 9);
    const two = fitPose({ eyeLeft: { x: 0.4, y: 0.5 }, eyeRight: { x: 0.6, y: 0.5 } }, pose, usualShape, ASPECT);
    expect(two.pitch).toBe(0);
    const got = placeMarks(two, usualShape, ASPECT);
    expect(got.eyeRight.x - got.eyeLeft.x).toBeCloseTo(0.2, 3);
  });
  test('parts move to marks that the pose cannot meet, but for those locked', () => {
    const truth = { ...usualShape, lips: { ...usualShape.lips, up: -3 }, nose: { ...usualShape.nose, up: 2 } };
    const marks = placeMarks(pose, truth, ASPECT);
    const moved = fitParts(marks, pose, usualShape, ASPECT, ['nose']);
    expect(moved.lips!.up).toBeCloseTo(-3, 1);
    expect(moved.nose).toBeUndefined();
  });
  test('a found face gives the pose whatever the head was turned to before', () => {
    const truth: HeadPose = { yaw: 18, pitch: -10, roll: 12, x: 0.42, y: 0.37, height: 0.31 };
    const marks = placeMarks(truth, usualShape, ASPECT);
    // six points round each eye, one each for nose, corners of the mouth and chin; the others lie anywhere
    const points = Array.from({ length: 68 }, () => ({ x: 0.5, y: 0.5 }));
    const around = (first: number, { x, y }: { x: number; y: number }): void => {
      for (let k = 0; k < 6; k++) points[first + k] = { x: x + 0.01 * Math.cos((k * Math.PI) / 3), y: y + 0.006 * Math.sin((k * Math.PI) / 3) };
    };
    around(36, marks.eyeLeft);
    around(42, marks.eyeRight);
    points[30] = marks.nose;
    points[48] = marks.mouthLeft;
    points[54] = marks.mouthRight;
    points[8] = marks.chin;
    const found = marksOfFace(points);
    expect(Object.keys(found)).toHaveLength(6);
    expect(found.eyeLeft!.x).toBeCloseTo(marks.eyeLeft.x, 9);
    expect(found.eyeLeft!.x).toBeLessThan(found.eyeRight!.x);
    const got = poseOfFace(found, usualShape, ASPECT);
    for (const angle of ['yaw', 'pitch', 'roll'] as const) expect(Math.abs(got[angle] - truth[angle])).toBeLessThan(0.5);
    expect(got.height / truth.height).toBeCloseTo(1, 2);
    expect(() => marksOfFace(points.slice(1))).toThrow('68');
  });
  test('there are seven facings and nine marks', () => {
    expect(facings).toHaveLength(7);
    expect(markNames).toHaveLength(9);
  });
});

describe('depth', () => {
  test('the face lies at its distance, the nose nearer, true to the height of the head', () => {
    const { nearness, coverage } = build({ distance: 1.5, tall: 0.23, body: false });
    const p = poseOf({ ...defaultsOf(headLayer.params), height: 60 });
    const marks = placeMarks(p, usualShape, W / H);
    const nose = metres(nearness, Math.floor(marks.nose.x * W), Math.floor(marks.nose.y * H));
    const between = metres(nearness, Math.floor(p.x * W), Math.floor(p.y * H));
    expect(between).toBeCloseTo(1.5, 2);
    const deep = (headPoint(0, 0, usualShape)[2] - headPoint(0, -19, usualShape)[2]) * 0.23;
    expect(between - nose).toBeCloseTo(deep, 2);
    expect(coverage!.data[0]).toBe(0);
  });
  test('relief 0 is a flat face; a backdrop covers the rest at its distance', () => {
    const { nearness, coverage } = build({ relief: 0, backdropOn: true, backdrop: 6, distance: 2 });
    expect(metres(nearness, 120, 72)).toBeCloseTo(2, 4);
    expect(metres(nearness, 120, 90)).toBeCloseTo(2, 4);
    expect(metres(nearness, 3, 3)).toBeCloseTo(6, 3);
    expect(coverage!.data.every((v) => v === 1)).toBe(true);
  });
  test('a head that looks right shows its left cheek nearer than its right one; neck and shoulders reach below the chin', () => {
    const { nearness, coverage } = build({ yaw: 35 });
    const marks = placeMarks({ ...poseOf({ ...defaultsOf(headLayer.params), height: 60 }), yaw: 35 }, usualShape, W / H);
    const depth = (name: 'eyeLeft' | 'eyeRight'): number => metres(nearness, Math.floor(marks[name].x * W), Math.floor(marks[name].y * H));
    expect(depth('eyeLeft')).toBeLessThan(depth('eyeRight') - 0.02);
    expect(coverage!.data[(H - 2) * W + 120]).toBe(1);
    expect(build({ body: false }).coverage!.data[(H - 2) * W + 120]).toBe(0);
  });
});

describe('a new head', () => {
  const ground = (distance: number | null): Parameters<typeof placeHead>[1] => ({
    distanceAt: (x, y) => (Math.abs(x - 0.5) < 0.1 && Math.abs(y - 0.45) < 0.2 ? distance : 50),
    plate: { width: 1600, height: 900 },
    focalPx: 1500,
  });
  test('stands where the face is, and its relief has the scale that a face of that size has there', () => {
    // 40 % of 900 px at 6 m through 1500 px of focal length
    expect(placeHead({ x: 50, y: 45, height: 40 }, ground(6))).toEqual({ distance: 6, tall: (0.4 * 900 * 6) / 1500 });
    const far = placeHead({ x: 50, y: 45, height: 40 }, ground(12));
    expect(far.tall! / placeHead({ x: 50, y: 45, height: 40 }, ground(6)).tall!).toBeCloseTo(2, 6);
  });
  test('keeps its usual distance where nothing is known', () => {
    expect(placeHead({ x: 50, y: 45, height: 40 }, { ...ground(null), distanceAt: () => null })).toEqual({});
    expect(placeHead({ x: 50, y: 45, height: 40 }, { ...ground(null), distanceAt: () => Infinity })).toEqual({});
  });
});
