import type { Plane } from '../raster/picture';
import { smoothstep } from '../scalar';
import { formatMetres, metres, percent, toggle, type ValuesOf } from '../values/params';
import type { Lane } from './lane';

const ON = { reach: [true] };

/** Settings that every effect has that can be limited to a reach of distances. */
export const reachParams = {
  reach: toggle({ section: 'Reach', label: 'Within a reach', default: false, help: 'Acts only on what lies at these distances' }),
  reachFrom: metres({
    section: 'Reach',
    only: ON,
    label: 'From',
    min: 0.1,
    max: 3000,
    lowest: 0,
    highest: 1e6,
    default: 1,
    help: 'Nothing nearer is touched',
  }),
  reachTo: metres({
    section: 'Reach',
    only: ON,
    label: 'To',
    min: 0.1,
    max: 3000,
    lowest: 0,
    highest: Infinity,
    default: 10,
    help: 'Nothing farther is touched; ∞ may be typed',
  }),
  reachNear: metres({
    section: 'Reach',
    only: ON,
    label: 'Near shoulder',
    min: 0,
    max: 100,
    highest: 1e6,
    scale: 'linear',
    default: 0,
    help: 'Depth over which it sets in, beyond From',
  }),
  reachFar: metres({
    section: 'Reach',
    only: ON,
    label: 'Far shoulder',
    min: 0,
    max: 100,
    highest: 1e6,
    scale: 'linear',
    default: 0,
    help: 'Depth over which it dies away, beyond To',
  }),
  reachOutside: toggle({ section: 'Reach', only: ON, label: 'Outside it', default: false, help: 'Acts on everything else instead' }),
  reachMix: percent({ section: 'Reach', only: ON, label: 'Mix', min: 0, max: 100, default: 100, help: 'How much of the effect is mixed in' }),
  reachRefine: toggle({
    section: 'Reach',
    only: ON,
    label: 'Fine edges',
    default: true,
    help: 'Hair, leaves and rope are kept whole along the picture’s edges',
  }),
};
export type ReachValues = ValuesOf<typeof reachParams>;

/** Both ends of a reach can be picked in the picture. */
export const reachPickings = [
  { param: 'reachFrom', label: 'Pick From', prompt: 'Click where the reach should begin' },
  { param: 'reachTo', label: 'Pick To', prompt: 'Click where the reach should end' },
] as const;

/** A range of distances with soft ends, metres; `to` may be Infinity. */
export interface ReachRange {
  readonly from: number;
  readonly to: number;
  /** depths over which it rises beyond `from` and falls beyond `to` */
  readonly near: number;
  readonly far: number;
}

/** The range that is set; ends that were set the wrong way round are swapped. */
export const rangeOf = (v: Pick<ReachValues, 'reachFrom' | 'reachTo' | 'reachNear' | 'reachFar'>): ReachRange => ({
  from: Math.min(v.reachFrom, v.reachTo),
  to: Math.max(v.reachFrom, v.reachTo),
  near: v.reachNear,
  far: v.reachFar,
});

/** Weight 0..1 of a distance: 0 before `from`, smoothly to 1 over the near shoulder, 1 up to `to`, smoothly to 0 over the far shoulder. */
export function reachWeight({ from, to, near, far }: ReachRange, distance: number): number {
  const rise = distance < from ? 0 : near > 0 ? smoothstep(from, from + near, distance) : 1;
  const fall = distance <= to ? 1 : far > 0 ? 1 - smoothstep(to, to + far, distance) : 0;
  return rise * fall;
}

/** Weights of a plane of distances, as the depth alone has them. */
export function reachWeights(range: ReachRange, { width, height, data }: Plane): Plane {
  const out = new Float32Array(data.length);
  for (let i = 0; i < out.length; i++) out[i] = reachWeight(range, data[i]!);
  return { width, height, data: out };
}

/** The lane of an effect that has none of its own: where its reach lies. */
export function reachLane(label: string, v: ReachValues): Lane {
  const { from, to, near, far } = rangeOf(v);
  const points = [
    { distance: from, strength: 0 },
    { distance: from + near, strength: 1 },
    { distance: to, strength: 1 },
    { distance: to + far, strength: 0 },
  ];
  return {
    caption: `${label}: ${v.reachOutside ? 'outside ' : ''}${formatMetres(from)} to ${formatMetres(to)}`,
    points: v.reachOutside ? points.map((p) => ({ ...p, strength: 1 - p.strength })) : points,
    handles: reachHandles(v),
  };
}

/** Both ends on the rail, and the ends of the shoulders where there are some. */
export function reachHandles(v: ReachValues): Lane['handles'] {
  const { from, to, near, far } = rangeOf(v);
  const finite = to < Infinity;
  return [
    { param: 'reachFrom', distance: from },
    ...(near > 0 ? [{ param: 'reachNear', distance: from + near, from }] : []),
    ...(finite ? [{ param: 'reachTo', distance: to }] : []),
    ...(finite && far > 0 ? [{ param: 'reachFar', distance: to + far, from: to }] : []),
  ];
}
