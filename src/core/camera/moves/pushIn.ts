import { formatNumber } from '../../values/params';
import { amountOf, CM, defineMove, runParams, runPeriod, shareOf } from '../definition';
import { poseOf } from '../pose';

const params = { distance: amountOf('Distance', 30), ...runParams() };

/** Forward along the way the plate was taken. */
export const pushIn = defineMove({
  kind: 'push-in',
  label: 'Push-in',
  help: 'Towards what is looked at: near things grow faster than far ones',
  params,
  amounts: ['distance'],
  summary: (p) => formatNumber(params.distance, p.distance),
  pose: ({ params: p, at, length }) => poseOf({ z: p.distance * CM * shareOf(p, at, length) }),
  path: { from: 'above', drag: (_, { z }) => ({ distance: z / CM }) },
  period: runPeriod,
});
