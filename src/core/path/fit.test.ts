import { describe, expect, test } from '@jest/globals';
import { newMove, newShot } from '../document/defaults';
import { cameraSchema, timeSchema, type MoveItem, type Settings } from '../document/schema';
import { newPlane } from '../picture';
import { moveValues, NOTHING } from '../camera/definition';
import { fitted, passing, shortened, worstStretch } from './fit';
import { loops, ofEye, poseAt } from './path';
import { AT_PLATE, plateLens, poseOf, ViewGeometry } from '../camera/pose';
import { moveOf, moves, namedMove } from '../camera/registry';
import { survey } from '../camera/relief';

const lens = plateLens(960, 540, 50);
const HFOV = 50;
const distance = newPlane(120, 68);
for (let i = 0; i < distance.data.length; i++) distance.data[i] = i % 120 < 40 && i > 20 * 120 ? 1.5 : 5;
const relief = survey(distance);

const withMoves = (...list: MoveItem[]): Pick<Settings, 'camera' | 'time'> => ({
  camera: cameraSchema.parse({ moves: list }),
  time: timeSchema.parse({ length: 97 }),
});
const move = (kind: string, values: MoveItem['values'] = {}): MoveItem => {
  const item = newMove(kind);
  return { ...item, values: { ...item.values, ...values } };
};
const at = (settings: Pick<Settings, 'camera' | 'time'>, frame: number): ReturnType<typeof poseAt> => poseAt(settings, HFOV, { frame, fps: 24 });

