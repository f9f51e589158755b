import { metres, pixels } from '../../core/values/params';
import { pageStrength } from '../page/strength';
import { defineOutput, type OutputDefinition } from './definition';

const params = {
  parallax: pageStrength,
  stands: metres({
    label: 'Stands still',
    min: 0.1,
    max: 1000,
    lowest: 0.01,
    highest: 1e6,
    default: 5,
    decimals: 2,
    step: 0.1,
    help: 'What lies there stays where it is, what is nearer and farther moves',
  }),
  side: pixels({ label: 'Longer side', min: 640, max: 2400, lowest: 64, highest: 4096, default: 1600, decimals: 0, step: 10 }),
};

/** The scene of a shot as a page of its own that moves with the pointer, effects and all. */
const page = defineOutput<typeof params>({
  kind: 'page',
  of: 'page',
  label: 'Page',
  note: 'One .html file that moves with the pointer, the finger or a phone’s tilt. It loads nothing, and any site can show it.',
  extension: 'html',
  mime: 'text/html',
  params,
  // what makes pages is read when one is made
  write: async (input) => (await import('./pageScene')).writePage(input),
});

export const pages: readonly OutputDefinition[] = [page];
