import type * as z from 'zod';
import { knowsMove, moveOf } from '../camera/registry';
import { knowsCleanup, cleanupOf } from '../depth/cleanup/registry';
import { knowsLayer, layerOf } from '../depth/layers/registry';
import { effectOf, knowsEffect } from '../effects/registry';
import { OmbrageError } from '../error';
import { LIMITS } from '../limits';
import { checkDepth } from './plain';
import { readValues } from './readValues';
import { mended } from './repair';
import { DOCUMENT_VERSION, projectSchema, USUAL_HFOV, type Project, type Settings } from './schema';

type Document = Record<string, unknown>;

const isObject = (value: unknown): value is Document => typeof value === 'object' && value !== null && !Array.isArray(value);
const listOf = (value: unknown): Document[] => (Array.isArray(value) ? value.filter(isObject) : []);

/** Entry v turns a document of version v into version v + 1. */
export const migrations: Record<number, (document: Document) => Document> = {
  // Version 0 kept a shot's settings beside its plate instead of in one place.
  0: (document) => ({
    ...document,
    version: 1,
    shots: listOf(document.shots).map(({ id, name, plate, takes, ...settings }) => ({ id, name, plate, takes, settings })),
  }),
  // Version 1 had no clean-up, and layers of maps alone; what it lacks has defaults.
  1: (document) => ({ ...document, version: 2 }),
  // Version 2 kept grain among the settings of lens blur, and had no time and no camera; those have defaults.
  2: (document) => ({
    ...document,
    version: 3,
    ...(Array.isArray(document.shots) && {
      shots: document.shots.map((s: unknown) => (isObject(s) ? withSettings(grainAsEffect)(s) : s)),
    }),
  }),
};

/** A shot with what is done to the settings of its own and of its takes. */
const withSettings =
  (change: (settings: Document) => Document) =>
  (shot: Document): Document => ({
    ...shot,
    ...(isObject(shot.settings) && { settings: change(shot.settings) }),
    ...(Array.isArray(shot.takes) && {
      takes: shot.takes.map((t: unknown) => (isObject(t) && isObject(t.settings) ? { ...t, settings: change(t.settings) } : t)),
    }),
  });

/** Kinds of effects that had grain in them, up to version 2. */
const WITH_GRAIN: readonly unknown[] = ['lens-blur'];
/** What was set of grain there, and what it is called in the effect. */
const GRAIN: Readonly<Record<string, string>> = { grain: 'amount', grainSize: 'size', monochrome: 'monochrome' };

/** Takes the grain out of each lens blur and adds it as an effect of its own, on where the blur is. */
function grainAsEffect(settings: Document): Document {
  if (!Array.isArray(settings.effects)) return settings;
  const effects = (settings.effects as unknown[]).flatMap((effect): unknown[] => {
    if (!isObject(effect) || !WITH_GRAIN.includes(effect.kind) || !isObject(effect.values)) return [effect];
    const [values, moved] = parted(effect.values);
    const [drives, movedDrives] = parted(isObject(effect.drives) ? effect.drives : {});
    const blur = { ...effect, values, drives };
    const grainy = (typeof moved.amount === 'number' && moved.amount > 0) || movedDrives.amount !== undefined;
    if (!grainy) return [blur];
    // what had not been set was so much
    const grain = { amount: 0, size: 1.5, monochrome: true, ...moved };
    return [blur, { id: `${String(effect.id)}-grain`.slice(0, 64), kind: 'grain', on: effect.on ?? true, values: grain, drives: movedDrives }];
  });
  return { ...settings, effects };
}

/** What stays with the blur, and what goes to the grain under its new names. */
function parted(all: Document): [stays: Document, moved: Document] {
  const [stays, moved]: [Document, Document] = [{}, {}];
  for (const [name, value] of Object.entries(all))
    if (Object.hasOwn(GRAIN, name)) moved[GRAIN[name]!] = value;
    else stays[name] = value;
  return [stays, moved];
}

/** A project as it was read, and what in it could not be. */
export interface ReadProject {
  readonly project: Project;
  /** one sentence for each value that took its default, and each entry that was left out */
  readonly remarks: readonly string[];
}

/**
 * Reads a project document of any version up to ours. Wrong values take their defaults and are told; layers, effects and clean-up of a
 * kind that is not known are kept as they are. Throws OmbrageError `newer-version`, `too-many` or `bad-document`; `name` is the file or
 * project it speaks of.
 */
export function readProject(json: unknown, name: string): ReadProject {
  if (!isObject(json)) throw new OmbrageError('bad-document', `${name} holds no project.`, 'Choose a project file that Ombrage wrote.');
  checkDepth(json, name);
  let document = json;
  let version = typeof document.version === 'number' ? document.version : NaN;
  if (version > DOCUMENT_VERSION)
    throw new OmbrageError(
      'newer-version',
      `${name} was written by a newer Ombrage (document ${version}, this one reads up to ${DOCUMENT_VERSION}).`,
      'Update Ombrage and open it again.',
    );
  while (version < DOCUMENT_VERSION) {
    const step = migrations[version];
    if (!step) break;
    document = step(document);
    version = document.version as number;
  }
  checkLimits(document, name);
  const remarks: string[] = [];
  try {
    const project = mended(projectSchema, document, remarks, { whole: isWhole, fill });
    for (const shot of project.shots) {
      readSettings(shot.settings, `${shot.name}`, remarks);
      for (const take of shot.takes) readSettings(take.settings, `${shot.name}, ${take.name}`, remarks);
    }
    return { project, remarks };
  } catch (error) {
    if (!(error instanceof OmbrageError)) throw error;
    throw new OmbrageError(error.code, `${name} cannot be read: ${error.message}`, error.hint);
  }
}