describe('moves', () => {
  test.each(moves.map((m) => m.kind))('%s of nothing is the plate, at every frame', (kind) => {
    const none = Object.fromEntries([...namedMove(kind).amounts, 'turn'].map((name) => [name, 0]));
    for (const frame of [0, 13, 48, 96])
      for (const [k, v] of Object.entries(at(withMoves(move(kind, none)), frame))) expect(v).toBeCloseTo(AT_PLATE[k as keyof typeof AT_PLATE], 12);
  });

  test('a push-in goes its way between its frames, and stands before and after', () => {
    const settings = withMoves(move('push-in', { distance: 40, from: 12, over: 48, easing: 'straight' }));
    expect([0, 12, 36, 60, 96].map((f) => at(settings, f).z)).toEqual([0, 0, 0.2, 0.4, 0.4]);
  });

  test('with the plate in its middle a truck goes half to the left and half to the right', () => {
    const settings = withMoves(move('truck', { distance: 10, stands: NOTHING, easing: 'straight' }));
    expect(at(settings, 0).x).toBeCloseTo(-0.05);
    expect(at(settings, 48).x).toBeCloseTo(0);
    expect(at(settings, 96).x).toBeCloseTo(0.05);
  });

  test.each(['truck', 'rise', 'circle'])('%s keeps in place what stands still, and moves what does not', (kind) => {
    const settings = withMoves(move(kind, { stands: 3 }));
    for (const frame of [5, 40, 90]) {
      const g = new ViewGeometry(lens, at(settings, frame));
      const place = { x: 0, y: 0, q: 0 };
      g.forward(300, 400, 1 / 3, place);
      expect(place.x).toBeCloseTo(300, 6);
      expect(place.y).toBeCloseTo(400, 6);
      g.forward(300, 400, 1, place);
      expect(Math.hypot(place.x - 300, place.y - 400)).toBeGreaterThan(1);
    }
  });

  test('an arc keeps the middle at its distance in the middle', () => {
    const g = new ViewGeometry(lens, at(withMoves(move('arc', { angle: 20, rise: 8, about: 3 })), 96));
    const place = { x: 0, y: 0, q: 0 };
    g.forward(480, 270, 1 / 3, place);
    expect(place.x).toBeCloseTo(480, 6);
    expect(place.y).toBeCloseTo(270, 6);
    expect(1 / place.q).toBeCloseTo(3, 6);
  });

  test('a dolly zoom keeps the size of its subject', () => {
    const g = new ViewGeometry(lens, at(withMoves(move('dolly-zoom', { distance: 100, subject: 4 })), 96));
    const [a, b] = [
      { x: 0, y: 0, q: 0 },
      { x: 0, y: 0, q: 0 },
    ];
    g.forward(400, 200, 1 / 4, a);
    g.forward(560, 200, 1 / 4, b);
    expect(b.x - a.x).toBeCloseTo(160, 6);
    g.forward(400, 200, 1 / 8, a);
    g.forward(560, 200, 1 / 8, b);
    expect(b.x - a.x).toBeLessThan(150);
  });

  test('several at once add up, those that are off count for nothing', () => {
    const [a, b] = [move('push-in', { distance: 20 }), move('truck', { distance: 8, stands: NOTHING })];
    const both = at(withMoves(a, b), 70);
    expect(both.z).toBeCloseTo(at(withMoves(a), 70).z + at(withMoves(b), 70).z, 12);
    expect(both.x).toBeCloseTo(at(withMoves(b), 70).x, 12);
    expect(at(withMoves({ ...a, on: false }, b), 70)).toEqual(at(withMoves(b), 70));
  });

  test('a kind that another version knows stands still', () => {
    expect(at(withMoves({ ...move('truck'), kind: 'crane-2' }), 50)).toEqual(AT_PLATE);
    expect(() => namedMove('crane-2')).toThrow(/no move "crane-2"/);
  });

  test('every move says how far it goes, and a drag of its end sets that', () => {
    for (const definition of moves) {
      const values = moveValues(definition, {}) as never;
      expect(definition.summary(values).length).toBeGreaterThan(1);
      for (const name of definition.amounts) expect(definition.params[name]?.type).toBe('number');
      if (!definition.path) continue;
      const dragged = definition.path.drag(values, { x: 0.05, y: -0.03, z: 0.04 });
      expect(Object.keys(dragged).length).toBeGreaterThan(0);
    }
    const back = moveOf('truck').path!.drag({ distance: 1 }, { x: 0.03, y: 0, z: 0.04 }) as unknown as Record<string, number>;
    expect(back.distance).toBeCloseTo(5);
    expect(back.direction).toBeCloseTo(53.13, 1);
  });

  test('what loops says so', () => {
    const time = timeSchema.parse({ length: 96 });
    const of = (...list: MoveItem[]): boolean | null => loops({ camera: cameraSchema.parse({ moves: list }), time });
    expect(of()).toBeNull();
    expect(of(move('circle', { period: 48 }), move('breathe', { period: 96 }))).toBe(true);
    expect(of(move('circle', { period: 50 }))).toBe(false);
    expect(of(move('push-in'))).toBe(false);
    expect(of(move('push-in', { returns: true }))).toBe(true);
  });
});

