import * as z from 'zod';
import {
  calibrationSchema,
  DOCUMENT_VERSION,
  effectSchema,
  layerSchema,
  livePlateSchema,
  moveSchema,
  type Project,
  type Shot,
} from '../core/document/schema';
import { importedContentSchema } from '../core/depth/layers/imported';
import { newId, newLayer, newShot, storedFar } from '../core/document/defaults';
import { parseProject } from '../core/document/migrate';
import { drivesSchema, keySchema, type Drives } from '../core/values/drive';
import { sha256 } from '../formats/bytes/sha256';
import type { Database } from './database';
import { asStorageError } from '../media/storage';

const demoSchema = z.object({
  shots: z.record(
    z.string(),
    z.object({
      title: z.string(),
      hfovDegrees: z.number(),
      near: z.number(),
      far: z.number(),
      spacing: z.enum(['perspective', 'even', 'log']),
      bend: z.number().optional(),
      focus: z.array(z.number()).min(1),
      aperture: z.number().optional(),
      width: z.number().default(1600),
      height: z.number().default(900),
      /** where the plate moves: its file, how long it is, and its clip of maps */
      clip: z.object({ frames: z.number(), fps: z.number() }).optional(),
      plate: z.string().optional(),
      map: z.object({ name: z.string(), title: z.string(), width: z.number(), height: z.number() }).optional(),
      /** where the plate arrives live: its file is one picture of it, with depth in alpha */
      live: livePlateSchema.optional(),
    }),
  ),
});

/** What was made by hand in the stacks, by shot. */
const madeSchema = z.record(z.string(), z.object({ exact: z.enum(['below', 'above']), layers: z.array(layerSchema) }));

/** What is staged in some shots: effects besides lens blur, how the camera moves, and what is in focus meanwhile. */
const movesSchema = z.record(
  z.string(),
  z.object({
    effects: z.array(effectSchema).default([]),
    moves: z.array(moveSchema).default([]),
    focus: z.array(keySchema).optional(),
    /** what drives numbers of its lens blur besides */
    drives: drivesSchema.default({}),
  }),
);

/** The mark in the database, and where browsers that had the demo before there were marks keep it. */
const SEEDED = 'demo-seen';
const SEEDED_BEFORE = 'ombrage.demo-seen';
const DEMO_PROJECT = 'slack-water';
const DEMO_NAME = 'Slack Water';
/** Files of its plates. */
const DEMO_PLATES = /^(chartTable|quayLamp|figurehead|crossing|dunes|signalHut)\.(jpg|webm|png)$/;

interface Demo {
  readonly shots: Shot[];
  readonly posters: readonly { readonly shot: string; readonly blob: Blob }[];
  readonly files: readonly { readonly sha256: string; readonly name: string; readonly blob: Blob }[];
}

/** A file of the demo. */
type Read = (name: string) => Promise<Blob>;
const fromServer: Read = async (name) => (await fetch(`/demo/${name}`)).blob();

/** How the finished picture of a demo shot is called, as the shelf shows it before the shot was opened. */
export const posterOf = (name: string): string => `${name}.poster.jpg`;

