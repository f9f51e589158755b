import { degrees, formatNumber } from '../../values/params';
import { focalPx } from '../../optics';
import { amountOf, CM, defineMove } from '../definition';
import { poseOf } from '../pose';

const RAD = Math.PI / 180;
const WIDEST = 170;

const angle = (label: string, help: string) =>
  degrees({ label, min: -45, max: 45, lowest: -360, highest: 360, decimals: 2, step: 0.1, default: 0, help });
const place = (label: string, help: string) => ({ ...amountOf(label, 0, { help }), min: -100 });

const params = {
  x: place('Right', 'Below 0 to the left'),
  y: place('Down', 'Below 0 up'),
  z: place('Forward', 'Below 0 back'),
  yaw: angle('Yaw', 'Looks to the right'),
  pitch: angle('Pitch', 'Looks up'),
  roll: angle('Roll', 'Turns the camera clockwise'),
  view: degrees({
    label: 'Field of view',
    min: -60,
    max: 60,
    lowest: -165,
    highest: 165,
    default: 0,
    help: 'Wider or narrower than that of the plate by so much',
  }),
};

/** Every number of the camera, each to be driven. */
export const free = defineMove({
  kind: 'free',
  label: 'Free',
  help: 'Place, turns and field of view, each driven by itself',
  params,
  amounts: ['x', 'y', 'z'],
  summary: (p) => [p.x, p.y, p.z].map((v) => formatNumber(params.x, v)).join(', '),
  pose: ({ params: p, hfovDegrees }) => {
    const wanted = Math.min(WIDEST, Math.max(1, hfovDegrees + p.view));
    return poseOf({
      x: p.x * CM,
      y: p.y * CM,
      z: p.z * CM,
      yaw: p.yaw * RAD,
      pitch: p.pitch * RAD,
      roll: p.roll * RAD,
      zoom: p.view === 0 ? 1 : focalPx(1, wanted) / focalPx(1, hfovDegrees),
    });
  },
  path: { from: 'above', drag: (_, { x, y, z }) => ({ x: x / CM, y: y / CM, z: z / CM }) },
});
