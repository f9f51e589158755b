import type * as z from 'zod';
import { OmbrageError } from '../error';

/** Documents are not nested deeper than this. */
const DEEPEST = 100;

/** Refuses what is nested so deeply that nothing made it by hand or by Ombrage. `name` is used in messages. Throws OmbrageError `bad-document`. */
export function checkDepth(json: unknown, name: string): void {
  let level: unknown[] = [json];
  for (let depth = 0; level.length > 0; depth++) {
    if (depth > DEEPEST)
      throw new OmbrageError(
        'bad-document',
        `${name} is nested more than ${DEEPEST} levels deep.`,
        'It was left as it is. Try an earlier copy of the file.',
      );
    const next: unknown[] = [];
    for (const value of level)
      if (typeof value === 'object' && value !== null)
        for (const inner of Object.values(value)) if (typeof inner === 'object' && inner !== null) next.push(inner);
    level = next;
  }
}

type Issue = Pick<z.core.$ZodIssue, 'code'> & { readonly input?: unknown };

/** What is wrong with a value, in words: those of schemas are not for people. `missing`: there is none. */
export function inWords({ code }: Issue, missing: boolean): string {
  if (missing) return 'it is missing';
  switch (code) {
    case 'invalid_type':
    case 'invalid_union':
    case 'custom':
      return 'it is of another kind than it should be';
    case 'too_big':
    case 'too_small':
    case 'not_multiple_of':
      return 'it is out of range';
    case 'invalid_value':
    case 'invalid_format':
    case 'invalid_key':
      return 'it is none of those there are';
    default:
      return 'it cannot be read';
  }
}
