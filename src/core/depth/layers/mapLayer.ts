import { guidedEnlarge, picturesRows } from '../../kernels/guidedHost';
import type { Plane } from '../../raster/picture';
import { samplePlaneLinear, samplePlaneNearest, shrinkPicture, type Affine } from '../../raster/resample';
import type { LayerInput } from '../definition';

/** A map this much smaller than what is rendered is enlarged along the picture's edges. */
const ENLARGE_FROM = 1.25;

/** A plate-framed map brought into the output: nearest where it is large enough, along the picture's edges where it is small. */
export function placeMap(
  map: Plane,
  input: Pick<LayerInput<unknown>, 'width' | 'height' | 'framing' | 'plateSize' | 'picture'>,
  turnOver: boolean,
): Plane {
  const sx = map.width / input.plateSize.width;
  const sy = map.height / input.plateSize.height;
  const f = input.framing;
  const toMap: Affine = { a: f.a * sx, b: f.b * sx, c: f.c * sx, d: f.d * sy, e: f.e * sy, f: f.f * sy };
  const step = Math.max(Math.hypot(toMap.a, toMap.d), Math.hypot(toMap.b, toMap.e));
  const placed = step * ENLARGE_FROM < 1 ? enlarge(map, toMap, input, step) : samplePlaneNearest(map, toMap, input.width, input.height);
  if (turnOver) for (let i = 0; i < placed.data.length; i++) placed.data[i] = 1 - placed.data[i]!;
  return placed;
}

function enlarge(map: Plane, toMap: Affine, input: Pick<LayerInput<unknown>, 'width' | 'height' | 'picture'>, step: number): Plane {
  const small = { width: Math.max(1, Math.round(input.width * step)), height: Math.max(1, Math.round(input.height * step)) };
  const kx = input.width / small.width;
  const ky = input.height / small.height;
  const scaled = { a: toMap.a * kx, b: toMap.b * ky, c: toMap.c, d: toMap.d * kx, e: toMap.e * ky, f: toMap.f };
  const guide = shrinkPicture(input.picture, small.width, small.height);
  const low = samplePlaneLinear(map, scaled, small.width, small.height);
  const out = guidedEnlarge(guide, low, 2, 1e-4, picturesRows(input.picture));
  for (let i = 0; i < out.data.length; i++) out.data[i] = Math.min(1, Math.max(0, out.data[i]!));
  return out;
}
