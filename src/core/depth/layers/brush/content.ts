import * as z from 'zod';

export const brushModes = ['nearer', 'farther', 'set', 'smooth', 'erase'] as const;
export type BrushMode = (typeof brushModes)[number];

export const strokeSchema = z.object({
  id: z.string().min(1).max(64),
  mode: z.enum(brushModes),
  /** x, y in shares of the plate and pressure 0..1, in turn */
  points: z.array(z.number().min(-20).max(20)).min(3).max(60000),
  /** radius at full pressure, px of the plate */
  radius: z.number().positive().max(10000),
  /** 0 hard … 1 soft to the middle */
  softness: z.number().min(0).max(1).default(0.5),
  /** how far nearer or farther, or how strongly set or smoothed, 0..1 */
  amount: z.number().min(0).max(1).default(0.2),
  /** raw nearness that "set" sets */
  nearness: z.number().min(0).max(1).default(0.5),
  /** 0 paints over edges … 1 keeps closely to the colours under the start of the stroke */
  edgeStop: z.number().min(0).max(1).default(0),
});
export type Stroke = z.infer<typeof strokeSchema>;

export const strokesSchema = z.object({ strokes: z.array(strokeSchema).max(5000).default([]) });
export type StrokesContent = z.infer<typeof strokesSchema>;

/** Numbers kept: a hundredth of a pixel of an 8K plate, and pressure to a thousandth. */
export const keepPlace = (v: number): number => Math.round(v * 1e6) / 1e6;

/**
 * A pointer's path thinned to what shapes the stroke: points closer together than a tenth of the radius add nothing that the
 * capsules between them do not cover. `points` as in a stroke; distances are measured in px of the plate.
 */
export function thinStroke(points: readonly number[], radius: number, plate: { width: number; height: number }): number[] {
  const out: number[] = [];
  const step = Math.max(0.5, radius / 10);
  for (let i = 0; i < points.length; i += 3) {
    const [x, y, pressure] = [points[i]!, points[i + 1]!, points[i + 2]!];
    const n = out.length;
    const last = i + 3 >= points.length;
    if (n >= 3 && !last) {
      const away = Math.hypot((x - out[n - 3]!) * plate.width, (y - out[n - 2]!) * plate.height);
      if (away < step && Math.abs(pressure - out[n - 1]!) < 0.1) continue;
    }
    out.push(keepPlace(x), keepPlace(y), Math.round(pressure * 1000) / 1000);
  }
  return out;
}