describe('how far a move may go', () => {
  test('a fresh move stays clean and uses what there is, near or far', () => {
    for (const kind of ['push-in', 'truck', 'rise', 'arc', 'circle', 'breathe', 'handheld', 'dolly-zoom'])
      for (const scale of [0.2, 1, 30]) {
        const far = newPlane(120, 68);
        for (let i = 0; i < far.data.length; i++) far.data[i] = distance.data[i]! * scale;
        const there = survey(far);
        const settings = withMoves();
        const { fixedDistance } = namedMove(kind);
        const item = fitted(move(kind, fixedDistance ? { [fixedDistance]: 3 * scale } : {}), settings, lens, there);
        const width = lens.width;
        const [torn, passes] = [worstStretch(withMoves(item), lens, there).px / width, passing(withMoves(item), lens, there) / width];
        expect(torn).toBeLessThanOrEqual(0.025);
        expect(passes).toBeLessThanOrEqual(0.026);
        // what is seen is what was wanted, or all that stays clean
        expect({ kind, scale, torn, passes, enough: passes > 0.0225 || torn > 0.0225 }).toMatchObject({ enough: true });
      }
  });

  test('the nearest passes the farthest by what a truck does to them', () => {
    // 10 cm aside before things from 1 m to 5 m: f·0.1·(1 − 1/5)
    const settings = withMoves(move('truck', { distance: 10, stands: NOTHING }));
    expect(passing(settings, lens, { ends: [0.2, 1] })).toBeCloseTo(lens.focalPx * 0.1 * 0.8, 3);
  });

  test('a push-in is seen in the middle half of the picture, not in its corners alone', () => {
    // z forward before things at 1 m, the farthest at ∞: a place r from the middle moves by r·z/(1 − z)
    const z = 0.1;
    const r = Math.hypot(lens.width / 4, lens.height / 4);
    expect(passing(withMoves(move('push-in', { distance: 100 * z, easing: 'straight' })), lens, { ends: [0, 1] })).toBeCloseTo((r * z) / (1 - z), 3);
  });

  test('where a soft slope tears nothing open a move goes no further than it is seen', () => {
    const slope = newPlane(120, 68);
    for (let i = 0; i < slope.data.length; i++) slope.data[i] = 1 / (0.1 + (i % 120) / 120);
    const there = survey(slope);
    const item = fitted(move('truck', { stands: 2 }), withMoves(), lens, there);
    expect(worstStretch(withMoves(item), lens, there).px).toBeLessThan(0.01 * lens.width);
    expect(passing(withMoves(item), lens, there) / lens.width).toBeCloseTo(0.025, 2);
  });

  test('shortening brings the worst frame under the limit, and no further than a tenth below it', () => {
    const settings = withMoves(move('truck', { distance: 40 }), move('push-in', { distance: 35 }));
    expect(worstStretch(settings, lens, relief).px).toBeGreaterThan(20);
    const shorter = withMoves(...shortened(settings, lens, relief, 12));
    const { px } = worstStretch(shorter, lens, relief);
    expect(px).toBeLessThanOrEqual(12);
    expect(px).toBeGreaterThan(10.8);
    expect(shortened(shorter, lens, relief, 12)).toEqual(shorter.camera.moves);
  });

  test('the worst frame is told', () => {
    expect(worstStretch(withMoves(move('push-in', { distance: 20 })), lens, relief).frame).toBe(96);
  });
});

test('two eyes stand apart along the camera’s own axis, and what lies in the screen has no parallax', () => {
  const camera = cameraSchema.parse({ stereo: { on: true, eyes: 65, screen: 2.5 } });
  const pose = poseOf({ z: 0.3, yaw: 0.2, roll: 0.1 });
  const [left, right] = [ofEye(pose, camera, -1), ofEye(pose, camera, 1)];
  expect(Math.hypot(left.x - right.x, left.y - right.y, left.z - right.z)).toBeCloseTo(0.065, 9);
  const straight = [-1, 1].map((eye) => new ViewGeometry(lens, ofEye(AT_PLATE, camera, eye as -1 | 1)));
  const at = (g: ViewGeometry, q: number): number => {
    const place = { x: 0, y: 0, q: 0 };
    g.forward(500, 100, q, place);
    return place.x;
  };
  expect(at(straight[0]!, 1 / 2.5)).toBeCloseTo(at(straight[1]!, 1 / 2.5), 9);
  // near things are seen crossed, far ones uncrossed
  expect(at(straight[0]!, 1)).toBeGreaterThan(at(straight[1]!, 1));
  expect(at(straight[0]!, 0.1)).toBeLessThan(at(straight[1]!, 0.1));
});

test('a new shot stands still', () => {
  const shot = newShot({ sha256: 'a'.repeat(64), name: 'x.png', width: 400, height: 300, bits: 8, hfovFromFile: null });
  expect(poseAt(shot.settings, HFOV, { frame: 40, fps: 24 })).toEqual(AT_PLATE);
});
