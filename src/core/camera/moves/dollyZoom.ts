import { formatNumber, metres } from '../../values/params';
import { amountOf, CM, defineMove, runParams, runPeriod, shareOf } from '../definition';
import { poseOf } from '../pose';

const params = {
  distance: amountOf('Distance', 30, { help: 'Forward; below 0 back' }),
  subject: metres({ label: 'Keeps its size at', min: 0.3, max: 300, lowest: 0.01, highest: 1e6, default: 4, help: 'Distance of the subject' }),
  ...runParams(),
};

/** Forward while the field of view opens, so that the subject keeps its size: zoom = (S − z)/S. */
export const dollyZoom = defineMove({
  kind: 'dolly-zoom',
  label: 'Dolly zoom',
  help: 'Forward while the view widens: the subject keeps its size, the rest does not',
  params,
  amounts: ['distance'],
  fixedDistance: 'subject',
  summary: (p) => formatNumber(params.distance, p.distance),
  pose: ({ params: p, at, length }) => {
    const z = p.distance * CM * shareOf(p, at, length);
    return poseOf({ z, zoom: Math.max(0.02, (p.subject - z) / p.subject) });
  },
  path: { from: 'above', drag: (_, { z }) => ({ distance: z / CM }) },
  period: runPeriod,
});
