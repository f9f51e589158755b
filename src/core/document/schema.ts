import * as z from 'zod';
import { blends } from '../depth/blend';
import { stereoForms } from '../camera/stereoForms';
import { drivesSchema } from '../values/drive';
import { anyNumber } from '../values/anyNumber';
import { signalSchema } from '../values/signals/signal';
import { fileRefSchema } from '../need/fileRef';
import { OUTPUT_LIMIT, TIME_LIMIT } from '../limits';

/** Field of view where the picture does not tell, degrees: a 35 mm-equivalent focal length of 35 mm. */
export const USUAL_HFOV = 54.43;

/** The document's version; older ones are migrated on load. */
export const DOCUMENT_VERSION = 3;

const id = z.string().min(1).max(64);
const name = z.string().max(200);
export const framingSchema = z.object({
  width: z.number().int().min(16).max(OUTPUT_LIMIT),
  height: z.number().int().min(16).max(OUTPUT_LIMIT),
  /** fit: the whole plate inside the output; fill: the plate covers it */
  mode: z.enum(['fit', 'fill']).default('fill'),
  /** on top of fit or fill; 1 = 100 % */
  scale: z.number().min(0.05).max(20).default(1),
  /** offset of the plate's centre, in shares of the output's width and height */
  x: z.number().min(-5).max(5).default(0),
  y: z.number().min(-5).max(5).default(0),
  /** quarter turns clockwise */
  turns: z.number().int().min(0).max(3).default(0),
});
export type Framing = z.infer<typeof framingSchema>;

/** Anything JSON can hold; its kind reads it by a schema of its own. */
const jsonSchema: z.ZodType<unknown> = z.json();

const values = z.record(z.string(), z.union([anyNumber, z.boolean(), z.string()]));

/** What a layer is set to and what is drawn in it, at a frame. */
export const layerKeySchema = z.object({ frame: z.number().int().min(0).max(1e6), values: values.default({}), content: jsonSchema.optional() });
export type LayerKey = z.infer<typeof layerKeySchema>;

export const layerSchema = z.object({
  id,
  kind: z.string(),
  name,
  visible: z.boolean().default(true),
  opacity: z.number().min(0).max(1).default(1),
  blend: z.enum(blends).default('replace'),
  locked: z.boolean().default(false),
  values: values.default({}),
  drives: drivesSchema.default({}),
  media: fileRefSchema.optional(),
  /** what is drawn or placed in the layer; its kind says what that is */
  content: jsonSchema.optional(),
  /** as it is at some frames, in their order; between them it moves */
  keyed: z.array(layerKeySchema).max(1000).optional(),
});
export type Layer = z.infer<typeof layerSchema>;

/** JSON has no infinity: an infinite distance is stored as the word. */
const distance = z.union([z.number().positive(), z.literal('infinite')]);

export const calibrationSchema = z.object({
  low: z.number().min(0).max(1).default(0),
  high: z.number().min(0).max(1).default(1),
  turnOver: z.boolean().default(false),
  bend: z.number().min(0.1).max(10).default(1),
  near: z.number().positive().max(1e6).default(1),
  far: distance.default('infinite'),
  spacing: z.enum(['perspective', 'even', 'log']).default('perspective'),
  /** false until somebody has given a distance */
  scaled: z.boolean().default(false),
});
export type StoredCalibration = z.infer<typeof calibrationSchema>;

export const stakeSchema = z.object({
  id,
  /** place in the plate, 0..1, so that a stake keeps to its thing when the framing changes */
  x: z.number().min(-10).max(10),
  y: z.number().min(-10).max(10),
  distance: z.number().positive().max(1e6),
});

/** The part of the picture that an effect is limited to: what a layer of depth covers, or all but that. */
export const regionSchema = z.object({ layer: id, outside: z.boolean().default(false) });
export type Region = z.infer<typeof regionSchema>;

export const effectSchema = z.object({
  id,
  kind: z.string(),
  on: z.boolean().default(true),
  values: values.default({}),
  drives: drivesSchema.default({}),
  media: fileRefSchema.optional(),
  region: regionSchema.optional(),
  /** what it keeps besides its values; its kind says what that is */
  content: jsonSchema.optional(),
});
export type EffectItem = z.infer<typeof effectSchema>;

/** A clean-up step; those that are not listed are off. */
export const cleanupSchema = z.object({
  kind: z.string(),
  on: z.boolean().default(true),
  values: values.default({}),
  drives: drivesSchema.default({}),
});
export type CleanupItem = z.infer<typeof cleanupSchema>;

/** A camera move; those that are on add up. */
export const moveSchema = effectSchema;
export type MoveItem = z.infer<typeof moveSchema>;

