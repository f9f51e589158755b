import type { Kept, StageCache } from '../../core/shot/stage';

/** Keeps the values used last, up to a number of bytes. A value larger than the whole is not kept. */
export class ByteCache implements StageCache {
  private readonly entries = new Map<string, Kept>();
  private used = 0;

  constructor(private limit: number) {}

  /** Bounded otherwise from now on. */
  bound(limit: number): void {
    this.limit = limit;
    this.shrink();
  }

  clear(): void {
    this.entries.clear();
    this.used = 0;
  }

  get bytes(): number {
    return this.used;
  }

  get<T extends Kept>(key: string): T | undefined {
    const found = this.entries.get(key) as T | undefined;
    if (found) {
      // a Map keeps its order of insertion: the last is the latest used
      this.entries.delete(key);
      this.entries.set(key, found);
    }
    return found;
  }

  set(key: string, value: Kept): void {
    this.delete(key);
    const size = value.data.byteLength;
    if (size > this.limit) return;
    this.entries.set(key, value);
    this.used += size;
    this.shrink();
  }

  private shrink(): void {
    for (const [oldest, old] of this.entries) {
      if (this.used <= this.limit) break;
      this.entries.delete(oldest);
      this.used -= old.data.byteLength;
    }
  }

  delete(key: string): void {
    const found = this.entries.get(key);
    if (!found) return;
    this.entries.delete(key);
    this.used -= found.data.byteLength;
  }
}
