import { formatNumber } from '../../values/params';
import { amountOf, CM, defineMove, runParams, runPeriod, shareOf } from '../definition';
import { poseOf } from '../pose';

const params = { distance: amountOf('Distance', 30), ...runParams('end') };

/** Backward; usually it ends where the plate was taken, so that it reveals nothing the plate has not seen. */
export const pullBack = defineMove({
  kind: 'pull-back',
  label: 'Pull-back',
  help: 'Away from what is looked at: more comes into view',
  params,
  amounts: ['distance'],
  summary: (p) => formatNumber(params.distance, p.distance),
  pose: ({ params: p, at, length }) => poseOf({ z: -p.distance * CM * shareOf(p, at, length) }),
  path: { from: 'above', drag: (_, { z }) => ({ distance: -z / CM }) },
  period: runPeriod,
});
