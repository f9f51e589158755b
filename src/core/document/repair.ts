import type * as z from 'zod';
import { OmbrageError } from '../error';
import { copyOf } from '../values/copy';
import { inWords } from './plain';

type Path = readonly PropertyKey[];

/** So many wrong values are mended; a document with more is none. */
const MOST = 500;
/** So much of a wrong value is told. */
const TOLD = 40;
/** Lists and groups of more than so many are not told by what is in them. */
const LISTED = 20;

const isObject = (value: unknown): value is Record<PropertyKey, unknown> => typeof value === 'object' && value !== null;

const at = (root: unknown, path: Path): unknown => path.reduce<unknown>((value, key) => (isObject(value) ? value[key] : undefined), root);

const told = (value: unknown): string => {
  if (isObject(value) && Object.keys(value).length > LISTED) return Array.isArray(value) ? `a list of ${value.length}` : 'a group of values';
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
  for (let rounds = 0, mendings = 0; rounds < MOST; rounds++) {
    const parsed = schema.safeParse(document);
    if (parsed.success) return parsed.data;
    const { issues } = parsed.error;
    mendings += issues.length;
    if (mendings > MOST) throw new OmbrageError('bad-document', `More than ${MOST} values in it cannot be read.`, 'Try an earlier copy of the file.');
    mendAll(document, issues, remarks, how);
  }
  throw new OmbrageError('bad-document', `More than ${MOST} values in it cannot be read.`, 'Try an earlier copy of the file.');
}

/** Mends all that is wrong, the last of each list first, so that the places of those before it stay what they are. */
function mendAll(document: unknown, issues: readonly z.core.$ZodIssue[], remarks: string[], how: How): void {
  const said: string[] = [];
  const gone: Path[] = [];
  for (const issue of [...issues].reverse()) {
    // what was left out takes all that is wrong in it along
    if (gone.some((path) => path.every((key, k) => issue.path[k] === key))) continue;
    const own: string[] = [];
    gone.push(mendOne(document, issue.path, inWords(issue, at(document, issue.path) === undefined), own, how));
    said.unshift(...own);
  }
  remarks.push(...said);
}

/** Mends one value; answers the path of what is another now, or gone. */
function mendOne(document: unknown, path: Path, why: string, remarks: string[], how: How): Path {
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
    return path;
  }
  if (!Array.isArray(parent) && value !== undefined) {
    if (how.whole(path)) throw bad();
    delete parent[key];
    remarks.push(`${path.join('.')} was ${told(value)}: its default is used.`);
    return path;
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
    return entry;
  }
  throw bad();
}
