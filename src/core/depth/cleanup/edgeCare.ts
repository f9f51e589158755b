import { guidedEnlarge, picturesRows } from '../../kernels/guidedHost';
import { extreme, gaussian } from '../../raster/filters';
import { newPlane, type Plane } from '../../raster/picture';
import { pushPull } from '../../raster/pushPull';
import { percent, pixels } from '../../values/params';
import { edgeDistance } from '../edges';
import { defineCleanup } from './definition';

/** Range of nearness within the radius from which an edge is taken to be there. */
const EDGE_RANGE = 0.02;
/** Colour variance that the snap smooths over (squared light). */
const EPS = 2e-5;

/**
 * Moves the map's edges to those of the picture. A guided filter by the picture (He, Sun & Tang 2013) tells for every pixel near
 * an edge of the map how far it goes with the near or the far side; the answer is sharpened between the two sides' own values,
 * so that no depth between them is left. Away from edges the map stays as it is.
 */
export function snapToPicture(map: Plane, input: { picture: Parameters<typeof guidedEnlarge>[0] }, radius: number, strength: number): Plane {
  const { width, height } = map;
  const r = Math.max(1, Math.round(radius));
  const low = extreme(map, r, 'smallest');
  const high = extreme(map, r, 'largest');
  // twice the reach: an edge that lies wrong by the radius must not outvote the right side
  const guided = guidedEnlarge(input.picture, map, 2 * r, EPS, picturesRows(input.picture));
  const out = newPlane(width, height);
  for (let i = 0; i < out.data.length; i++) {
    const v = map.data[i]!;
    const range = high.data[i]! - low.data[i]!;
    if (range < EDGE_RANGE) {
      out.data[i] = v;
      continue;
    }
    const t = Math.min(1, Math.max(0, (guided.data[i]! - low.data[i]!) / range));
    const s = Math.min(1, Math.max(0, (t - 0.5) * 3 + 0.5));
    const snapped = low.data[i]! + range * s * s * (3 - 2 * s);
    const k = strength * Math.min(1, range / EDGE_RANGE - 1);
    out.data[i] = v + k * (snapped - v);
  }
  return out;
}

/** Snaps the map to the picture's edges, then grows or shrinks what is near, then softens. */
export const edgeCare = defineCleanup({
  kind: 'edge-care',
  label: 'Edge care',
  help: 'Snaps the map to the picture’s edges',
  params: {
    radius: pixels({
      label: 'Radius',
      min: 1,
      max: 24,
      highest: 64,
      default: 6,
      decimals: 0,
      step: 1,
      help: 'How far an edge may lie from where it should',
    }),
    strength: percent({ label: 'Snap', min: 0, max: 100, default: 100 }),
    grow: pixels({
      label: 'Grow',
      min: -8,
      max: 8,
      lowest: -50,
      highest: 50,
      default: 0,
      step: 0.5,
      help: 'Grows what is near; shrinks it where negative',
    }),
    soften: pixels({ label: 'Soften', min: 0, max: 10, highest: 100, default: 0, step: 0.5 }),
  },
  apply({ map, picture, params, pxScale }) {
    let out = map.data.some((v) => v !== v) ? pushPull(map) : map;
    if (params.strength > 0) out = snapToPicture(out, { picture }, params.radius * pxScale, params.strength / 100);
    const grow = params.grow * pxScale;
    if (Math.abs(grow) >= 0.5) out = extreme(out, Math.round(Math.abs(grow)), grow > 0 ? 'largest' : 'smallest');
    if (params.soften > 0) out = gaussian(out, 0.5 * params.soften * pxScale);
    return out;
  },
  figure(before, after, picture) {
    const [a, b] = [edgeDistance(before, picture), edgeDistance(after, picture)];
    return a === null ? 'no edges' : `edges off by ${a.toFixed(1)} → ${(b ?? 0).toFixed(1)} px`;
  },
});
