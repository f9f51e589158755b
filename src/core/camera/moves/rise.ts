import { formatNumber } from '../../values/params';
import { amountOf, CM, defineMove, runParams, runPeriod, shareOf, standsParam, steppedAside } from '../definition';

const params = { height: amountOf('Height', 9, { help: 'Below 0 it sinks' }), stands: standsParam(), ...runParams('middle') };

/** Straight up. */
export const rise = defineMove({
  kind: 'rise',
  label: 'Rise',
  help: 'Up or down: near things sink below far ones',
  params,
  amounts: ['height'],
  fixedDistance: 'stands',
  summary: (p) => `${formatNumber(params.height, Math.abs(p.height))} ${p.height < 0 ? 'down' : 'up'}`,
  pose: ({ params: p, at, length }) => steppedAside(0, -p.height * CM * shareOf(p, at, length), 0, p.stands),
  path: { from: 'side', drag: (_, { y }) => ({ height: -y / CM }) },
  period: runPeriod,
});
