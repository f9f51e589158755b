import * as z from 'zod';
import { contentKey } from '../key';
import { sha256Pattern } from './fileRef';

/** How the values of a picture are given to a network: by the mean and spread of ImageNet (Deng et al. 2009), 0..1, -1..1 or 0..255. */
export const valueScales = ['imagenet', 'unit', 'signed', 'bytes'] as const;
export type ValueScale = (typeof valueScales)[number];

/** What a network answers: nearness of no scale, distance of no scale, or metres. */
export const givenDepths = ['nearness', 'distance', 'metres'] as const;
export type GivenDepth = (typeof givenDepths)[number];

const side = z.number().int().min(1).max(8192);
const metres = z.number().positive().max(1e6);

/** A network of somebody's own, and how it is asked. */
export const networkUseSchema = z.object({
  sha256: z.string().regex(sha256Pattern),
  /** its file's */
  name: z.string().max(200),
  input: z.string().max(500),
  output: z.string().max(500),
  type: z.enum(['float32', 'float16', 'uint8']),
  /** planes of one colour after the other, or pixels with three colours each */
  layout: z.enum(['planes', 'pixels']),
  /** so many dimensions of one lie before those of the picture */
  leading: z.number().int().min(0).max(4),
  /** px: one size for all pictures, or sides that are multiples, of about so large an area as a square of this side */
  size: z.union([z.object({ width: side, height: side }), z.object({ multiple: side, side })]),
  values: z.enum(valueScales),
  gives: z.enum(givenDepths),
  /** of distances without a scale: they have a zero where the camera is */
  fromZero: z.boolean().default(false),
  /** metres that white and black stand for, where it answers in metres */
  ends: z.object({ near: metres, far: metres }).optional(),
  /** asked once more in overlapping parts at twice the size */
  sharper: z.boolean().default(false),
});
export type NetworkUse = z.infer<typeof networkUseSchema>;

/** Raised when it changes what is made of a network's answer, so that kept maps are made anew. */
const OWN_VERSION = 1;

/** What maps made with a network are addressed by: all but how its file is called. */
export const networkUseKey = ({ name: _, ...use }: NetworkUse): string => contentKey('network', OWN_VERSION, use);
