import { degrees, formatNumber } from '../../values/params';
import { amountOf, CM, defineMove, runParams, runPeriod, shareOf, standsParam, steppedAside } from '../definition';

const params = {
  distance: amountOf('Distance', 9),
  direction: degrees({ label: 'Direction', min: -180, max: 180, default: 0, help: '0° to the right, 90° forward, 180° to the left' }),
  stands: standsParam(),
  ...runParams('middle'),
};

/** Sideways over the floor. */
export const truck = defineMove({
  kind: 'truck',
  label: 'Truck',
  help: 'Sideways: near things pass far ones',
  params,
  amounts: ['distance'],
  fixedDistance: 'stands',
  summary: (p) =>
    `${formatNumber(params.distance, Math.abs(p.distance))} ${Math.cos((p.direction * Math.PI) / 180) * p.distance < 0 ? 'left' : 'right'}`,
  pose: ({ params: p, at, length }) => {
    const way = p.distance * CM * shareOf(p, at, length);
    const angle = (p.direction * Math.PI) / 180;
    return steppedAside(way * Math.cos(angle), 0, way * Math.sin(angle), p.stands);
  },
  path: {
    from: 'above',
    drag: (_, { x, z }) => ({ distance: Math.hypot(x, z) / CM, direction: (Math.atan2(z, x) * 180) / Math.PI }),
  },
  period: runPeriod,
});
