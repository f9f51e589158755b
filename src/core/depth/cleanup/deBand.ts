import { newPlane, type Plane } from '../../picture';
import { count, percent } from '../../values/params';
import { bandShare, enlargedStep, greyStep, slopeWithin, toSteps } from './bands';
import { defineCleanup } from './definition';

/** Puts the slope back that flat steps of grey stand for (see slopeWithin). */
export function deBandMap(map: Plane, step: number): Plane {
  const { width, height, data } = map;
  const lift = slopeWithin(map, step);
  const out = newPlane(width, height);
  for (let i = 0; i < data.length; i++) out.data[i] = data[i]! + 0.5 * step * lift[i]!;
  return out;
}

export interface DeBandValues {
  /** per cent */
  readonly near: number;
  readonly far: number;
  readonly meet: number;
  readonly levels: number;
}

/**
 * A map whose bands are taken away with a strength that depends on how near (0..1, by `nearness`) a value lies.
 * `before` is the grey step it had before it was enlarged, 0 where it was not.
 */
export function mended(map: Plane, params: DeBandValues, nearness: (value: number) => number, before = 0): Plane {
  const given = params.levels > 1 ? 1 / (params.levels - 1) : before;
  const { step, map: steps } = given > 0 ? { step: given, map: toSteps(map, given) } : { step: greyStep(map), map };
  const out = newPlane(map.width, map.height);
  out.data.set(map.data);
  if (step <= 0 || step > 0.2) return out;
  const whole = deBandMap(steps, step);
  for (let i = 0; i < out.data.length; i++) {
    const v = map.data[i]!;
    const t = Math.min(1, Math.max(0, (nearness(v) - params.meet / 100) / 0.1 + 0.5));
    const strength = (params.far + (params.near - params.far) * t) / 100;
    const m = whole.data[i]!;
    if (m === m) out.data[i] = v + strength * (m - v);
  }
  return out;
}

/** Takes away the bands of maps that had too few greys, with a strength of its own for the near and for the far part. */
export const deBand = defineCleanup({
  kind: 'de-band',
  label: 'De-band',
  help: 'Rebuilds the slope between flat steps of grey',
  params: {
    near: percent({ label: 'Near part', min: 0, max: 100, default: 100, help: 'Strength in the near part' }),
    far: percent({ label: 'Far part', min: 0, max: 100, default: 100, help: 'Strength in the far part' }),
    meet: percent({ label: 'They meet at', min: 0, max: 100, default: 50, help: 'Grey at which the two strengths meet' }),
    levels: count({
      label: 'Greys',
      min: 0,
      max: 256,
      highest: 65536,
      default: 0,
      names: { 0: 'found' },
      help: 'How many greys the map had; found by itself at 0',
    }),
  },
  mend: (map, params, nearness) => mended(map, params, nearness, enlargedStep(map)),
  apply: ({ map, params, enlarged }) => mended(map, params, (v) => v, enlarged ? 0 : enlargedStep(map)),
  figure: (before, after) => `bands ${(100 * bandShare(before)).toFixed(0)} % → ${(100 * bandShare(after, before)).toFixed(0)} %`,
});
