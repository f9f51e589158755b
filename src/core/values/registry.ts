import { OmbrageError } from '../error';

interface Kind {
  readonly kind: string;
}

/** A list of definitions. */
export interface Registry<D extends Kind> {
  readonly all: readonly D[];
  /** Throws OmbrageError where there is none. */
  named(kind: string): D;
  /** What stands in for a kind that is not known where there is none: it does nothing and says so. */
  of(kind: string): D;
  knows(kind: string): boolean;
  /** One more, at the end of `all`; what is given back takes it away again. Throws where its kind is there already. */
  add(definition: D): () => void;
}

/**
 * Makes a list of definitions of one sort, such as "effect"; `unknown` makes the stand-in for a kind that another version may know. Without it such a
 * kind is as wrong as one that was mistyped.
 */
export function registryOf<D extends Kind>(sort: string, first: readonly D[], unknown?: (kind: string) => D): Registry<D> {
  const all = [...first];
  const byKind = new Map(all.map((d) => [d.kind, d]));
  const standIns = new Map<string, D>();
  const named = (kind: string): D => {
    const found = byKind.get(kind);
    if (found) return found;
    const code = `unknown-${sort.split(' ').pop()!}`;
    throw new OmbrageError(code, `There is no ${sort} "${kind}".`, `Known: ${all.map((d) => d.kind).join(', ')}.`);
  };
  return {
    all,
    named,
    knows: (kind) => byKind.has(kind),
    of(kind) {
      const found = byKind.get(kind) ?? standIns.get(kind);
      if (found || !unknown) return found ?? named(kind);
      const made = unknown(kind);
      standIns.set(kind, made);
      return made;
    },
    add(definition) {
      const { kind } = definition;
      if (byKind.has(kind)) throw new Error(`the ${sort} "${kind}" is there already`);
      all.push(definition);
      byKind.set(kind, definition);
      return () => {
        all.splice(all.indexOf(definition), 1);
        byKind.delete(kind);
      };
    },
  };
}

/** How something of an unknown kind is called in lists. */
export const unknownLabel = (kind: string): string => `Unknown: ${kind.slice(0, 60)}`;
