import { level } from '../../params';
import { defineStep } from '../definition';

const wide = { min: 0, max: 1, lowest: -1e6, highest: 1e6 };

/** 1 between two values, 0 outside: once on it stays on until it is outside by more than the slack, so that what trembles at an end counts once. */
export const gateStep = defineStep({
  kind: 'gate',
  label: 'Gate',
  help: 'On between two values',
  params: {
    from: level({ ...wide, label: 'From', default: 0.6 }),
    to: level({ ...wide, label: 'To', default: 1 }),
    slack: level({ label: 'Slack', min: 0, max: 0.5, highest: 1e6, default: 0.05, help: 'It goes off this much outside' }),
  },
  sentence: ({ from, to }) => `on between ${from} and ${to}`,
  begin({ from, to, slack }) {
    const [low, high] = [Math.min(from, to), Math.max(from, to)];
    let on = false;
    return {
      next: (value) => {
        on = on ? value >= low - slack && value <= high + slack : value >= low && value <= high;
        return Number(on);
      },
    };
  },
});
