import { newPlane } from '../../../picture';
import { nearnessAtDistance, rawOf } from '../../calibrate';
import { defineLayer, type LayerInput } from '../../definition';
import { NOWHERE } from '../../outline/cover';
import { addressOfFile, frameAt } from '../../../need/need';
import { placeMap } from '../mapLayer';
import { shapesSchema, type Shape, type ShapesContent } from './content';
import { shapeCover } from './cover';
import { followSeries } from './follow';

export { shapeCover } from './cover';

/** A map of coverage as it is. */
const AS_IT_IS = { turnOver: false, low: 0, high: 100 };

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
  limits: true,
  // what follows the picture needs none
  keys: ({ follow }: ShapesContent) => follow === null,
  params: {},
  content: shapesSchema,
  readsCalibration: true,
  needs: ({ content, plate, at }) => {
    const series = plate.clip ? followSeries(addressOfFile(plate), content) : null;
    return series === null ? [] : [{ is: 'kept', of: plate, series, frame: frameAt(plate, at) }];
  },
  summary: (_, { shapes }: ShapesContent) => (shapes.length === 1 ? '1 shape' : `${shapes.length} shapes`),
  build(input) {
    const { width, height, framing: f, plateSize, content } = input;
    const nearness = newPlane(width, height);
    const [first] = content.shapes;
    if (input.map && content.follow && first) {
      // carried to this frame: one region, at the distance of the first shape
      nearness.data.fill(tiedShape(first, input).nearness);
      return { nearness, coverage: placeMap(input.map, input, AS_IT_IS) };
    }
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
