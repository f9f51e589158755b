import { Bounded } from '../../core/bounded';
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

type Address = `${HeldKind}:${string}`;
const addressOf = (kind: HeldKind, name: string): Address => `${kind}:${name}`;

/**
 * What the workers hold, as the page knows it: so much, the latest used last. What the open shot needs is never let go; of the rest the
 * oldest goes when there is too much, in every worker at once, and is asked for anew when it is needed again.
 */
export class Holdings {
  private readonly held: Bounded<Held, Address>;
  /** what each of those who work with something needs of it */
  private readonly wanted = new Map<string, ReadonlySet<Address>>();
  /** files take no memory: they stay */
  private readonly files = new Set<Address>();

  constructor(
    /** lets go of something in every worker */
    letGo: (kind: HeldKind, name: string) => void,
    private readonly spare = SPARE_BYTES,
  ) {
    this.held = new Bounded<Held, Address>({
      limit: Infinity,
      cost: ({ value }) => bytesOf(value),
      onGone: ({ kind, name }, _, replaced) => {
        if (!replaced) letGo(kind, name);
      },
    });
  }

  has(kind: HeldKind, name: string): boolean {
    return this.held.has(addressOf(kind, name));
  }

  put<K extends HeldKind>(kind: K, name: string, value: HeldKinds[K]): void {
    const address = addressOf(kind, name);
    if (bytesOf(value) === 0) this.files.add(address);
    this.held.bound(Infinity);
    this.held.set(address, { kind, name, value });
    // what just came is on its way to being needed
    this.tidy(address);
  }

  /** Lets go of something that is not needed again. */
  drop(kind: HeldKind, name: string): void {
    this.held.delete(addressOf(kind, name));
  }

  /** Says what the open shot works with, or another that is shown as well: `who` needs nothing else from now on. */
  need(wanted: readonly (readonly [HeldKind, string])[], who = 'open'): void {
    const needed = new Set(wanted.map(([kind, name]) => addressOf(kind, name)));
    if (needed.size > 0) this.wanted.set(who, needed);
    else this.wanted.delete(who);
    for (const address of needed) this.held.get(address);
    this.tidy();
  }

  /** Everything, the latest used last, to give it to a worker that begins. */
  all(): readonly Held[] {
    return [...this.held.values()].reverse();
  }

  get bytes(): number {
    return this.all().reduce((sum, { value }) => sum + bytesOf(value), 0);
  }

  private tidy(fresh?: Address): void {
    const needed = new Set([...this.wanted.values()].flatMap((addresses) => [...addresses]));
    const stays = new Set([...needed, ...this.files, ...(fresh ? [fresh] : [])]);
    // the bound is for what is spare
    const firm = this.all().reduce((sum, { kind, name, value }) => sum + (needed.has(addressOf(kind, name)) ? bytesOf(value) : 0), 0);
    this.held.keep(stays, firm + this.files.size + this.spare);
  }
}