/** Two eyes: how the two views are shown, how far the eyes lie apart, and the distance that lies in the screen. */
export const stereoSchema = z.object({
  on: z.boolean().default(false),
  shown: z.enum(stereoForms).default('red-cyan'),
  /** mm between the eyes */
  eyes: z.number().min(0).max(100000).default(63),
  /** m; what lies there has no parallax */
  screen: distance.default(4),
});
export type Stereo = z.infer<typeof stereoSchema>;

export const cameraSchema = z.object({
  moves: z.array(moveSchema).default([]),
  /** overscan: enlarged until no move looks beyond the plate; the others continue its border */
  border: z.enum(['overscan', 'mirrored', 'smooth']).default('overscan'),
  /** what lies behind edges is filled */
  hidden: z.boolean().default(true),
  /** soft edges of the map are made firm before the camera moves */
  firm: z.boolean().default(true),
  /** a picture of what lies behind, in the plate's framing */
  backdrop: fileRefSchema.nullable().default(null),
  /** how far a move may tear the picture open, per cent of its width */
  clean: z.number().min(0.05).max(20).default(2.5),
  stereo: stereoSchema.default(() => stereoSchema.parse({})),
});
export type CameraSettings = z.infer<typeof cameraSchema>;

/** How long a shot is and how fast it runs; the frames from `from` up to and including `to` are played and exported. */
export const timeSchema = z.object({
  /** frames */
  length: z.number().int().min(1).max(TIME_LIMIT).default(96),
  fps: z.number().min(1).max(120).default(24),
  /** null: from the first, to the last frame */
  from: z.number().int().min(0).nullable().default(null),
  to: z.number().int().min(0).nullable().default(null),
});
export type ShotTime = z.infer<typeof timeSchema>;

/** All that a take holds: everything made from the plate. */
export const settingsSchema = z.object({
  framing: framingSchema,
  hfovDegrees: z.number().min(1).max(170),
  layers: z.array(layerSchema),
  cleanup: z.array(cleanupSchema).default([]),
  calibration: calibrationSchema,
  stakes: z.array(stakeSchema),
  effects: z.array(effectSchema),
  camera: cameraSchema.default(() => cameraSchema.parse({})),
  time: timeSchema.default({ length: 96, fps: 24, from: null, to: null }),
  /** drives of the numbers of framing, lens and calibration, by name (shotNumbers.ts) */
  drives: drivesSchema.default({}),
});
export type Settings = z.infer<typeof settingsSchema>;

export const takeSchema = z.object({ id, name, settings: settingsSchema });

/** One of what a signal chooses from: a take, or a shot as it is set; null: of the live shot itself. */
export const choiceSchema = z.object({ shot: id.nullable().default(null), take: id.nullable().default(null) });
export type Choice = z.infer<typeof choiceSchema>;

/** What is shown while pictures arrive: the one whose number, from 0, a signal gives; the first until it gives any. */
export const chosenSchema = z.object({ among: z.array(choiceSchema).max(100), signal: signalSchema });
export type Chosen = z.infer<typeof chosenSchema>;

/** Where a plate's pictures come from while they arrive: a source by its kind, with its own settings. Its file is the picture that was kept last. */
export const livePlateSchema = z.object({
  source: z.string().min(1).max(40),
  values: z.record(z.string(), z.union([anyNumber, z.boolean(), z.string().max(500)])).default({}),
  /** what is heard besides its own channels, by kinds */
  hears: z.array(z.string().max(40)).max(40).default([]),
  chosen: chosenSchema.optional(),
});
export type LivePlate = z.infer<typeof livePlateSchema>;

/** Channels that were recorded with a clip: of each the value at every frame of the shot. */
export const recordedSchema = z.record(z.string().max(200), z.array(z.number()).max(TIME_LIMIT));
export type Recorded = z.infer<typeof recordedSchema>;

export const shotSchema = z.object({
  id,
  name,
  plate: fileRefSchema.extend({
    bits: z.number().int(),
    hfovFromFile: z.number().nullable().default(null),
    /** true: its alpha channel holds something else and is left out of the picture; absent where it has none */
    opaque: z.boolean().optional(),
    live: livePlateSchema.optional(),
    recorded: recordedSchema.optional(),
  }),
  settings: settingsSchema,
  /** true while it is new and its focus is found by itself */
  fresh: z.boolean().optional(),
  takes: z.array(takeSchema).default([]),
  /** the take last saved or chosen, and the one before it, to flip between */
  take: z.string().nullable().default(null),
  previousTake: z.string().nullable().default(null),
});
export type Shot = z.infer<typeof shotSchema>;

export const projectSchema = z.object({
  version: z.literal(DOCUMENT_VERSION),
  id,
  name,
  shots: z.array(shotSchema),
});
export type Project = z.infer<typeof projectSchema>;
