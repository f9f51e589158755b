import type { LayerInput } from '../../definition';
import { polygonCoverage } from '../../outline/area';
import { boxWithin, type Cover } from '../../outline/cover';
import { flattenCurve, outputPerPlate, plateToOutputPx } from '../../outline/curve';
import { distanceBand } from '../../outline/distanceBand';
import type { Shape } from './content';

type Input = Pick<LayerInput<unknown>, 'width' | 'height' | 'framing' | 'plateSize'>;

/**
 * How far a shape covers each pixel, 0..1: exact area where its edge is hard, by distance from the edge where it is soft.
 * Null where it lies outside the output.
 */
export function shapeCover(shape: Shape, input: Input): Cover | null {
  const outline = flattenCurve(shape.points, plateToOutputPx(input.framing, input.plateSize));
  const scale = outputPerPlate(input.framing);
  const softest = Math.max(...shape.points.map((p) => p.feather));
  const feather = shape.feather * scale;
  const grow = shape.grow * scale;
  const margin = Math.abs(grow) + 0.5 * (feather + softest * scale) + 1;
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = 0; i < outline.xy.length; i += 2) {
    left = Math.min(left, outline.xy[i]!);
    right = Math.max(right, outline.xy[i]!);
    top = Math.min(top, outline.xy[i + 1]!);
    bottom = Math.max(bottom, outline.xy[i + 1]!);
  }
  const box = boxWithin(input, left - margin, top - margin, right + margin, bottom + margin);
  if (!box) return null;
  const here = { ...outline, xy: outline.xy.map((v, i) => v - (i % 2 === 0 ? box.x0 : box.y0)) };
  const { data } = polygonCoverage(here.xy, box.width, box.height);
  const cover = { ...box, data };
  if (feather + softest * scale < 1 && Math.abs(grow) < 0.01) return cover;
  const count = shape.points.length;
  const band = distanceBand(here, count, box.width, box.height, margin);
  for (let i = 0; i < data.length; i++) {
    const inside = data[i]! >= 0.5;
    const away = band.distance[i]!;
    if (away === Infinity) {
      data[i] = inside ? 1 : 0;
      continue;
    }
    const at = band.at[i]!;
    const k = Math.min(count - 1, Math.floor(at));
    const own = shape.points[k]!.feather + (shape.points[(k + 1) % count]!.feather - shape.points[k]!.feather) * (at - k);
    const soft = Math.max(1, feather + own * scale);
    const t = Math.min(1, Math.max(0, 0.5 + ((inside ? away : -away) + grow) / soft));
    data[i] = soft > 2 ? t * t * (3 - 2 * t) : t;
  }
  return cover;
}
