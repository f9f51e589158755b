import { level, toggle } from '../../params';
import { defineStep, plainRun } from '../definition';

const wide = { min: -1, max: 1, lowest: -1e6, highest: 1e6 };

/** From one range to another, along a straight line. */
export const rangeStep = defineStep({
  kind: 'range',
  label: 'Range',
  help: 'What lay between two values lies between two others',
  params: {
    from: level({ ...wide, label: 'From', default: 0 }),
    to: level({ ...wide, label: 'To', default: 1 }),
    low: level({ ...wide, label: 'Becomes', default: 0 }),
    high: level({ ...wide, label: 'And', default: 1 }),
    clamp: toggle({ label: 'No farther', default: true, help: 'What lies outside stays at the ends' }),
  },
  sentence: ({ from, to, low, high, clamp }) => `${from} to ${to} becomes ${low} to ${high}${clamp ? '' : ', and beyond'}`,
  begin: ({ from, to, low, high, clamp }) =>
    plainRun((value) => {
      // a range of no width is a step
      const t = to === from ? Number(value >= from) : (value - from) / (to - from);
      return low + (high - low) * (clamp ? Math.min(1, Math.max(0, t)) : t);
    }),
});
