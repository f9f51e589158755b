import { newPlane } from '../../../raster/picture';
import { nearnessAtDistance, rawOf } from '../../calibrate';
import { defineLayer, type LayerInput } from '../../definition';
import { polygonCoverage } from '../../outline/area';
import { boxWithin, NOWHERE, type Cover } from '../../outline/cover';
import { flattenCurve, outputPerPlate, plateToOutputPx } from '../../outline/curve';
import { distanceBand } from '../../outline/distanceBand';
import { shapesSchema, type Shape, type ShapesContent } from './content';

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
  const reach = Math.abs(grow) + 0.5 * (feather + softest * scale) + 1;
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = 0; i < outline.xy.length; i += 2) {
    left = Math.min(left, outline.xy[i]!);
    right = Math.max(right, outline.xy[i]!);
    top = Math.min(top, outline.xy[i + 1]!);
    bottom = Math.max(bottom, outline.xy[i + 1]!);
  }
  const box = boxWithin(input, left - reach, top - reach, right + reach, bottom + reach);
  if (!box) return null;
  const here = { ...outline, xy: outline.xy.map((v, i) => v - (i % 2 === 0 ? box.x0 : box.y0)) };
  const { data } = polygonCoverage(here.xy, box.width, box.height);
  const cover = { ...box, data };
  if (feather + softest * scale < 1 && Math.abs(grow) < 0.01) return cover;
  const count = shape.points.length;
  const band = distanceBand(here, count, box.width, box.height, reach);
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

/** A shape's raw nearness at a place of the plate (shares). */
export function shapeNearness(shape: Shape, x: number, y: number): number {
  const s = shape.slope;
  if (!s) return shape.nearness;
  const dx = s.x1 - s.x0;
  const dy = s.y1 - s.y0;
  const t = Math.min(1, Math.max(0, ((x - s.x0) * dx + (y - s.y0) * dy) / (dx * dx + dy * dy || 1e-12)));
  return shape.nearness + (s.nearness - shape.nearness) * t;
}

/** A shape tied to another layer takes that layer's distance, set off. */
export function tiedShape(shape: Shape, { anchors, calibration }: Pick<LayerInput<unknown>, 'anchors' | 'calibration'>): Shape {
  const anchor = shape.tie && anchors[shape.tie.layer];
  if (!anchor) return shape;
  const nearness = rawOf(nearnessAtDistance(Math.max(0.01, anchor + shape.tie!.offset), calibration), calibration);
  return { ...shape, nearness };
}

/** Closed curves, each at its nearness; later ones lie over earlier ones. */
export const shapeLayer = defineLayer({
  kind: 'shape',
  label: 'Shapes',
  help: 'Closed curves, each at a distance',
  params: {},
  content: shapesSchema,
  readsCalibration: true,
  summary: (_, { shapes }: ShapesContent) => (shapes.length === 1 ? '1 shape' : `${shapes.length} shapes`),
  build(input) {
    const { width, height, framing: f, plateSize, content } = input;
    const nearness = newPlane(width, height);
    const coverage = newPlane(width, height);
    for (const raw of content.shapes) {
      const shape = tiedShape(raw, input);
      const { points, feather, grow } = shape;
      const { x0, y0, ...mask } = input.rememberAlone(['shape', points, feather, grow], () => shapeCover(shape, input) ?? NOWHERE);
      for (let v = y0; v < y0 + mask.height; v++)
        for (let u = x0; u < x0 + mask.width; u++) {
          const i = v * width + u;
          const a = shape.opacity * mask.data[(v - y0) * mask.width + u - x0]!;
          if (a === 0) continue;
          const n = shape.slope
            ? shapeNearness(
                shape,
                (f.a * (u + 0.5) + f.b * (v + 0.5) + f.c) / plateSize.width,
                (f.d * (u + 0.5) + f.e * (v + 0.5) + f.f) / plateSize.height,
              )
            : shape.nearness;
          // "over" with straight values: what is already there keeps what the new shape leaves of it
          const covered = a + coverage.data[i]! * (1 - a);
          nearness.data[i] = (n * a + nearness.data[i]! * coverage.data[i]! * (1 - a)) / covered;
          coverage.data[i] = covered;
        }
    }
    return { nearness, coverage };
  },
});
