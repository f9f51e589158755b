import * as Comlink from 'comlink';
import { OmbrageError } from '../core/error';
import type { Quality } from '../core/estimate/key';
import type { Plane, Raster, Size } from '../core/raster/picture';
import type { ShotRequest } from '../core/shot/stage';
import { findFace, type FoundFace } from './face';
import { Newest } from './newest';
import type { MapReading } from '../formats/mapFacts';
import type { ChapterThumbs, DecodedStill, MapKeys, OutputSpec, PreviewPart, PreviewSpec, ReadMap, WorkerApi } from './protocol';

/** Long side, px, at which a face is looked for. */
const FACE_LOOK = 800;

type Remote = Comlink.Remote<WorkerApi>;

/** Work that runs in the background: what is being done, how far it is, and a way to stop it. */
export interface Job<T> {
  readonly done: Promise<T | null>;
  cancel(): void;
}

/** Workers: one for the picture being looked at, at least one for what takes its time, one for errands that someone waits for. */
const poolSize = (): number => Math.min(8, Math.max(3, (globalThis.navigator?.hardwareConcurrency ?? 2) - 1));

/** Turns an error that crossed from a worker into ours again. */
function revive(error: unknown): Error {
  if (!(error instanceof Error)) return new Error(String(error));
  const bar = error.name.indexOf('|');
  return bar > 0 ? new OmbrageError(error.name.slice(0, bar), error.message, error.name.slice(bar + 1)) : error;
}

/** The computing side of the page. The main thread asks; workers answer; the newest preview wins. */
export class Engine {
  private readonly viewer: Remote;
  private readonly others: Remote[];
  /** of each of the others: how many things it has been given and not done */
  private readonly busy: Int32Array;
  private readonly newest = new Newest();

  constructor() {
    const start = (): Remote => Comlink.wrap<WorkerApi>(new Worker(new URL('./worker.ts', import.meta.url), { type: 'module' }));
    this.viewer = start();
    this.others = Array.from({ length: poolSize() - 1 }, start);
    this.busy = new Int32Array(
      typeof SharedArrayBuffer === 'undefined' ? new ArrayBuffer(this.others.length * 4) : new SharedArrayBuffer(this.others.length * 4),
    );
    const ports = this.others.map((other) => {
      const { port1, port2 } = new MessageChannel();
      void other.lend(Comlink.transfer(port2, [port2]));
      return port1;
    });
    void this.viewer.meetHelpers(Comlink.transfer(ports, ports), this.busy);
  }

  /**
   * Runs one thing on a background worker, which does not lend itself to blurs meanwhile. The last one takes nothing long, so that a file
   * is read at once while an estimate runs.
   */
  private async background<T>(work: (worker: Remote) => Promise<T>, long = false): Promise<T> {
    const waiting = this.others.slice(0, long ? -1 : undefined).map((_, i) => Atomics.load(this.busy, i));
    const index = waiting.lastIndexOf(Math.min(...waiting));
    Atomics.add(this.busy, index, 1);
    try {
      return await work(this.others[index]!);
    } catch (error) {
      throw revive(error);
    } finally {
      Atomics.sub(this.busy, index, 1);
    }
  }

  private job<T>(work: (worker: Remote, id: number, words: Int32Array) => Promise<T>): Job<T> {
    const stop = new Newest();
    const id = stop.next();
    return { done: this.background((worker) => work(worker, id, stop.words), true), cancel: () => void stop.next() };
  }

  decode(file: Blob, name: string): Promise<DecodedStill> {
    return this.background((worker) => worker.decode(file, name));
  }

  readMap(file: Blob, name: string, channel: string | null, plate: Size, estimate: string | null): Promise<ReadMap> {
    return this.background((worker) => worker.readMap(file, name, channel, plate, estimate));
  }

  decodeMap(file: Blob, name: string, channel: string | null, reading: MapReading): Promise<Plane> {
    return this.background((worker) => worker.decodeMap(file, name, channel, reading));
  }

  async holdStill(hash: string, raster: Raster): Promise<void> {
    await Promise.all([this.viewer, ...this.others].map((w) => w.holdStill(hash, raster)));
  }

  horizon(hash: string): Promise<number> {
    return this.background((worker) => worker.horizon(hash));
  }

  /** Gives every worker the pixels of a plate (shared, not copied). */
  async holdPlate(hash: string, raster: Raster): Promise<void> {
    await Promise.all([this.viewer, ...this.others].map((w) => w.holdPlate(hash, raster)));
  }

  async holdMap(key: string, plane: Plane): Promise<void> {
    await Promise.all([this.viewer, ...this.others].map((w) => w.holdMap(key, plane)));
  }

  /** Renders what is looked at; any earlier request stops. Resolves false where a newer one came in between. */
  async preview(spec: PreviewSpec, onPart: (part: PreviewPart) => void, onThumbs: (thumbs: ChapterThumbs) => void): Promise<boolean> {
    const id = this.newest.next();
    const current = <T extends object>(handler: (value: T) => void) =>
      Comlink.proxy((value: T) => {
        if (this.newest.is(id)) handler(value);
        else closePictures(value);
      });
    try {
      return await this.viewer.preview(spec, id, this.newest.words, current(onPart), current(onThumbs));
    } catch (error) {
      throw revive(error);
    }
  }

  /** Does ahead what the preview at these sizes will need, until one is asked for. */
  async prepare(shot: ShotRequest, sizes: readonly Size[], stills: string): Promise<void> {
    await this.viewer.prepare(shot, sizes, stills, this.newest.next(), this.newest.words);
  }

  highlight(from: number, to: number): Promise<ImageBitmap | null> {
    return this.viewer.highlight(from, to);
  }

  /** Readies a worker for an estimate that will be asked for soon, while the picture is being decoded. */
  async readyEstimate(): Promise<void> {
    await this.background((worker) => worker.readyEstimate(), true);
  }

  estimate(hash: string, quality: Quality, report: (share: number) => void): Job<Plane> {
    return this.job((worker, id, words) => worker.estimate(hash, quality, id, words, Comlink.proxy(report)) as Promise<Plane>);
  }

  output(shot: ShotRequest, maps: MapKeys, stills: string, spec: OutputSpec, report: (share: number) => void): Job<Blob> {
    return this.job((worker, id, words) => worker.output(shot, maps, stills, spec, id, words, Comlink.proxy(report)) as Promise<Blob>);
  }

  thumbnail(shot: ShotRequest, maps: MapKeys, stills: string): Promise<Blob> {
    return this.background((worker) => worker.thumbnail(shot, maps, stills));
  }

  /** Looks for the largest face of a held plate. */
  findFace(hash: string, report: (share: number) => void): Job<FoundFace> {
    return findFace(
      this.background((worker) => worker.smallPlate(hash, FACE_LOOK)),
      report,
    );
  }

  plateThumbnail(hash: string, longSide: number): Promise<Blob> {
    return this.background((worker) => worker.plateThumbnail(hash, longSide));
  }
}

/** Lets go of the pictures among what came too late: they hold memory until they are closed. */
function closePictures(message: object): void {
  for (const part of Object.values(message) as unknown[]) if (part && typeof part === 'object' && 'close' in part) (part as ImageBitmap).close();
}

let shared: Engine | null = null;

/** The page's one engine. */
export const engine = (): Engine => (shared ??= new Engine());
