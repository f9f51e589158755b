import { formatNumber, frames, toggle } from '../../values/params';
import { amountOf, CM, defineMove, standsParam, steppedAside } from '../definition';

const params = {
  radius: amountOf('Radius', 3),
  period: frames({ section: 'When', label: 'Once round in', min: 12, max: 480, lowest: 2, highest: 36000, default: 96 }),
  flat: toggle({ label: 'Lying', default: false, help: 'Round on the floor instead of in the plane of the picture' }),
  stands: standsParam(),
};

/** Round and round about where the plate was taken. */
export const circle = defineMove({
  kind: 'circle',
  label: 'Circle',
  help: 'Round and round on a small circle: loops',
  params,
  amounts: ['radius'],
  fixedDistance: 'stands',
  summary: (p) => `${formatNumber(params.radius, p.radius)} in ${p.period} frames`,
  pose: ({ params: p, at }) => {
    const angle = (2 * Math.PI * at.frame) / p.period;
    const [aside, along] = [p.radius * CM * Math.sin(angle), -p.radius * CM * Math.cos(angle)];
    return p.flat ? steppedAside(aside, 0, along, p.stands) : steppedAside(aside, along, 0, p.stands);
  },
  period: (p) => p.period,
});
