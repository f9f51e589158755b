import { formatNumber, frames } from '../../values/params';
import { amountOf, CM, defineMove } from '../definition';
import { poseOf } from '../pose';

const params = {
  amount: amountOf('Amount', 4),
  period: frames({ section: 'When', label: 'Once in', min: 12, max: 480, lowest: 2, highest: 36000, default: 96 }),
};

/** Slowly forward and back, with a trace of up and down. */
export const breathe = defineMove({
  kind: 'breathe',
  label: 'Breathe',
  help: 'Gently forward and back: a still that is alive, and loops',
  params,
  amounts: ['amount'],
  summary: (p) => formatNumber(params.amount, p.amount),
  pose: ({ params: p, at }) => {
    const angle = (2 * Math.PI * at.frame) / p.period;
    return poseOf({ z: (p.amount * CM * (1 - Math.cos(angle))) / 2, y: (-p.amount * CM * Math.sin(angle)) / 8 });
  },
  period: (p) => p.period,
});
