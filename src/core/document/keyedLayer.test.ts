import { describe, expect, test } from '@jest/globals';
import { blended } from '../values/blend';
import { settingsAt } from '../shot/settingsAt';
import { isTimed } from './driven';
import { newLayer, newProject, newShot } from './defaults';
import { changedLayer, firstKey, layerAt } from './keyedLayer';
import { readProject } from './migrate';
import type { Layer } from './schema';
import { writeJson } from '../values/endless';

interface Drawn {
  shapes: { id: string; name: string; points: { x: number; y: number }[] }[];
}
const triangle = (id: string, x: number): Drawn['shapes'][number] => ({
  id,
  name: id,
  points: [
    { x, y: 0.2 },
    { x: x + 0.1, y: 0.2 },
    { x, y: 0.4 },
  ],
});
const drawn = (layer: Layer): Drawn => layer.content as Drawn;
const shapes = (...list: Drawn['shapes']): Layer => ({ ...newLayer('shape'), id: 'l', content: { shapes: list } });

describe('between two states', () => {
  test('numbers lie between, names and what is on one side alone are as in the first', () => {
    expect(blended({ a: 1, name: 'x', on: true, more: [1, 2] }, { a: 3, name: 'y', on: false, more: [3, 6], c: 5 }, 0.25)).toEqual({
      a: 1.5,
      name: 'x',
      on: true,
      more: [1.5, 3],
    });
    expect(blended([1, 2, 3], [1, 2], 0.5)).toEqual([1, 2, 3]);
    expect(blended({ far: Infinity }, { far: 4 }, 0.5)).toEqual({ far: Infinity });
  });
  test('things are matched by their id, in whatever order', () => {
    const [a, b] = [
      [
        { id: 'p', x: 0 },
        { id: 'q', x: 10 },
        { id: 'r', x: 1 },
      ],
      [
        { id: 'q', x: 20 },
        { id: 'p', x: 4 },
      ],
    ];
    expect(blended(a, b, 0.5)).toEqual([
      { id: 'p', x: 2 },
      { id: 'q', x: 15 },
      { id: 'r', x: 1 },
    ]);
  });
});

describe('a layer with keys', () => {
  const still = shapes(triangle('a', 0.1));
  const begun: Layer = { ...still, keyed: [firstKey(still, 10)] };
  const move = (layer: Layer, frame: number, x: number): Layer =>
    changedLayer(layer, frame, (l) => drawn(l).shapes[0]!.points.forEach((p) => void (p.x = x)));
  const moved = move(begun, 20, 0.5);
  const xAt = (layer: Layer, frame: number): number => drawn(layerAt(layer, frame)).shapes[0]!.points[0]!.x;

  test('moves from key to key, and stands before the first and after the last', () => {
    expect(moved.keyed!.map((k) => k.frame)).toEqual([10, 20]);
    expect([0, 10, 15, 20, 40].map((f) => xAt(moved, f))).toEqual([0.1, 0.1, expect.closeTo(0.3, 9), 0.5, 0.5]);
    // the key before is as it was
    expect(xAt(begun, 20)).toBe(0.1);
  });
  test('a change on the frame of a key changes that key', () => {
    const again = move(moved, 20, 0.9);
    expect(again.keyed!.map((k) => k.frame)).toEqual([10, 20]);
    expect(xAt(again, 15)).toBeCloseTo(0.5, 9);
  });
  test('what changes neither what is drawn nor its values makes no key', () => {
    expect(changedLayer(moved, 15, (l) => void (l.name = 'Other')).keyed).toHaveLength(2);
    expect(changedLayer(moved, 15, (l) => void (l.name = 'Other')).name).toBe('Other');
  });
  test('what is added on one frame is there on all, and what is taken away on none', () => {
    const two = changedLayer(moved, 14, (l) => void drawn(l).shapes.push(triangle('b', 0.7)));
    expect([0, 10, 17, 30].map((f) => drawn(layerAt(two, f)).shapes.map((s) => s.id))).toEqual(Array(4).fill(['a', 'b']));
    const one = changedLayer(two, 20, (l) => void (drawn(l).shapes = drawn(l).shapes.filter((s) => s.id !== 'a')));
    expect([0, 12, 20].map((f) => drawn(layerAt(one, f)).shapes.map((s) => s.id))).toEqual(Array(3).fill(['b']));
  });
  test('the chain sees it so, the same object twice, and the shot has time', () => {
    const { plate, settings } = newShot({ sha256: 'a'.repeat(64), name: 'p', width: 10, height: 10, bits: 8, hfovFromFile: null });
    settings.layers = [moved];
    const at = (frame: number): Layer => settingsAt(settings, { frame, fps: 24 }).layers[0]!;
    expect(drawn(at(15)).shapes[0]!.points[0]!.x).toBeCloseTo(0.3, 9);
    expect(at(15).content).toBe(at(15).content);
    expect(isTimed({ plate, settings })).toBe(true);
    expect(isTimed({ plate, settings: { ...settings, layers: [still] } })).toBe(false);
  });
  test('keys of a file are read like the layer: in order, and what cannot be read is told', () => {
    const shot = newShot({ sha256: 'a'.repeat(64), name: 'p', width: 10, height: 10, bits: 8, hfovFromFile: null });
    shot.settings.layers = [{ ...moved, keyed: [...moved.keyed!].reverse().map((k, i) => (i === 0 ? { ...k, content: { shapes: 'none' } } : k)) }];
    const { project, remarks } = readProject(JSON.parse(writeJson({ ...newProject('T'), shots: [shot] })), 'T');
    const [layer] = project.shots[0]!.settings.layers;
    expect(layer!.keyed!.map((k) => [k.frame, drawn({ ...layer!, content: k.content }).shapes.length])).toEqual([
      [10, 1],
      [20, 0],
    ]);
    expect(remarks.join(' ')).toContain('frame 20');
  });
});
