import { degrees, formatNumber, metres } from '../../values/params';
import { defineMove, runParams, runPeriod, shareOf } from '../definition';
import { poseOf } from '../pose';

const RAD = Math.PI / 180;

const params = {
  angle: degrees({ label: 'Angle', min: -30, max: 30, lowest: -360, highest: 360, default: 4, help: 'Above 0 it goes to the right' }),
  rise: degrees({ label: 'Rises by', min: -30, max: 30, lowest: -89, highest: 89, default: 0 }),
  about: metres({
    label: 'Looks at',
    min: 0.3,
    max: 300,
    lowest: 0.01,
    highest: 1e6,
    default: 4,
    help: 'The distance of the middle that it goes round',
  }),
  ...runParams('middle'),
};

/** On a circle round the point in the middle of the picture at a distance, always looking at it. */
export const arc = defineMove({
  kind: 'arc',
  label: 'Arc',
  help: 'Round a thing, always looking at it',
  params,
  amounts: ['angle', 'rise'],
  fixedDistance: 'about',
  summary: (p) => `${formatNumber(params.angle, Math.abs(p.angle))} ${p.angle < 0 ? 'left' : 'right'}`,
  pose: ({ params: p, at, length }) => {
    const share = shareOf(p, at, length);
    const [turn, up] = [p.angle * RAD * share, p.rise * RAD * share];
    const out = p.about * Math.cos(up);
    return poseOf({
      x: out * Math.sin(turn),
      y: -p.about * Math.sin(up),
      z: p.about - out * Math.cos(turn),
      yaw: -turn,
      pitch: -up,
    });
  },
  path: {
    from: 'above',
    drag: (p, { x, z }) => ({ angle: Math.atan2(x, p.about - z) / RAD }),
  },
  period: runPeriod,
});
