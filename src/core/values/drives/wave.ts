import * as z from 'zod';
import { amountParam, defineDrive, driveFrames } from './definition';

const schema = z.object({ kind: z.literal('wave'), amount: z.number(), period: z.number().positive(), phase: z.number().default(0) });

/** Swings about the set value. `phase`: where in its swing it is at frame 0, 0..1. */
export const waveDrive = defineDrive<z.infer<typeof schema>>({
  kind: 'wave',
  label: 'Wave',
  help: 'Swings about the set value.',
  schema,
  begin: ({ swing, length }) => ({ kind: 'wave', amount: swing, period: Math.max(2, length), phase: 0 }),
  value: (drive, set, frame) => set + drive.amount * Math.sin(2 * Math.PI * (frame / drive.period + drive.phase)),
  map: (drive, change) => ({ ...drive, amount: change(drive.amount) }),
  fields: (param) => [
    { param: amountParam(param), get: (d) => d.amount, put: (d, amount) => ({ ...d, amount }) },
    { param: driveFrames('Period', 96, 1), get: (d) => d.period, put: (d, period) => ({ ...d, period }) },
    {
      param: {
        ...driveFrames('Begins', 0, -36000),
        min: 0,
        help: 'So many frames into its swing at frame 0; seconds such as 1 s are read too',
      },
      get: (d) => d.phase * d.period,
      put: (d, frames) => ({ ...d, phase: frames / d.period }),
    },
  ],
});
