import { level } from '../../params';
import { defineStep, plainRun } from '../definition';

const wide = { min: -10, max: 10, lowest: -1e6, highest: 1e6 };

/** Times a number, and more by another. */
export const scaleStep = defineStep({
  kind: 'scale',
  label: 'Scale',
  help: 'Times a number, and more by another',
  params: { by: level({ ...wide, label: 'Times', default: 1 }), add: level({ ...wide, label: 'Plus', default: 0 }) },
  sentence: ({ by, add }) => `times ${by}${add === 0 ? '' : `, ${add > 0 ? 'plus' : 'less'} ${Math.abs(add)}`}`,
  begin: ({ by, add }) => plainRun((value) => value * by + add),
});
