/**
 * Values that were used last, up to a bound. What the work in hand has used is kept until that is over, however much it is: it would be asked
 * for again and again.
 */
export class Recent<T> {
  private readonly entries = new Map<string, { readonly value: T; pinned: boolean }>();
  private working = 0;

  constructor(
    /** what a value takes of the bound */
    private readonly cost: (value: T) => number,
    private limit: number,
    /** so many are kept whatever they take */
    private readonly least = 0,
  ) {}

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
      for (const entry of this.entries.values()) entry.pinned = false;
      this.shrink();
    };
  }

  has(key: string): boolean {
    return this.entries.has(key);
  }

  get(key: string): T | undefined {
    const found = this.entries.get(key);
    if (!found) return undefined;
    // a Map keeps its order of insertion: the last is the latest used
    this.entries.delete(key);
    this.entries.set(key, found);
    found.pinned = this.working > 0;
    return found.value;
  }

  set(key: string, value: T): void {
    this.entries.delete(key);
    this.entries.set(key, { value, pinned: this.working > 0 });
    this.shrink();
  }

  /** Lets go of what is meant by its key, used or not. */
  forget(is: (key: string, value: T) => boolean): void {
    for (const [key, { value }] of this.entries) if (is(key, value)) this.entries.delete(key);
  }

  clear(): void {
    this.entries.clear();
  }

  get size(): number {
    return this.entries.size;
  }

  private shrink(): void {
    let sum = 0;
    for (const { value } of this.entries.values()) sum += this.cost(value);
    for (const [oldest, { value, pinned }] of this.entries) {
      if (sum <= this.limit || this.entries.size <= this.least) return;
      if (pinned) continue;
      this.entries.delete(oldest);
      sum -= this.cost(value);
    }
  }
}