/** The project alone. Throws as readProject does. */
export const parseProject = (json: unknown, name: string): Project => readProject(json, name).project;

/** Without its plate, or what tells it from others, a shot is none: a project that holds one such is left as it is. */
const isWhole = (path: readonly PropertyKey[]): boolean =>
  path.length <= 2 || (path[0] === 'shots' && (path[2] === 'plate' || path[2] === 'id') && path[3] !== 'bits' && path[3] !== 'hfovFromFile');

/** Stands in for what has no default of its own. */
function fill(path: readonly PropertyKey[], document: unknown): unknown {
  const last = path[path.length - 1];
  if (last === 'hfovDegrees') return USUAL_HFOV;
  if (last === 'bits') return 8;
  if (last === 'name' && path.length > 1) return 'Unnamed';
  const inFraming = path.indexOf('framing');
  if (inFraming < 0 || (inFraming === path.length - 2 && last !== 'width' && last !== 'height')) return undefined;
  const shots = (document as { shots?: { plate?: { width?: number; height?: number } }[] }).shots;
  const plate = shots?.[Number(path[1])]?.plate;
  const size = { width: Math.min(12000, Math.max(16, plate?.width ?? 1600)), height: Math.min(12000, Math.max(16, plate?.height ?? 900)) };
  return last === 'width' || last === 'height' ? size[last] : size;
}

function checkLimits(document: Document, name: string): void {
  const check = (list: unknown, limit: (typeof LIMITS)[keyof typeof LIMITS]): void => {
    if (Array.isArray(list) && list.length > limit.most)
      throw new OmbrageError(
        'too-many',
        `${name} holds ${list.length} ${limit.of} in ${limit.in}.`,
        `There may be up to ${limit.most}. It was left as it is.`,
      );
  };
  check(document.shots, LIMITS.shots);
  for (const shot of listOf(document.shots)) {
    check(shot.takes, LIMITS.takes);
    for (const settings of [shot.settings, ...listOf(shot.takes).map((t) => t.settings)]) {
      if (!isObject(settings)) continue;
      for (const list of ['layers', 'effects', 'cleanup', 'stakes'] as const) check(settings[list], LIMITS[list]);
      const camera = isObject(settings.camera) ? settings.camera : {};
      check(camera.moves, LIMITS.moves);
      const items = [settings.layers, settings.effects, settings.cleanup, camera.moves].flatMap(listOf);
      for (const { drives } of [settings, ...items])
        for (const drive of Object.values(isObject(drives) ? drives : {})) if (isObject(drive)) check(drive.keys, LIMITS.keys);
      for (const layer of listOf(settings.layers)) {
        check(layer.keyed, LIMITS.keyed);
        for (const { content } of [layer, ...listOf(layer.keyed)])
          for (const list of ['strokes', 'shapes', 'flats'] as const) if (isObject(content)) check(content[list], LIMITS[list]);
      }
    }
  }
}

/** Reads what each layer, effect and step of clean-up holds by the schemas of its own kind, in place. */
function readSettings(settings: Settings, where: string, remarks: string[]): void {
  for (const layer of settings.layers) {
    if (!knowsLayer(layer.kind)) continue;
    const definition = layerOf(layer.kind);
    readValues(definition, layer, `${where}, ${layer.name}`, remarks);
    readContent(definition.content, layer, `${where}, ${layer.name}`, remarks);
    layer.keyed?.sort((a, b) => a.frame - b.frame);
    for (const key of layer.keyed ?? []) {
      readValues(definition, key, `${where}, ${layer.name}, frame ${key.frame}`, remarks);
      readContent(definition.content, key, `${where}, ${layer.name}, frame ${key.frame}`, remarks);
    }
  }
  for (const effect of settings.effects) {
    if (!knowsEffect(effect.kind)) continue;
    const definition = effectOf(effect.kind);
    readValues(definition, effect, `${where}, ${definition.label}`, remarks);
    if (effect.content !== undefined) readContent(definition.content, effect, `${where}, ${definition.label}`, remarks);
  }
  for (const step of settings.cleanup)
    if (knowsCleanup(step.kind)) readValues(cleanupOf(step.kind), step, `${where}, ${cleanupOf(step.kind).label}`, remarks);
  for (const move of settings.camera.moves)
    if (knowsMove(move.kind)) readValues(moveOf(move.kind), move, `${where}, ${moveOf(move.kind).label}`, remarks);
}

/** Reads what something keeps besides its values by the schema of its kind, in place. */
function readContent(schema: z.ZodType | undefined, holder: { content?: unknown }, where: string, remarks: string[]): void {
  if (!schema) return;
  const inside: string[] = [];
  try {
    holder.content = mended<unknown>(schema, holder.content ?? {}, inside, { whole: () => false });
  } catch {
    holder.content = schema.parse({});
    inside.push('what it held could not be read and was left out.');
  }
  remarks.push(...inside.map((text) => `${where}: ${text}`));
}
