import * as z from 'zod';
import { effectOf, knowsEffect } from '../effects/registry';
import { moveOf, knowsMove } from '../camera/registry';
import { OmbrageError } from '../error';
import { clampNumber, type Params } from '../values/params';
import { withValues } from '../values/drive';
import { newId } from './defaults';
import { checkDepth, inWords } from './plain';
import { readValues } from './readValues';
import { writeJson } from '../values/endless';
import { effectSchema, moveSchema, type EffectItem, type MoveItem, type Settings } from './schema';

/** The version of what is written; a newer one is read as far as it is known. */
export const LOOK_VERSION = 1;

/** Effects, and moves where there are any, that can be given to other shots. */
export const lookSchema = z.object({
  look: z.string().min(1).max(200),
  version: z.number().int().positive(),
  /** metres to what the shot was about that it was taken from: distances can be scaled by it */
  subject: z.number().positive().max(1e6),
  effects: z.array(effectSchema.extend({ id: z.string().default('') })).max(100),
  moves: z
    .array(moveSchema.extend({ id: z.string().default('') }))
    .max(40)
    .default([]),
});
export type Look = z.infer<typeof lookSchema>;

/** A shot's effects, and its camera's moves, as a look. Files that belong to them, and regions of the shot, stay where they are. */
export function lookOf({ effects, camera }: Pick<Settings, 'effects' | 'camera'>, name: string, subject: number): Look {
  const bare = <T extends EffectItem>({ media: _media, region: _region, ...item }: T): Omit<T, 'media' | 'region'> => item;
  return {
    look: name,
    version: LOOK_VERSION,
    subject,
    effects: effects.map(bare),
    moves: camera.moves.map(bare),
  };
}

/** A look as a file holds it. */
export const writeLook = (look: Look): string => writeJson(look, 2);

/** What a look's file says; effects that are not known here are left out and told. Throws OmbrageError `bad-look`, which names the file. */
export function readLook(json: unknown, name: string): { readonly look: Look; readonly remarks: readonly string[] } {
  checkDepth(json, name);
  const parsed = lookSchema.safeParse(json);
  if (!parsed.success) {
    const issue = parsed.error.issues[0];
    const missing = issue?.path.reduce<unknown>((value, key) => (value as Record<PropertyKey, unknown> | undefined)?.[key], json) === undefined;
    throw new OmbrageError(
      'bad-look',
      `${name} holds no look${issue ? `: ${issue.path.join('.') || 'the file'}, ${inWords(issue, missing)}` : ''}.`,
      'Choose a file that was exported from Looks.',
    );
  }
  const look = parsed.data;
  const remarks: string[] = [];
  if (look.version > LOOK_VERSION) remarks.push(`${name} was written by a newer Ombrage: what is known here is taken.`);
  const unknown = [...look.effects.filter((e) => !knowsEffect(e.kind)), ...look.moves.filter((m) => !knowsMove(m.kind))].map((e) => e.kind);
  if (unknown.length > 0) remarks.push(`Not known here and left out: ${[...new Set(unknown)].join(', ')}.`);
  const effects = look.effects.filter((e) => knowsEffect(e.kind));
  const moves = look.moves.filter((m) => knowsMove(m.kind));
  for (const e of effects) readValues(effectOf(e.kind), e, `${name}, ${effectOf(e.kind).label}`, remarks);
  for (const m of moves) readValues(moveOf(m.kind), m, `${name}, ${moveOf(m.kind).label}`, remarks);
  return { look: { ...look, effects, moves }, remarks };
}

/** A thing with its metres scaled. */
function scaled<T extends EffectItem>(item: T, params: Params, by: number): T {
  const isLength = (name: string): boolean => {
    const param = params[name];
    return param?.type === 'number' && (param.unit === 'm' || param.unit === 'cm');
  };
  const at = (name: string, v: EffectItem['values'][string]): EffectItem['values'][string] => {
    const param = params[name];
    return typeof v === 'number' && param?.type === 'number' && isLength(name) ? Number(clampNumber(param, v * by).toPrecision(4)) : v;
  };
  return {
    ...item,
    values: Object.fromEntries(Object.entries(item.values).map(([name, v]) => [name, at(name, v)])),
    drives: Object.fromEntries(Object.entries(item.drives).map(([name, d]) => [name, isLength(name) ? withValues(d, (value) => value * by) : d])),
  };
}

/** A look's things for a shot that is about something `subject` metres away: with ids of their own. `asWritten`: its distances stay as they are. */
export function fittedLook(look: Look, subject: number, asWritten = false): { readonly effects: EffectItem[]; readonly moves: MoveItem[] } {
  const by = asWritten ? 1 : subject / look.subject;
  return {
    effects: look.effects.map((e) => {
      const { params, place } = effectOf(e.kind);
      const fitted = scaled(e, params, by);
      // light falls with the square of distance
      const intensity = fitted.values.intensity;
      if (place && typeof intensity === 'number') fitted.values.intensity = Number((intensity * by * by).toPrecision(4));
      return { ...fitted, id: newId() };
    }),
    moves: look.moves.map((m) => ({ ...scaled(m, moveOf(m.kind).params, by), id: newId() })),
  };
}

/** A shot's settings in a look: its effects, and its moves where the look has some. In place. */
export function applyLook(settings: Settings, look: Look, subject: number, asWritten = false): void {
  const { effects, moves } = fittedLook(look, subject, asWritten);
  settings.effects = effects;
  if (moves.length > 0) settings.camera.moves = moves;
}
