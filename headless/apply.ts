import type { FileRef } from '../src/core/need/fileRef';
import './kernels';
import { basename, dirname, resolve } from 'node:path';
import { newEffect } from '../src/core/document/defaults';
import { readLook } from '../src/core/document/looks';
import type { EffectItem } from '../src/core/document/schema';
import { OmbrageError } from '../src/core/error';
import { namedEffect } from '../src/core/effects/registry';
import type { Raster } from '../src/core/picture';
import { applyEffects } from '../src/core/shot/applyEffects';
import { looseSchema } from '../src/core/values/params';
import { readSetting } from '../src/core/values/readSetting';
import { sha256 } from '../src/formats/bytes/sha256';
import { readSurroundings } from '../src/formats/hdr/surroundings';
import { decodeAny } from './loaders';
import { checkOutput, decodeStill, PICTURE_ENDINGS, writePicture } from './stills';
import { readBytes } from './readBytes';
import { fieldOfView, readPair } from './verbs';

interface ApplyOptions {
  readonly picture: string;
  readonly distance: string;
  readonly hfov: string;
  readonly set: readonly string[];
  readonly settings?: string;
  readonly look?: string;
  readonly out: string;
}

type Stills = Map<string, Raster>;

function readJson(path: string): unknown {
  try {
    return JSON.parse(new TextDecoder().decode(readBytes(path)));
  } catch (error) {
    if (error instanceof OmbrageError) throw error;
    throw new OmbrageError('bad-settings', `${basename(path)} is no JSON.`, 'Give a file such as { "exposure": 1 }.');
  }
}

/** A picture file beside a file of settings. */
async function stillAt(path: string, from: string, stills: Stills): Promise<FileRef> {
  const file = resolve(dirname(from), path);
  const bytes = readBytes(file);
  const { raster } = await decodeStill(bytes, basename(file), false);
  const hash = await sha256(bytes);
  stills.set(hash, raster);
  return { sha256: hash, name: basename(file), width: raster.width, height: raster.height };
}

/**
 * Settings of one effect from a file: its settings by their names, and what is more than numbers: `picture` (a file, for backdrop), `surroundings`
 * (a file, for relight) and whatever else its content has, such as relight's `lights`. Throws OmbrageError that names the file and the setting.
 */
async function withSettings(item: EffectItem, path: string, stills: Stills): Promise<EffectItem> {
  const json = readJson(path);
  const name = basename(path);
  if (typeof json !== 'object' || json === null || Array.isArray(json))
    throw new OmbrageError('bad-settings', `${name} holds no settings.`, 'Give an object, such as { "exposure": 1 }.');
  const definition = namedEffect(item.kind);
  const out = { ...item, values: { ...item.values } };
  const content: Record<string, unknown> = {};
  for (const [key, value] of Object.entries(json as Record<string, unknown>)) {
    const param = definition.params[key];
    if (param) {
      const given = value === 'infinite' && param.type === 'number' ? Infinity : value;
      const read = looseSchema(param).safeParse(given);
      if (!read.success)
        throw new OmbrageError('bad-setting', `${name}: ${JSON.stringify(value)} is no value for ${key}.`, `See the help of "apply ${item.kind}".`);
      out.values[key] = read.data as EffectItem['values'][string];
    } else if (key === 'picture' && definition.takesStill && typeof value === 'string') out.media = await stillAt(value, path, stills);
    else if (key === 'surroundings' && typeof value === 'string') {
      const file = resolve(dirname(path), value);
      content.surroundings = { name: basename(file), harmonics: await readSurroundings(readBytes(file), basename(file), decodeAny) };
    } else content[key] = value;
  }
  if (Object.keys(content).length === 0) return out;
  const parsed = definition.content?.safeParse(content);
  const known = parsed?.success ? Object.keys(parsed.data as object) : [];
  const strange = Object.keys(content).find((key) => !definition.content || (parsed?.success && !known.includes(key)));
  if (strange !== undefined)
    throw new OmbrageError(
      'unknown-setting',
      `${name}: there is no setting "${strange}".`,
      `Settings: ${[...Object.keys(definition.params), ...known].join(', ')}.`,
    );
  if (!parsed?.success) {
    const issue = parsed?.error.issues[0];
    throw new OmbrageError('bad-setting', `${name}: ${issue?.path.join('.') ?? ''}: ${issue?.message ?? ''}.`, 'See docs/settings.md.');
  }
  return { ...out, content: content };
}

/** `apply [EFFECT] …`: one effect, or all of a look, on a picture whose distances are known. */
export async function apply(kind: string | undefined, options: ApplyOptions): Promise<string> {
  checkOutput(options.out, PICTURE_ENDINGS);
  const stills: Stills = new Map();
  const items: EffectItem[] = [];
  const remarks: string[] = [];
  if (kind !== undefined) {
    let item = newEffect(namedEffect(kind).kind);
    if (options.settings !== undefined) item = await withSettings(item, options.settings, stills);
    const { params } = namedEffect(kind);
    for (const setting of options.set) {
      const equals = setting.indexOf('=');
      if (equals < 1) throw new OmbrageError('bad-setting', `"${setting}" is no setting.`, 'Write NAME=VALUE.');
      item.values[setting.slice(0, equals)] = readSetting(params, setting.slice(0, equals), setting.slice(equals + 1));
    }
    items.push(item);
  } else if (options.look === undefined)
    throw new OmbrageError('no-effect', 'Neither an effect nor a look is given.', 'Name an effect, or give --look FILE.json.');
  if (options.look !== undefined) {
    const read = readLook(readJson(options.look), basename(options.look));
    items.push(...read.look.effects);
    remarks.push(...read.remarks);
  }
  const hfovDegrees = fieldOfView(options.hfov);
  const { picture, distance } = await readPair(options.picture, options.distance);
  const out = await applyEffects(items, { picture, distance, hfovDegrees, stills });
  await writePicture(options.out, out);
  return [`${options.out}: ${out.width}x${out.height} px`, ...remarks.map((r) => `note: ${r}`)].join('\n');
}
