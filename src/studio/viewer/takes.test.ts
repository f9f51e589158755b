import { expect, test } from '@jest/globals';
import { newProject, newShot } from '../../core/document/defaults';
import { anySettings, ANY_PLATE } from '../../testing/anySettings';
import { duplicateEffect } from '../chapters/effects/effectActions';
import { duplicateLayer } from '../chapters/depth/layerActions';
import { changeSettings, shotOf, useDocument } from '../state/documentStore';
import { applyTake, flipTakes, saveTake } from './Takes';

const open = (seed: number): void => {
  const shot = { ...newShot(ANY_PLATE), settings: anySettings(seed) };
  useDocument.getState().open({ ...newProject('Any'), shots: [shot] }, shot.id);
};
const shot = () => shotOf(useDocument.getState())!;

test.each([1, 2, 3, 4, 5, 6])('a take gives back what it kept, endless distances too, and so does flipping (%i)', (seed) => {
  open(seed);
  const before = shot().settings;
  saveTake();
  changeSettings((s) => void (s.effects = []));
  saveTake();
  applyTake(shot().takes[0]!.id);
  expect(shot().settings).toEqual(before);
  flipTakes();
  expect(shot().settings.effects).toEqual([]);
  flipTakes();
  expect(shot().settings).toEqual(before);
});

test.each([1, 2, 3])('a duplicate is what it was made from, but for its name (%i)', (seed) => {
  open(seed);
  const { layers, effects } = shot().settings;
  for (const layer of layers) {
    duplicateLayer(layer.id);
    const now = shot().settings.layers;
    const copy = now[now.findIndex((l) => l.id === layer.id) + 1]!;
    expect({ ...copy, id: layer.id, name: layer.name }).toEqual(layer);
    expect(copy.id).not.toBe(layer.id);
  }
  for (const effect of effects) {
    duplicateEffect(effect.id);
    const now = shot().settings.effects;
    expect({ ...now[now.findIndex((e) => e.id === effect.id) + 1], id: effect.id }).toEqual(effect);
  }
});
