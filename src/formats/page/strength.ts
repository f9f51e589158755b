import { percent } from '../../core/values/params';

/** How far a page moves. */
export const pageStrength = percent({
  label: 'Strength',
  min: 0.5,
  max: 6,
  lowest: 0,
  highest: 12,
  default: 2.5,
  decimals: 1,
  step: 0.1,
  help: 'By how much the nearest passes the farthest, of the width',
});
