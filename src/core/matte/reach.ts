import type { Plane } from '../picture';
import { smoothstep } from '../scalar';
import { formatMetres, metres, percent, toggle, type Param, type ValuesOf } from '../values/params';
import type { Lane } from './lane';

const ON = { reach: [true] };

/** Settings of a range of distances with soft ends; `done`: what happens to what lies within, such as "touched". */
export const rangeParams = (section: string, done: string, [from, to]: readonly [number, number], only?: Param['only']) => {
  const common = { section, ...(only && { only }) };
  const shoulder = { min: 0, max: 100, highest: 1e6, scale: 'linear' as const, default: 0 };
  return {
    from: metres({ ...common, label: 'From', min: 0.1, max: 3000, lowest: 0, highest: 1e6, default: from, help: `Nothing nearer is ${done}` }),
    to: metres({
      ...common,
      label: 'To',
      min: 0.1,
      max: 3000,
      lowest: 0,
      highest: Infinity,
      default: to,
      help: `Nothing farther is ${done}; ∞ may be typed`,
    }),
    near: metres({ ...common, ...shoulder, label: 'Near shoulder', help: 'Depth over which it sets in, beyond From' }),
    far: metres({ ...common, ...shoulder, label: 'Far shoulder', help: 'Depth over which it dies away, beyond To' }),
    refine: toggle({ ...common, label: 'Fine edges', default: true, help: 'Hair, leaves and rope are kept whole along the picture’s edges' }),
  };
};

const ends = rangeParams('Reach', 'touched', [1, 10], ON);

/** Settings that every effect has that can be limited to a reach of distances. */
export const reachParams = {
  reach: toggle({ section: 'Reach', label: 'Within a reach', default: false, help: 'Acts only on what lies at these distances' }),
  reachFrom: ends.from,
  reachTo: ends.to,
  reachNear: ends.near,
  reachFar: ends.far,
  reachOutside: toggle({ section: 'Reach', only: ON, label: 'Outside it', default: false, help: 'Acts on everything else instead' }),
  reachMix: percent({ section: 'Reach', only: ON, label: 'Mix', min: 0, max: 100, default: 100, help: 'How much of the effect is mixed in' }),
  reachRefine: ends.refine,
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

/** What the settings of a range are called. */
interface RangeNames {
  readonly from: string;
  readonly to: string;
  readonly near: string;
  readonly far: string;
}
const REACH_NAMES: RangeNames = { from: 'reachFrom', to: 'reachTo', near: 'reachNear', far: 'reachFar' };

/** A lane of where a range lies, or of all beside it. */
export function rangeLane(label: string, range: ReachRange, outside: boolean, names: RangeNames): Lane {
  const { from, to, near, far } = range;
  const points = [
    { distance: from, strength: 0 },
    { distance: from + near, strength: 1 },
    { distance: to, strength: 1 },
    { distance: to + far, strength: 0 },
  ];
  return {
    caption: `${label}: ${outside ? 'outside ' : ''}${formatMetres(from)} to ${formatMetres(to)}`,
    points: outside ? points.map((p) => ({ ...p, strength: 1 - p.strength })) : points,
    handles: rangeHandles(range, names),
  };
}

/** Both ends on the rail, and the ends of the shoulders where there are some. */
function rangeHandles({ from, to, near, far }: ReachRange, names: RangeNames): Lane['handles'] {
  const finite = to < Infinity;
  return [
    { param: names.from, distance: from },
    ...(near > 0 ? [{ param: names.near, distance: from + near, from }] : []),
    ...(finite ? [{ param: names.to, distance: to }] : []),
    ...(finite && far > 0 ? [{ param: names.far, distance: to + far, from: to }] : []),
  ];
}

/** The lane of an effect that has none of its own: where its reach lies. */
export const reachLane = (label: string, v: ReachValues): Lane => rangeLane(label, rangeOf(v), v.reachOutside, REACH_NAMES);

/** The handles of a reach on the rail. */
export const reachHandles = (v: ReachValues): Lane['handles'] => rangeHandles(rangeOf(v), REACH_NAMES);
