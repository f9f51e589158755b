import Dexie, { type DexieOptions, type Table } from 'dexie';
import { written } from './storage';

/** A recording of live pictures that was begun. */
export interface RecordingRow {
  readonly id: string;
  readonly project: string;
  readonly shot: string;
  readonly name: string;
  readonly width: number;
  readonly height: number;
  /** pictures a second, as the source counts them */
  readonly fps: number;
  readonly begunAt: number;
}

/** A picture of a recording. */
export interface RecordedFrame {
  /** as its source counted it */
  readonly number: number;
  /** where what differs from the one before lies in the piece, bytes */
  readonly from: number;
  readonly to: number;
  readonly channels: Readonly<Record<string, number>>;
}

/** About a second of it; the first of its pictures is whole. */
export interface RecordingPiece {
  readonly recording: string;
  readonly index: number;
  readonly frames: readonly RecordedFrame[];
  readonly bytes: ArrayBuffer;
}

const NAME = 'ombrage-recordings';

class RecordingDatabase extends Dexie {
  recordings!: Table<RecordingRow, string>;
  pieces!: Table<RecordingPiece, [string, number]>;

  constructor(options?: DexieOptions) {
    super(NAME, options);
    this.version(1).stores({ recordings: 'id, shot', pieces: '[recording+index], recording' });
  }
}

/** Recordings in this browser: written while they go on, so that what ends in the middle is there up to its last second. */
export class RecordingStore {
  private readonly db: RecordingDatabase;

  constructor(options?: DexieOptions) {
    this.db = new RecordingDatabase(options);
  }

  /** Throws OmbrageError `storage-full`. */
  async begin(row: RecordingRow): Promise<void> {
    await written(this.db.recordings.put(row));
  }

  async keep(piece: RecordingPiece): Promise<void> {
    await written(this.db.pieces.put(piece));
  }

  async of(id: string): Promise<RecordingRow | null> {
    return (await this.db.recordings.get(id)) ?? null;
  }

  /** Recordings of a shot that were not made clips: those that were broken off. */
  left(shot: string): Promise<RecordingRow[]> {
    return this.db.recordings.where('shot').equals(shot).toArray();
  }

  /** How many pieces there are of one. */
  pieces(id: string): Promise<number> {
    return this.db.pieces.where('recording').equals(id).count();
  }

  async piece(id: string, index: number): Promise<RecordingPiece | null> {
    return (await this.db.pieces.get([id, index])) ?? null;
  }

  async forget(id: string): Promise<void> {
    await this.db.pieces.where('recording').equals(id).delete();
    await this.db.recordings.delete(id);
  }

  close(): void {
    this.db.close();
  }

  /** Forgets recordings of shots that nobody has any more. */
  async forgetUnless(used: (shot: string) => boolean): Promise<void> {
    for (const { id, shot } of await this.db.recordings.toArray()) if (!used(shot)) await this.forget(id);
  }
}

/** Forgets recordings of shots that nobody has any more. */
export async function forgetRecordingsUnless(used: (shot: string) => boolean): Promise<void> {
  if (!(await Dexie.exists(NAME))) return;
  const store = new RecordingStore();
  try {
    await store.forgetUnless(used);
  } finally {
    store.close();
  }
}
