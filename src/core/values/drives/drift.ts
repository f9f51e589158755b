import * as z from 'zod';
import { seededRandom } from '../../random';
import { eased } from '../easing';
import { count } from '../params';
import { amountParam, defineDrive, driveFrames } from './definition';

const target = (seed: number, index: number): number => 2 * seededRandom(seed * 7919 + index * 104729 + 17)() - 1;

const schema = z.object({ kind: z.literal('drift'), amount: z.number(), period: z.number().positive(), seed: z.number().int() });

/** Smooth random about the set value; one new target every `period` frames. */
export const driftDrive = defineDrive<z.infer<typeof schema>>({
  kind: 'drift',
  label: 'Drift',
  help: 'Smooth chance about the set value, the same every time.',
  schema,
  begin: ({ swing }) => ({ kind: 'drift', amount: swing, period: 24, seed: 1 }),
  value(drive, set, frame) {
    const t = frame / drive.period;
    const i = Math.floor(t);
    const a = target(drive.seed, i);
    const b = target(drive.seed, i + 1);
    return set + drive.amount * (a + (b - a) * eased('ease', t - i));
  },
  map: (drive, change) => ({ ...drive, amount: change(drive.amount) }),
  fields: (param) => [
    { param: amountParam(param), get: (d) => d.amount, put: (d, amount) => ({ ...d, amount }) },
    { param: driveFrames('Period', 24, 1), get: (d) => d.period, put: (d, period) => ({ ...d, period }) },
    {
      param: count({ label: 'Seed', min: 0, max: 999, highest: 1e6, default: 1 }),
      get: (d) => d.seed,
      put: (d, seed) => ({ ...d, seed }),
    },
  ],
});
