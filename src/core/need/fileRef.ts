import * as z from 'zod';

/** What is shown where a shot is longer than a clip: its last frame, or the clip from its beginning. */
export const beyonds = ['hold', 'loop'] as const;
export type Beyond = (typeof beyonds)[number];

/** Parts of frames that hold two pictures, side by side or one over the other. */
export const halves = ['left', 'right', 'upper', 'lower'] as const;
export type Half = (typeof halves)[number];

const frame = z.number().int().min(0);

/** How the frames of a sequence are called: a word, and the number of the first, in so many digits. */
export const numberedSchema = z.object({ stem: z.string().max(100), first: frame, digits: z.number().int().min(1).max(20) });
export type Numbered = z.infer<typeof numberedSchema>;

/** How long a clip is, how fast it runs, and how it is read: the one form of it, in documents, needs and what is found in files. */
export const clipRefSchema = z.object({
  frames: z.number().int().positive(),
  /** frames a second; their mean where `uneven` */
  fps: z.number().positive().max(1000),
  /** quarter turns clockwise by which its pixels are turned */
  rotation: z.number().int().min(0).max(3).optional(),
  sound: z.boolean().optional(),
  numbered: numberedSchema.optional(),
  /** its frames are shown for different times */
  uneven: z.boolean().optional(),
  /** the half of its frames that is the picture, where the other holds something else; sizes are those of the half */
  half: z.enum(halves).optional(),
  /** what comes after its end */
  beyond: z.enum(beyonds).optional(),
  /** frames that somebody said begin a scene, or begin none, whatever is found */
  cuts: z.object({ added: z.array(frame), removed: z.array(frame) }).optional(),
});
export type ClipRef = z.infer<typeof clipRefSchema>;

export const sha256Pattern = /^[0-9a-f]{64}$/;

/** A file kept beside the document, addressed by what is in it. */
export const fileRefSchema = z.object({
  sha256: z.string().regex(sha256Pattern),
  name: z.string().max(200),
  /** px as displayed, after EXIF orientation */
  width: z.number().int().positive(),
  height: z.number().int().positive(),
  /** present where the file is a clip */
  clip: clipRefSchema.optional(),
});
export type FileRef = z.infer<typeof fileRefSchema>;
