import { LRUCache } from 'lru-cache';

/** How much is kept of something. */
export interface Bounds<K, T> {
  /** what all values together may take */
  readonly limit: number;
  /** what a value takes of it; 1 where not given */
  readonly cost?: (value: T) => number;
  /** so many are kept whatever they take */
  readonly least?: number;
  /** told of every value that is let go; `replaced`: another one takes its place */
  readonly onGone?: (value: T, key: K, replaced: boolean) => void;
}

interface Entry<T> {
  readonly value: T;
  readonly cost: number;
}

/**
 * Values that were used last, up to a bound. What is pinned stays whatever it takes: what the work in hand has used, since it would be asked for
 * again and again, and what somebody says that is needed. So it grows for work that needs more than the bound, and shrinks when that is over.
 */
export class Bounded<T, K extends string | number = string> {
  private readonly kept: LRUCache<K, Entry<T>>;
  private readonly used = new Set<K>();
  private stays: ReadonlySet<K> = new Set();
  private working = 0;
  private limit: number;
  private readonly least: number;
  private readonly cost: (value: T) => number;

  constructor({ limit, cost = () => 1, least = 0, onGone }: Bounds<K, T>) {
    this.limit = limit;
    this.least = least;
    this.cost = (value) => Math.max(1, Math.ceil(cost(value)));
    this.kept = new LRUCache<K, Entry<T>>({
      // the bound is ours, since the library knows of nothing that is pinned
      maxSize: Number.MAX_SAFE_INTEGER,
      sizeCalculation: (entry) => entry.cost,
      ...(onGone && { dispose: ({ value }: Entry<T>, key: K, why: LRUCache.DisposeReason) => onGone(value, key, why === 'set') }),
    });
  }

  /** Bounded otherwise from now on. */
  bound(limit: number): void {
    this.limit = limit;
    this.shrink();
  }

  /** Work begins; answers what ends it. Of several at a time the last one to end lets go. */
  begin(): () => void {
    this.working++;
    return () => {
      if (--this.working > 0) return;
      this.used.clear();
      this.shrink();
    };
  }

  /** Says what stays until something else is said; `limit`: bounded otherwise from now on. */
  keep(keys: ReadonlySet<K>, limit = this.limit): void {
    this.stays = keys;
    this.bound(limit);
  }

  has(key: K): boolean {
    return this.kept.has(key);
  }

  get(key: K): T | undefined {
    const found = this.kept.get(key);
    if (found && this.working > 0) this.used.add(key);
    return found?.value;
  }

  /** A value that is larger than the whole is not kept, unless work has begun. */
  set(key: K, value: T): void {
    this.kept.set(key, { value, cost: this.cost(value) });
    if (this.working > 0) this.used.add(key);
    this.shrink();
  }

  delete(key: K): void {
    this.kept.delete(key);
  }

  /** Lets go of what is meant, pinned or not. */
  forget(is: (key: K, value: T) => boolean): void {
    for (const [key, { value }] of [...this.kept.entries()]) if (is(key, value)) this.kept.delete(key);
  }

  clear(): void {
    this.kept.clear();
  }

  /** Keys of what is there, the one used last first. */
  keys(): readonly K[] {
    return [...this.kept.keys()];
  }

  /** What is there, the one used last first; nothing counts as used by that. */
  values(): readonly T[] {
    return [...this.kept.values()].map(({ value }) => value);
  }

  get size(): number {
    return this.kept.size;
  }

  /** What all values take together. */
  get taken(): number {
    return this.kept.calculatedSize;
  }

  private shrink(): void {
    const within = (): boolean => this.kept.calculatedSize <= this.limit || this.kept.size <= this.least;
    const drop = (key: K): void => {
      if (!this.used.has(key) && !this.stays.has(key)) this.kept.delete(key);
    };
    if (within()) return;
    // one that would take the place of all others is kept for nobody
    if (this.least === 0) for (const [key, { cost }] of [...this.kept.entries()]) if (cost > this.limit) drop(key);
    for (const key of [...this.kept.rkeys()]) {
      if (within()) return;
      drop(key);
    }
  }
}
