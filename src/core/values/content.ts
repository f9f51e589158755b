import type * as z from 'zod';
import { shareParts } from './share';

/** A kind of thing that may keep more than plain values. */
interface Keeping<C> {
  readonly kind: string;
  /** parsing an empty object gives an empty one */
  readonly content?: z.ZodType<C> | undefined;
}

const read = new WeakMap<object, unknown>();
/** What each kind was last read as: parts that did not change keep their identity, and with it their keys. */
const latest = new Map<string, unknown>();

/** What a thing keeps besides its values, read by the schema of its kind; what is missing becomes an empty one. Frozen content is read once. */
export function contentOf<C>(definition: Keeping<C>, content: unknown): C {
  if (!definition.content) return undefined as C;
  const frozen = typeof content === 'object' && !!content && Object.isFrozen(content);
  const kept = frozen ? read.get(content) : undefined;
  if (kept !== undefined) return kept as C;
  const parsed = shareParts(latest.get(definition.kind), definition.content.parse(content ?? {}));
  latest.set(definition.kind, parsed);
  if (frozen) read.set(content, parsed);
  return parsed;
}
