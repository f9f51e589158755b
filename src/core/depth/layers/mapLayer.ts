import { guidedEnlarge, picturesRows } from '../../kernels/guidedHost';
import { pushPull } from '../../raster/pushPull';
import type { Plane } from '../../picture';
import { samplePlaneLinear, samplePlaneNearest, shrinkPicture, type Affine } from '../../raster/resample';
import { percent, toggle } from '../../values/params';
import type { LayerInput } from '../definition';

/** A map this much smaller than what is rendered is enlarged along the picture's edges. */
const ENLARGE_FROM = 1.25;

/** Settings that every layer with a map has. */
export const mapParams = {
  turnOver: toggle({ label: 'Turn over', default: false, help: 'Swap near and far' }),
  low: percent({ label: 'Black at', min: 0, max: 100, default: 0, decimals: 1, help: 'Grey of the map that becomes the far end of the layer' }),
  high: percent({ label: 'White at', min: 0, max: 100, default: 100, decimals: 1, help: 'Grey of the map that becomes the near end of the layer' }),
};

/** Settings of a map that changes from frame to frame. */
export const clipParams = {
  steady: percent({
    label: 'Steady',
    min: 0,
    max: 100,
    default: 70,
    ofClips: true,
    help: 'How far depth is carried on from frame to frame, along what moves',
  }),
};

export type Fit = 'stretch' | 'fit' | 'cover';

export interface MapValues {
  readonly turnOver: boolean;
  /** per cent of the map's range */
  readonly low: number;
  readonly high: number;
  readonly fit?: Fit;
}

/** From plate pixels to map pixels: the map stretched over the plate, whole inside it, or covering it. */
export function fitMap(map: { width: number; height: number }, plate: { width: number; height: number }, fit: Fit): Affine {
  let sx = map.width / plate.width;
  let sy = map.height / plate.height;
  if (fit !== 'stretch') sx = sy = fit === 'fit' ? Math.max(sx, sy) : Math.min(sx, sy);
  return { a: sx, b: 0, c: (map.width - sx * plate.width) / 2, d: 0, e: sy, f: (map.height - sy * plate.height) / 2 };
}

type Place = Pick<LayerInput<unknown>, 'width' | 'height' | 'framing' | 'plateSize'>;

/** From pixels of the rendering to map pixels, how many of these there are to one of those, and whether they are so few that the map is enlarged. */
function toMapOf(
  map: { width: number; height: number },
  { framing: f, plateSize }: Omit<Place, 'width' | 'height'>,
  fit: Fit,
): { toMap: Affine; step: number; enlarged: boolean } {
  const m = fitMap(map, plateSize, fit);
  const toMap = { a: m.a * f.a, b: m.a * f.b, c: m.a * f.c + m.c, d: m.e * f.d, e: m.e * f.e, f: m.e * f.f + m.f };
  const step = Math.max(Math.hypot(toMap.a, toMap.d), Math.hypot(toMap.b, toMap.e));
  return { toMap, step, enlarged: step * ENLARGE_FROM < 1 };
}

/** Whether a map is so much smaller than the rendering that it is enlarged along the picture's edges. */
export const enlarges = (map: { width: number; height: number }, place: Place, { fit = 'stretch' }: { fit?: Fit }): boolean =>
  toMapOf(map, place, fit).enlarged;

/** A plate-framed map brought into the output: nearest where it is large enough, along the picture's edges where it is small. */
export function placeMap(
  map: Plane,
  input: Place & Pick<LayerInput<unknown>, 'picture' | 'mend'>,
  { turnOver, low, high, fit = 'stretch' }: MapValues,
): Plane {
  const { toMap, step, enlarged } = toMapOf(map, input, fit);
  const from = low / 100;
  const span = Math.max(1e-6, (high - low) / 100);
  const nearness = (v: number): number => {
    const n = Math.min(1, Math.max(0, (v - from) / span));
    return turnOver ? 1 - n : n;
  };
  const placed = enlarged
    ? enlarge(input.mend ? input.mend(map, nearness) : map, toMap, input, step)
    : samplePlaneNearest(map, toMap, input.width, input.height);
  if (turnOver || low !== 0 || high !== 100) for (let i = 0; i < placed.data.length; i++) placed.data[i] = nearness(placed.data[i]!);
  return placed;
}

function enlarge(map: Plane, toMap: Affine, input: Pick<LayerInput<unknown>, 'width' | 'height' | 'picture'>, step: number): Plane {
  const small = { width: Math.max(1, Math.round(input.width * step)), height: Math.max(1, Math.round(input.height * step)) };
  const kx = input.width / small.width;
  const ky = input.height / small.height;
  const scaled = { a: toMap.a * kx, b: toMap.b * ky, c: toMap.c, d: toMap.d * kx, e: toMap.e * ky, f: toMap.f };
  const guide = shrinkPicture(input.picture, small.width, small.height);
  // holes would spread through the filter: they are filled for it and cut out again
  const holed = map.data.some((v) => v !== v);
  const low = samplePlaneLinear(holed ? pushPull(map) : map, scaled, small.width, small.height);
  const out = guidedEnlarge(guide, low, 2, 1e-4, picturesRows(input.picture));
  const mask = holed ? samplePlaneNearest(map, toMap, input.width, input.height) : null;
  for (let i = 0; i < out.data.length; i++) out.data[i] = mask && mask.data[i] !== mask.data[i] ? NaN : Math.min(1, Math.max(0, out.data[i]!));
  return out;
}