/** The demo: every still with its estimate, the exact depth as an imported map, and what was made by hand. `finished`: with how its shots look. */
export async function assembleDemo(read: Read, finished = true): Promise<Demo> {
  const json = async (name: string): Promise<unknown> => JSON.parse(await (await read(name)).text()) as unknown;
  const index = demoSchema.parse(await json('demo.json'));
  const made = madeSchema.parse(await json('layers.json'));
  const moving = movesSchema.parse(await json('moves.json'));
  const files: { sha256: string; name: string; blob: Blob }[] = [];
  const keep = async (name: string): Promise<string> => {
    const blob = await read(name);
    const hash = await sha256(new Uint8Array(await blob.arrayBuffer()));
    files.push({ sha256: hash, name, blob });
    return hash;
  };
  const shots: Shot[] = [];
  const posters: { shot: string; blob: Blob }[] = [];
  for (const [name, s] of Object.entries(index.shots).sort((a, b) => a[1].title.localeCompare(b[1].title))) {
    const { clip, live, width, height, plate: plateName = `${name}.jpg` } = s;
    const mapFile =
      s.map ??
      (live ? { name: plateName, title: 'Depth in alpha', width, height } : { name: `${name}.depth.png`, title: 'Exact depth', width, height });
    const time = clip && { clip };
    const sha256 = await keep(plateName);
    const arrives = live && { live, opaque: true };
    const plate = { sha256, name: plateName, width, height, bits: 8, hfovFromFile: s.hfovDegrees, ...time, ...arrives };
    const map = { sha256: live ? sha256 : await keep(mapFile.name), name: mapFile.name, width: mapFile.width, height: mapFile.height, ...time };
    const shot = newShot(plate);
    const hand = made[name] ?? { exact: 'below', layers: [] };
    const exact = { ...newLayer('imported', map), name: mapFile.title, ...(live && { content: importedContentSchema.parse({ channel: 'alpha' }) }) };
    const blur = shot.settings.effects[0]!;
    const moves = moving[name];
    const focused: Drives = moves?.focus ? { focus: { kind: 'keys' as const, keys: moves.focus } } : {};
    shots.push({
      ...shot,
      name: s.title,
      settings: {
        ...shot.settings,
        layers: [...(live ? [] : shot.settings.layers), ...(hand.exact === 'below' ? [exact, ...hand.layers] : [...hand.layers, exact])],
        calibration: calibrationSchema.parse({ near: s.near, far: storedFar(s.far), spacing: s.spacing, bend: s.bend, scaled: true }),
        effects: [
          ...(moves?.effects ?? []),
          { ...blur, drives: { ...focused, ...moves?.drives }, values: { ...blur.values, focus: s.focus[0]!, aperture: s.aperture ?? 1.4 } },
        ],
        camera: { ...shot.settings.camera, moves: moves?.moves ?? [] },
        time: { ...shot.settings.time, ...(clip && { length: clip.frames, fps: clip.fps }) },
      },
    });
    if (finished) posters.push({ shot: shot.id, blob: await read(posterOf(name)) });
  }
  return { shots, files, posters };
}

/** The demo where nothing else is in this browser: no project of one's own, and no shot of one's own in it. */
export function onlyDemo(projects: readonly (Project | null)[]): Project | null {
  const [only, ...others] = projects;
  return only && others.length === 0 && only.shots.length > 0 && only.shots.every((s) => DEMO_PLATES.test(s.plate.name)) ? only : null;
}

/** A demo project that is there and holds shots. */
async function presentDemo(db: Database): Promise<Project | null> {
  for (const row of await db.projects.toArray()) {
    if (row.deletedAt !== null || (row.id !== DEMO_PROJECT && row.name !== DEMO_NAME)) continue;
    try {
      const project = parseProject(row.document, row.name);
      if (project.shots.length > 0) return project;
    } catch {
      // one that cannot be read is left alone
    }
  }
  return null;
}

/**
 * The demo project, brought in where there is none. All of it is written in one transaction: a visit that ends in the middle leaves nothing,
 * and of two tabs only one writes. `first`: only where this browser has never had it; null where it has.
 */
export async function provideDemo(db: Database, first: boolean): Promise<Project | null> {
  const seen = async (): Promise<boolean> => (await db.marks.get(SEEDED)) !== undefined || localStorage.getItem(SEEDED_BEFORE) !== null;
  if (first && (await seen())) return null;
  const there = await presentDemo(db);
  if (there) return there;
  const { shots, files, posters } = await assembleDemo(fromServer);
  try {
    return await db.transaction('rw', [db.projects, db.media, db.marks, db.thumbs], async () => {
      const other = await presentDemo(db);
      if (other) return other;
      if (first && (await seen())) return null;
      for (const file of files) if (!(await db.media.get(file.sha256))) await db.media.put(file);
      await db.thumbs.bulkPut([...posters]);
      const id = (await db.projects.get(DEMO_PROJECT)) ? newId() : DEMO_PROJECT;
      const project: Project = { version: DOCUMENT_VERSION, id, name: DEMO_NAME, shots };
      await db.projects.add({ id, name: project.name, document: project, revision: 1, updatedAt: Date.now(), deletedAt: null });
      await db.marks.put({ name: SEEDED });
      return project;
    });
  } catch (error) {
    throw asStorageError(error);
  }
}
