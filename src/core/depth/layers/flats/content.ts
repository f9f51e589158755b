import * as z from 'zod';

export const flatSchema = z.object({
  id: z.string().min(1).max(64),
  name: z.string().max(200),
  visible: z.boolean().default(true),
  /** the picture it shows; a plain card where there is none */
  media: z
    .object({
      sha256: z.string().regex(/^[0-9a-f]{64}$/),
      name: z.string().max(200),
      width: z.number().int().positive(),
      height: z.number().int().positive(),
    })
    .nullable()
    .default(null),
  /** what a written flat says; its picture is drawn from it */
  text: z.string().max(500).nullable().default(null),
  colour: z
    .string()
    .regex(/^#[0-9a-f]{6}$/i)
    .default('#8a867c'),
  /** middle of its foot, shares of the plate */
  x: z.number().min(-20).max(20).default(0.5),
  y: z.number().min(-20).max(20).default(0.9),
  /** shares of the plate's height */
  height: z.number().min(0.001).max(20).default(0.4),
  /** width over height */
  aspect: z.number().min(0.01).max(100).default(1),
  /** metres */
  distance: z.number().positive().max(1e6).default(3),
});
export type Flat = z.infer<typeof flatSchema>;

export const flatsSchema = z.object({ flats: z.array(flatSchema).max(500).default([]) });
export type FlatsContent = z.infer<typeof flatsSchema>;
