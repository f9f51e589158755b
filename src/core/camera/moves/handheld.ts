import { count, degrees, formatNumber, frames } from '../../values/params';
import { driveValue } from '../../values/drive';
import { amountOf, CM, defineMove } from '../definition';
import { poseOf } from '../pose';

const RAD = Math.PI / 180;

const params = {
  amount: amountOf('Sways by', 1.5),
  turn: degrees({ label: 'Turns by', min: 0, max: 5, highest: 45, decimals: 2, step: 0.05, default: 0.25 }),
  period: frames({ label: 'Slowness', min: 6, max: 120, lowest: 2, highest: 3600, default: 28, help: 'Frames from one sway to the next' }),
  seed: count({ label: 'Seed', min: 0, max: 999, highest: 1e6, default: 1 }),
};

/** Slow sway with a quicker, smaller tremor over it, −1..1, by seed. */
function sway(seed: number, period: number, frame: number): number {
  const drift = (of: number, over: number): number => driveValue({ kind: 'drift', amount: 1, period: over, seed: of }, 0, frame);
  return 0.78 * drift(seed, period) + 0.22 * drift(seed + 50, period / 3.1);
}

/** A camera held in the hands: it sways and turns a little, never twice the same, the same every time. */
export const handheld = defineMove({
  kind: 'handheld',
  label: 'Handheld',
  help: 'Sways and turns a little, as a camera in the hands does',
  params,
  amounts: ['amount'],
  summary: (p) => `${formatNumber(params.amount, p.amount)}, ${formatNumber(params.turn, p.turn)}`,
  pose: ({ params: p, at }) => {
    const of = (k: number): number => sway(p.seed * 16 + k, p.period, at.frame);
    const [far, turn] = [p.amount * CM, p.turn * RAD];
    return poseOf({
      x: far * of(1),
      y: 0.7 * far * of(2),
      z: 0.4 * far * of(3),
      yaw: turn * of(4),
      pitch: 0.8 * turn * of(5),
      roll: 0.5 * turn * of(6),
    });
  },
});
