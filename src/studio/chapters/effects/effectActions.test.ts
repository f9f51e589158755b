import { expect, test } from '@jest/globals';
import { survey } from '../../../core/camera/relief';
import { newEffect, newShot } from '../../../core/document/defaults';
import type { Shot } from '../../../core/document/schema';
import { newPlane } from '../../../core/picture';
import { useSession } from '../../state/sessionStore';
import { freshEffect } from './effectActions';

/** A shot in focus at 2 m. */
function shotInFocus(): Shot {
  const shot = newShot({ sha256: 'a'.repeat(64), name: 'p.jpg', width: 160, height: 90, bits: 8, hfovFromFile: 50 });
  const blur = newEffect('lens-blur');
  shot.settings.effects = [{ ...blur, values: { ...blur.values, focus: 2 } }];
  return shot;
}

test('what cuts begins behind the whole subject once the shot is surveyed, and a little behind its focus before', () => {
  const shot = shotInFocus();
  useSession.setState({ relief: null });
  expect(freshEffect('isolate', shot).values).toMatchObject({ from: 0, to: 2.6 });
  // somebody who is 1.8 m away at the knees and 3 at the head, before a wall at 7
  const z = newPlane(160, 90);
  for (let i = 0; i < z.data.length; i++) {
    const [x, y] = [i % 160, Math.floor(i / 160)];
    z.data[i] = x > 50 && x < 110 && y > 15 ? 3.2 - (1.4 * y) / 90 : 7;
  }
  useSession.setState({ relief: survey(z) });
  const to = freshEffect('isolate', shot).values.to as number;
  expect(to).toBeGreaterThan(3);
  expect(to).toBeLessThan(7);
  expect(freshEffect('backdrop', shot).values.beyond).toBe(to);
  // a reach that is switched on later is that too
  expect(freshEffect('grade', shot).values).toMatchObject({ reachFrom: 0, reachTo: to });
  useSession.setState({ relief: null });
});
