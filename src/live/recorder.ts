import { TIME_LIMIT } from '../core/limits';
import { applyDelta, deltaOf } from '../formats/live/delta';
import { quickPng } from '../formats/png/quickPng';
import { storedZip } from '../formats/bytes/zip';
import type { RecordedFrame, RecordingRow, RecordingStore } from '../media/recordingStore';
import type { Arrival } from './arrival';

/** A piece holds so many frames at the most, and is written when it is so old, ms. */
const PIECE_FRAMES = 60;
const PIECE_MS = 1000;
/** What is missing for longer, s, is no loss: the source began anew, or stood. */
const LONGEST_GAP = 10;

/** A recording as a clip: pictures in a zip, and of each channel its value at every frame. */
export interface RecordedClip {
  readonly blob: Blob;
  readonly width: number;
  readonly height: number;
  readonly frames: number;
  readonly fps: number;
  readonly channels: Readonly<Record<string, number[]>>;
  /** pictures that never arrived: those before them stand in their place */
  readonly stoodFor: number;
  /** pictures lost at the end because what was kept of them is damaged */
  readonly damaged: number;
}

/** Writes live pictures as they arrive, piece by piece. */
export class Recorder {
  private index = 0;
  private frames: RecordedFrame[] = [];
  private parts: Uint8Array<ArrayBuffer>[] = [];
  private length = 0;
  private begun = 0;
  private before: Uint8Array | null = null;
  private writing: Promise<void> = Promise.resolve();

  private constructor(
    private readonly store: RecordingStore,
    private readonly row: RecordingRow,
  ) {}

  static async begin(store: RecordingStore, row: RecordingRow): Promise<Recorder> {
    await store.begin(row);
    return new Recorder(store, row);
  }

  /** One picture more; its memory may be written again once this is over. False for one of another size, which is left out. Throws where the disk is full. */
  async add({ number, raster: { width, height, data }, channels }: Arrival): Promise<boolean> {
    if (width !== this.row.width || height !== this.row.height) return false;
    const frame = data as Uint8Array;
    if (this.frames.length === 0) this.begun = performance.now();
    const delta = deltaOf(this.before, frame);
    this.before ??= new Uint8Array(frame.length);
    this.before.set(frame);
    this.frames.push({ number, from: this.length, to: this.length + delta.length, channels });
    this.parts.push(delta);
    this.length += delta.length;
    if (this.frames.length >= PIECE_FRAMES || performance.now() - this.begun >= PIECE_MS) await this.flush();
    return true;
  }

  /** Writes what has not been written. Throws where the disk is full. */
  async flush(): Promise<void> {
    const { frames, parts, length } = this;
    if (frames.length > 0) {
      const bytes = new Uint8Array(length);
      for (const [k, part] of parts.entries()) bytes.set(part, frames[k]!.from);
      this.frames = [];
      this.parts = [];
      this.length = 0;
      this.before = null;
      const piece = { recording: this.row.id, index: this.index++, frames, bytes: bytes.buffer };
      this.writing = this.writing.then(() => this.store.keep(piece));
    }
    await this.writing;
  }
}

/**
 * A recording as a clip. Each picture stands where its number says; one that never arrived is stood for by the one before it, up to ten seconds.
 * `progress` hears the share done and answers whether to go on; null where it was stopped, or nothing was recorded.
 */
export async function recordedClip(store: RecordingStore, id: string, progress: (share: number) => boolean): Promise<RecordedClip | null> {
  const row = await store.of(id);
  if (!row) return null;
  const { width, height, fps } = row;
  const pieces = await store.pieces(id);
  const files: { name: string; blob: Blob }[] = [];
  const heard: Readonly<Record<string, number>>[] = [];
  let [first, stoodFor, damaged] = [null as number | null, 0, 0];
  const raster = new Uint8Array(4 * width * height);
  const put = (blob: Blob, channels: Readonly<Record<string, number>>): void => {
    files.push({ name: `frame_${String(files.length).padStart(5, '0')}.png`, blob });
    heard.push(channels);
  };
  for (let index = 0; index < pieces && damaged === 0; index++) {
    const piece = await store.piece(id, index);
    if (!piece) break;
    // the first picture of a piece is whole
    raster.fill(0);
    for (const [k, { number, from, to, channels }] of piece.frames.entries()) {
      if (!progress((index + k / piece.frames.length) / pieces)) return null;
      try {
        applyDelta(raster, new Uint8Array(piece.bytes, from, to - from));
      } catch {
        damaged = piece.frames.length - k;
        break;
      }
      first ??= number;
      const ahead = number - first - files.length;
      if (ahead < 0 || ahead > LONGEST_GAP * fps) first = number - files.length;
      while (files.length < number - first && files.length < TIME_LIMIT) {
        put(files.at(-1)!.blob, heard.at(-1)!);
        stoodFor++;
      }
      if (files.length >= TIME_LIMIT) break;
      put(await quickPng({ width, height, data: raster }), channels);
    }
  }
  if (files.length === 0) return null;
  return { blob: await storedZip(files), width, height, frames: files.length, fps, channels: columns(heard), stoodFor, damaged };
}

/** Of each channel its value at every frame: one that was not heard yet has the first that was. */
function columns(heard: readonly Readonly<Record<string, number>>[]): Record<string, number[]> {
  const out: Record<string, number[]> = {};
  for (const name of new Set(heard.flatMap((h) => Object.keys(h)))) {
    let last = heard.find((h) => name in h)![name]!;
    out[name] = heard.map((h) => (last = h[name] ?? last));
  }
  return out;
}
