import { OmbrageError } from '../error';

interface Kind {
  readonly kind: string;
}

/** A closed list of definitions. */
export interface Registry<D extends Kind> {
  readonly all: readonly D[];
  /** Throws OmbrageError where there is none. */
  named(kind: string): D;
  /** What stands in for a kind that is not known where there is none: it does nothing and says so. */
  of(kind: string): D;
  knows(kind: string): boolean;
}

/** Makes a list of definitions of one sort, such as "effect"; `unknown` makes the stand-in for a kind that another version may know. */
export function registryOf<D extends Kind>(sort: string, all: readonly D[], unknown: (kind: string) => D): Registry<D> {
  const byKind = new Map(all.map((d) => [d.kind, d]));
  const standIns = new Map<string, D>();
  return {
    all,
    knows: (kind) => byKind.has(kind),
    named(kind) {
      const found = byKind.get(kind);
      if (found) return found;
      const code = `unknown-${sort.split(' ').pop()!}`;
      throw new OmbrageError(code, `There is no ${sort} "${kind}".`, `Known: ${all.map((d) => d.kind).join(', ')}.`);
    },
    of(kind) {
      const found = byKind.get(kind) ?? standIns.get(kind);
      if (found) return found;
      const made = unknown(kind);
      standIns.set(kind, made);
      return made;
    },
  };
}

/** How something of an unknown kind is called in lists. */
export const unknownLabel = (kind: string): string => `Unknown: ${kind.slice(0, 60)}`;
