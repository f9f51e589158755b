import * as z from 'zod';

const share = z.number().min(-20).max(20);

export const shapePointSchema = z.object({
  x: share,
  y: share,
  /** ends of the two handles, relative to the point */
  inX: share.default(0),
  inY: share.default(0),
  outX: share.default(0),
  outY: share.default(0),
  /** added to the shape's own feather, px of the plate */
  feather: z.number().min(0).max(2000).default(0),
});
export type ShapePoint = z.infer<typeof shapePointSchema>;

export const shapeSchema = z.object({
  id: z.string().min(1).max(64),
  name: z.string().max(200),
  points: z.array(shapePointSchema).min(3).max(2000),
  /** width of the soft edge, px of the plate, half inside and half outside */
  feather: z.number().min(0).max(2000).default(0),
  /** px of the plate by which the outline grows, or shrinks where negative */
  grow: z.number().min(-2000).max(2000).default(0),
  opacity: z.number().min(0).max(1).default(1),
  /** raw nearness */
  nearness: z.number().min(0).max(1).default(0.8),
  /** a second nearness; the first holds at one end of a direction, the second at the other */
  slope: z
    .object({ nearness: z.number().min(0).max(1), x0: share, y0: share, x1: share, y1: share })
    .nullable()
    .default(null),
  /** follows the distance of another layer, so many metres behind it (before it where negative) */
  tie: z
    .object({ layer: z.string(), offset: z.number().min(-1000).max(1000) })
    .nullable()
    .default(null),
});
export type Shape = z.infer<typeof shapeSchema>;

const list = z.array(shapeSchema).max(500).default([]);

/** The shapes as they were drawn on a frame of a clip. */
const drawingSchema = z.object({ frame: z.number().int().min(0), shapes: list });
export type Drawing = z.infer<typeof drawingSchema>;

export const shapesSchema = z.object({
  shapes: list,
  /** they go with what they lie on: the frame they are drawn on, and others on which they were drawn before */
  follow: z
    .object({ at: z.number().int().min(0), earlier: z.array(drawingSchema).max(200).default([]) })
    .nullable()
    .default(null),
});
export type ShapesContent = z.infer<typeof shapesSchema>;
