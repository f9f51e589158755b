import { newPlane, type Plane } from '../../raster/picture';
import { count, percent } from '../../values/params';
import { bandShare, distanceToStep, flatSteps, toSteps } from './bands';
import { defineCleanup } from './definition';
import { selfGuided } from './selfGuided';

/** Steps of grey that still count as a slope; what differs by more is an edge of things. */
const SLOPE_STEPS = 2.5;

/** Radius (px) and tolerance (grey steps) of the smoothing that takes away what compression left. */
const NOISE_RADIUS = 4;
const NOISE_STEPS = 1.6;

/**
 * Rebuilds the slope that flat steps of grey stand for. Where a step meets the next higher one the slope has risen half a step
 * above it, where it meets the next lower one half a step below; between them it runs in proportion to the distances to both.
 * On a ramp that is exact. Edges of things are no steps and keep their place. What compression left is then smoothed by no more
 * than a step.
 */
export function deBandMap(map: Plane, step: number): Plane {
  const { width, height, data } = map;
  const up = distanceToStep(map, true, SLOPE_STEPS * step);
  const down = distanceToStep(map, false, SLOPE_STEPS * step);
  const summit = halfStepWidth(up, down);
  const out = newPlane(width, height);
  for (let i = 0; i < data.length; i++) {
    const a = up[i]!;
    const b = down[i]!;
    let lift = 0;
    if (a < Infinity && b < Infinity) lift = (b - a) / (a + b);
    // a summit or a hollow: the slope ends level in it
    else if (a < Infinity) lift = 1 - Math.min(1, a / summit);
    else if (b < Infinity) lift = Math.min(1, b / summit) - 1;
    out.data[i] = data[i]! + 0.5 * step * lift;
  }
  const soft = selfGuided(out, NOISE_RADIUS, NOISE_STEPS * step);
  for (let i = 0; i < data.length; i++) {
    const v = soft.data[i]!;
    const most = 0.75 * step;
    soft.data[i] = Math.min(1, Math.max(0, Math.min(data[i]! + most, Math.max(data[i]! - most, v))));
  }
  return soft;
}

/** Half the usual width of a step, px: over so much the slope levels out where there is no step on its other side. */
function halfStepWidth(up: Float32Array, down: Float32Array): number {
  const widths: number[] = [];
  const stride = Math.max(1, Math.floor(up.length / 50000));
  for (let i = 0; i < up.length; i += stride) {
    const w = up[i]! + down[i]!;
    if (w < Infinity) widths.push(w);
  }
  widths.sort((a, b) => a - b);
  return Math.max(1, 0.5 * (widths[widths.length >> 1] ?? 2));
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
  apply({ map, params }) {
    const given = params.levels > 1 ? 1 / (params.levels - 1) : 0;
    const { step, map: steps } = given > 0 ? { step: given, map: toSteps(map, given) } : flatSteps(map);
    const out = newPlane(map.width, map.height);
    out.data.set(map.data);
    if (step <= 0 || step > 0.2) return out;
    const mended = deBandMap(steps, step);
    for (let i = 0; i < out.data.length; i++) {
      const v = map.data[i]!;
      const t = Math.min(1, Math.max(0, (v - params.meet / 100) / 0.1 + 0.5));
      const strength = (params.far + (params.near - params.far) * t) / 100;
      const m = mended.data[i]!;
      if (m === m) out.data[i] = v + strength * (m - v);
    }
    return out;
  },
  figure: (before, after) => `bands ${(100 * bandShare(before)).toFixed(0)} % → ${(100 * bandShare(after)).toFixed(0)} %`,
});
