import type * as z from 'zod';
import { OmbrageError } from '../error';
import { copyOf } from '../values/copy';

type Path = readonly PropertyKey[];

/** So many wrong values are mended; a document with more is none. */
const MOST = 500;
/** So much of a wrong value is told. */
const TOLD = 40;

const isObject = (value: unknown): value is Record<PropertyKey, unknown> => typeof value === 'object' && value !== null;

const at = (root: unknown, path: Path): unknown => path.reduce<unknown>((value, key) => (isObject(value) ? value[key] : undefined), root);

const told = (value: unknown): string => {
  const text = JSON.stringify(value) ?? 'nothing';
  return text.length > TOLD ? `${text.slice(0, TOLD)}…` : text;
};

interface How {
  /** what is wrong and cannot be left out, such as a shot: throws where it is met */
  readonly whole: (path: Path) => boolean;
  /** a value for something that is missing and has no default of its own; undefined where there is none */
  readonly fill?: (path: Path, document: unknown) => unknown;
}

/**
 * Reads a document by a schema and mends what is wrong in it: a wrong value takes its default, an entry of a list that cannot be read
 * is left out, and each is told in `remarks`. Throws `bad-document` where nothing of this helps; the given value is not written.
 */
export function mended<T>(schema: z.ZodType<T>, given: unknown, remarks: string[], how: How): T {
  const sound = schema.safeParse(given);
  if (sound.success) return sound.data;
  const document = copyOf(given);
  for (let round = 0; round < MOST; round++) {
    const parsed = schema.safeParse(document);
    if (parsed.success) return parsed.data;
    const issue = parsed.error.issues[0]!;
    mendOne(document, issue.path, issue.message, remarks, how);
  }
  throw new OmbrageError('bad-document', `More than ${MOST} values in it cannot be read.`, 'Try an earlier copy of the file.');
}

function mendOne(document: unknown, path: Path, why: string, remarks: string[], how: How): void {
  const bad = (): OmbrageError =>
    new OmbrageError('bad-document', `${path.join('.') || 'document'}: ${why}.`, 'It was left as it is. Try an earlier copy of the file.');
  const value = at(document, path);
  const parent = at(document, path.slice(0, -1));
  const key = path[path.length - 1];
  if (key === undefined || !isObject(parent)) throw bad();
  const filling = how.fill?.(path, document);
  if (filling !== undefined && told(filling) !== told(value)) {
    parent[key] = filling;
    remarks.push(`${path.join('.')} was ${told(value)}: its default is used.`);
    return;
  }
  if (!Array.isArray(parent) && value !== undefined) {
    if (how.whole(path)) throw bad();
    delete parent[key];
    remarks.push(`${path.join('.')} was ${told(value)}: its default is used.`);
    return;
  }
  // the entry of the nearest list is left out
  for (let end = path.length; end > 0; end--) {
    const list = at(document, path.slice(0, end - 1));
    if (!Array.isArray(list)) continue;
    const entry = path.slice(0, end);
    if (how.whole(entry)) throw bad();
    const index = Number(entry[entry.length - 1]);
    list.splice(index, 1);
    remarks.push(`${entry.join('.')} could not be read (${why}) and was left out.`);
    return;
  }
  throw bad();
}
