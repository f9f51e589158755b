import { count as whole } from '../../params';
import { defineStep, plainRun } from '../definition';

/** One of so many: a whole number from 0, the nearest there is. */
export const selectStep = defineStep({
  kind: 'select',
  label: 'Select',
  help: 'One of so many: stills, clips or takes',
  params: { of: whole({ label: 'Of', min: 2, max: 20, lowest: 1, highest: 1e6, default: 2 }) },
  sentence: ({ of }) => `one of ${of}`,
  begin: ({ of }) => plainRun((value) => Math.min(of - 1, Math.max(0, Math.round(value)))),
});
