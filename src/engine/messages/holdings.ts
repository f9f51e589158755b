import type { Plane, Raster } from '../../core/picture';

/** A file that is read piece by piece, when it is needed. */
export interface HeldFile {
  readonly blob: Blob;
  readonly name: string;
}

/** What workers are given to work with, by kind: decoded pictures and maps, by the keys of their needs, and clips, by the hash of their files. */
export interface HeldKinds {
  raster: Raster;
  map: Plane;
  clip: HeldFile;
}
export type HeldKind = keyof HeldKinds;

interface Held {
  readonly kind: HeldKind;
  readonly name: string;
  readonly value: HeldKinds[HeldKind];
}

/** Memory that something takes: a file lies on the disk. */
const bytesOf = (value: HeldKinds[HeldKind]): number => ('data' in value ? value.data.byteLength : 0);

/** Pixels that are kept for what is not open, bytes. */
export const SPARE_BYTES = 160e6;

const addressOf = (kind: HeldKind, name: string): string => `${kind}:${name}`;

/**
 * What the workers hold, as the page knows it: so much, the latest used last. What the open shot needs is never let go; of the rest the
 * oldest goes when there is too much, in every worker at once, and is asked for anew when it is needed again.
 */
export class Holdings {
  private readonly entries = new Map<string, Held>();
  private needed: ReadonlySet<string> = new Set();

  constructor(
    /** lets go of something in every worker */
    private readonly letGo: (kind: HeldKind, name: string) => void,
    private readonly spare = SPARE_BYTES,
  ) {}

  has(kind: HeldKind, name: string): boolean {
    return this.entries.has(addressOf(kind, name));
  }

  put<K extends HeldKind>(kind: K, name: string, value: HeldKinds[K]): void {
    const address = addressOf(kind, name);
    this.entries.delete(address);
    this.entries.set(address, { kind, name, value });
    this.tidy(address);
  }

  /** Says what the open shot works with. */
  need(wanted: readonly (readonly [HeldKind, string])[]): void {
    this.needed = new Set(wanted.map(([kind, name]) => addressOf(kind, name)));
    for (const address of this.needed) {
      const found = this.entries.get(address);
      if (!found) continue;
      this.entries.delete(address);
      this.entries.set(address, found);
    }
    this.tidy();
  }

  /** Everything, to give it to a worker that begins. */
  all(): readonly Held[] {
    return [...this.entries.values()];
  }

  get bytes(): number {
    let sum = 0;
    for (const { value } of this.entries.values()) sum += bytesOf(value);
    return sum;
  }

  private tidy(fresh?: string): void {
    let spare = 0;
    for (const [address, { value }] of this.entries) if (!this.needed.has(address)) spare += bytesOf(value);
    for (const [address, { kind, name, value }] of this.entries) {
      if (spare <= this.spare) return;
      // what just came is on its way to being needed
      if (this.needed.has(address) || address === fresh || bytesOf(value) === 0) continue;
      this.entries.delete(address);
      spare -= bytesOf(value);
      this.letGo(kind, name);
    }
  }
}
