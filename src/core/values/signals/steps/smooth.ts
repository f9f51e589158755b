import { level } from '../../params';
import { defineStep } from '../definition';

/** Follows with a delay: what is left of a jump falls to a third in this time (1/e), whatever the rate of samples. */
export const smoothStep = defineStep({
  kind: 'smooth',
  label: 'Smooth',
  help: 'Follows slowly: two thirds of a jump in this time',
  params: { seconds: level({ label: 'Seconds', min: 0, max: 2, highest: 60, default: 0.2 }) },
  sentence: ({ seconds }) => `smoothed over ${seconds} s`,
  begin({ seconds }) {
    let now: number | null = null;
    return {
      next: (value, since) => {
        now = now === null || seconds <= 0 ? value : value + (now - value) * Math.exp(-since / seconds);
        return now;
      },
    };
  },
});
