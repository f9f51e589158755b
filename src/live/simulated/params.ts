import { count, level, percent, perSecond, type ValuesOf } from '../../core/values/params';

/** How the simulated camera runs, and what may spoil it. */
export const simulatedParams = {
  rate: perSecond({ label: 'Rate', decimals: 0, step: 1, min: 10, max: 30, lowest: 1, highest: 240, default: 30, help: 'Pictures a second' }),
  latency: count({
    label: 'Latency, ms',
    min: 0,
    max: 500,
    lowest: 0,
    highest: 2000,
    default: 0,
    help: 'Each picture arrives so many milliseconds late',
  }),
  lost: percent({ label: 'Lost', min: 0, max: 50, lowest: 0, highest: 100, default: 0, help: 'So many pictures never arrive' }),
  noise: level({ label: 'Noise of depth', min: 0, max: 0.1, lowest: 0, highest: 1, default: 0, help: 'Added to nearness, which runs from 0 to 1' }),
};
export type SimulatedValues = ValuesOf<typeof simulatedParams>;
