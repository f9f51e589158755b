import { expect, test } from '@jest/globals';
import { newEffect, newMove, newShot } from '../../core/document/defaults';
import { isInHand, rowsOf, type Looked } from './trackRows';

const looked: Looked = { chapter: 'effects', selectedEffect: null, selectedLayer: null, selectedMove: null };

test('a row is in hand in its chapter, where what it belongs to is chosen', () => {
  const shot = newShot({ sha256: 'a'.repeat(64), name: 'a.png', width: 64, height: 36, bits: 8, hfovFromFile: null });
  const fog = { ...newEffect('fog'), id: 'fog' };
  fog.drives = {
    visibility: {
      kind: 'keys',
      keys: [
        { frame: 3, value: 20, easing: 'ease' },
        { frame: 9, value: 60, easing: 'ease' },
      ],
    },
  };
  shot.settings.effects = [fog];
  shot.settings.camera.moves = [{ ...newMove('push-in'), id: 'push' }];
  shot.settings.time.length = 48;
  const rows = rowsOf(shot, []);
  expect(rows.map((r) => r.name)).toEqual(['Fog, visibility', 'Push-in', 'Stretch']);
  const held = (view: Partial<Looked>): string[] => rows.filter((r) => isInHand(r, { ...looked, ...view })).map((r) => r.name);
  expect(held({ selectedEffect: 'fog' })).toEqual(['Fog, visibility']);
  expect(held({ selectedEffect: 'fog', chapter: 'camera', selectedMove: 'push' })).toEqual(['Push-in']);
  expect(held({ selectedEffect: 'other' })).toEqual([]);
  expect(rows[0]!.glimpse).toEqual({ from: 0, to: 47, keys: [3, 9] });
  expect(rows[1]!.glimpse).toEqual({ from: 0, to: 47, keys: [0, 47] });
});
