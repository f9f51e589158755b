import { count as whole } from '../../params';
import { defineStep } from '../definition';

/** On which side of this a value is on. */
const HALF = 0.5;

/** How often it has come on, from 0; after so many it begins again. */
export const countStep = defineStep({
  kind: 'count',
  label: 'Count',
  help: 'How often it came on; after so many it begins again',
  params: { wraps: whole({ label: 'Begins again after', min: 2, max: 20, lowest: 1, highest: 1e6, default: 4 }) },
  sentence: ({ wraps }) => `counted, ${wraps} times round`,
  begin({ wraps }) {
    let [times, on] = [0, false];
    return {
      next: (value) => {
        const is = value >= HALF;
        if (is && !on) times = (times + 1) % wraps;
        on = is;
        return times;
      },
    };
  },
});
