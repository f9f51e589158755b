import type { FileRef } from '../../core/need/fileRef';
import * as Comlink from 'comlink';
import type { Path, PathFigures } from '../../core/path/judged';
import type { PlateLens } from '../../core/camera/pose';
import type { Relief } from '../../core/camera/relief';
import type { MoveItem } from '../../core/document/schema';
import type { Harmonics } from '../../core/light/harmonics';
import type { Subject } from '../../core/estimate/subject';
import type { Span } from '../../core/motion/plan';
import type { RasterNeed } from '../../core/need/need';
import type { ClipDepthSpec } from '../../core/motion/clipSpec';
import type { Flickers } from '../messages/clipJobs';
import type { Plane, Size } from '../../core/picture';
import type { ShotRequest } from '../../core/shot/stage';
import type { FoundFace } from '../../core/estimate/face/faces';
import { findFace } from './face';
import type { HeldKind, HeldKinds } from '../messages/holdings';
import { Newest } from '../messages/newest';
import { closePictures, FINISHED } from '../messages/pictures';
import type { MapReading } from '../../formats/mapFacts';
import type { ClipSpec } from '../../formats/outputs/clips';
import type {
  Brought,
  ChapterThumbs,
  DecodedStill,
  ViewSpec,
  Given,
  MadeFile,
  OutputSpec,
  PlayedFrame,
  PreviewPart,
  PreviewSpec,
  ReliefPart,
  ReliefSpec,
  ReadMap,
} from '../messages/protocol';
import { EstimateWorkers } from './estimateWorkers';
import { FILES_SECONDS, mostAtOnce, type Job } from './workers';
import type { UnpackedProject } from '../../formats/project/projectFile';

/** Writing a frame of more px may take longer than a worker is silent otherwise. */
const LARGE_FRAME = 2.5e6;
/** Long side, px, at which a face is looked for. */
const FACE_LOOK = 800;

/** The computing side of the page. The main thread asks; workers answer; the newest preview wins. */
export class Engine extends EstimateWorkers {
  private readonly newest = new Newest();
  private lighting: Promise<unknown> | null = null;
  private nextLight: (() => void) | null = null;

  /** Decodes a picture; without `metadata` only its pixels are to be trusted. */
  decode(file: Blob, name: string, metadata = true): Promise<DecodedStill> {
    return this.background((worker) => worker.decode(file, name, metadata), false, FILES_SECONDS);
  }

  /** Numbered pictures put together as one file. */
  packFrames(files: readonly { readonly name: string; readonly blob: Blob }[]): Promise<Blob> {
    return this.background((worker) => worker.packFrames(files), false, FILES_SECONDS);
  }

  readMap(file: Blob, name: string, channel: string | null, plate: Size, estimate: string | null): Promise<ReadMap> {
    return this.background((worker) => worker.readMap(file, name, channel, plate, estimate), false, FILES_SECONDS);
  }

  decodeMap(file: Blob, name: string, channel: string | null, reading: MapReading): Promise<Plane> {
    return this.background((worker) => worker.decodeMap(file, name, channel, reading), false, FILES_SECONDS);
  }

  /** Light from all round, of a picture of surroundings. */
  surroundings(file: Blob, name: string): Promise<Harmonics> {
    return this.background((worker) => worker.surroundings(file, name), false, FILES_SECONDS);
  }

  /** Unpacks and checks a project file. */
  unpackProject(file: Blob, name: string): Promise<UnpackedProject> {
    return this.background((worker) => worker.unpackProject(file, name), false, FILES_SECONDS);
  }

  /** Whether the workers hold something. */
  holds(kind: HeldKind, name: string): boolean {
    return this.holdings.has(kind, name);
  }

  /** Gives every worker pixels to work with (shared, not copied). Messages keep their order: what is asked from here on finds them there. */
  async hold<K extends HeldKind>(kind: K, name: string, value: HeldKinds[K]): Promise<void> {
    this.holdings.put(kind, name, value);
    await Promise.all(this.everywhere((worker) => worker.hold(kind, name, value)));
  }

  /** Lets every worker forget something that will not be asked for again. */
  letGo(kind: HeldKind, name: string): void {
    this.holdings.drop(kind, name);
  }

  /** Tells every worker that maps of clips' frames have been found, or forgotten. */
  framesChanged(): void {
    for (const told of this.everywhere((worker) => worker.framesChanged())) told.catch(() => undefined);
  }

  /** Tells every worker that proxies of clips have been made, or forgotten. */
  proxiesChanged(): void {
    for (const told of this.everywhere((worker) => worker.proxiesChanged())) told.catch(() => undefined);
  }

  /** Says what the open shot works with, or another that is shown as well (`who`): it is not let go. */
  need(wanted: readonly (readonly [HeldKind, string])[], who?: string): void {
    this.holdings.need(wanted, who);
  }

  /** The subject of a held map, and the raw nearness of its farthest parts. */
  subject(key: string): Promise<{ readonly subject: Subject; readonly far: number }> {
    return this.background((worker) => worker.subject(key));
  }

  /** The raw nearness of a held map in the middle of some places. */
  nearnessAt(key: string, points: readonly { readonly x: number; readonly y: number }[]): Promise<number | null> {
    return this.background((worker) => worker.nearnessAt(key, points));
  }

  horizon(hash: string): Promise<number> {
    return this.background((worker) => worker.horizon(hash));
  }

  /** Renders what is looked at; any earlier request stops. Resolves false where a newer one came in between. */
  async preview(spec: PreviewSpec, onPart: (part: PreviewPart) => void, onThumbs: (thumbs: Partial<ChapterThumbs>) => void): Promise<boolean> {
    const id = this.newest.next();
    const current = <T extends object>(handler: (value: T) => void) =>
      Comlink.proxy((value: T) => {
        if (this.newest.is(id)) handler(value);
        else closePictures(value);
      });
    return this.persist(
      () => this.viewer,
      (viewer) => viewer.preview(spec, id, this.newest.words, current(onPart), current(onThumbs)),
    );
  }

  /** Does ahead what the preview at these sizes will need, until one is asked for. */
  async prepare(shot: ShotRequest, sizes: readonly Size[]): Promise<void> {
    const id = this.newest.next();
    await this.persist(
      () => this.viewer,
      (viewer) => viewer.prepare(shot, sizes, id, this.newest.words),
    );
  }

  /** What of a shot's depth decides how far its camera may move. */
  survey(shot: ShotRequest, given: Given): Promise<Relief> {
    return this.background((worker) => worker.survey(shot, given));
  }

  /** The scene as it stands in space. */
  relief(shot: ShotRequest, given: Given, spec: ReliefSpec): Job<ReliefPart> {
    return this.viewersJob((worker, id, words) => worker.relief(shot, given, spec, id, words) as Promise<ReliefPart>);
  }

  /** Judges a camera's path by what was surveyed. */
  judgePath(path: Path, lens: PlateLens, relief: Relief): Promise<PathFigures> {
    return this.background((worker) => worker.judgePath(path, lens, relief));
  }

  /** Moves made as large as the picture allows, each alone. */
  fitMoves(items: readonly MoveItem[], path: Path, lens: PlateLens, relief: Relief): Promise<readonly MoveItem[]> {
    return this.background((worker) => worker.fitMoves(items, path, lens, relief));
  }

  /** The moves of a path made shorter until they tear nothing open wider than so many px. */
  shortenMoves(path: Path, lens: PlateLens, relief: Relief, px: number): Promise<readonly MoveItem[]> {
    return this.background((worker) => worker.shortenMoves(path, lens, relief, px));
  }

  /**
   * Makes frames for playing, in their order, on every worker that is not the viewer's; what is in `wanted` may change meanwhile. Ends when
   * `wanted` has no more, or it is stopped. `urgent`: somebody waits for them, no processor is left to the page.
   */
  frames(
    wanted: () => { readonly frame: number; readonly shot: ShotRequest; readonly given: Given; readonly view?: ViewSpec } | null,
    onFrame: (frame: number, made: PlayedFrame) => void,
    urgent = false,
  ): Job<true> {
    const stop = new Newest();
    const id = stop.next();
    const hand = async (): Promise<void> => {
      for (let next = wanted(); next && stop.is(id); next = wanted()) {
        const { frame, shot, given, view: look = FINISHED } = next;
        const made = await this.background((worker) => worker.frame(shot, given, look, id, stop.words) as Promise<PlayedFrame | null>);
        if (!made) return;
        if (stop.is(id)) onFrame(frame, made);
        else closePictures(made);
      }
    };
    const hands = Array.from({ length: urgent ? this.hands : Math.max(1, Math.min(this.others.length, mostAtOnce())) }, hand);
    return { done: Promise.all(hands).then(() => (stop.is(id) ? true : null)), cancel: () => void stop.next() };
  }

  /** One moment of what is looked at, as good as a first look, on a worker that is not the viewer's; `brought`: a picture for it alone. */
  frame(shot: ShotRequest, given: Given, view: ViewSpec, brought?: Brought): Job<PlayedFrame> {
    return this.job((worker, id, words) => worker.frame(shot, given, view, id, words, brought) as Promise<PlayedFrame>, false);
  }

  /** The pixels of the last preview between two distances. While some are being lit only the newest that was asked for meanwhile follows; the others answer null. */
  async highlight(from: number, to: number): Promise<ImageBitmap | null> {
    this.nextLight?.();
    this.nextLight = null;
    if (this.lighting) {
      const mine = await new Promise<boolean>((go) => {
        this.nextLight = () => go(false);
        void this.lighting!.finally(() => go(true));
      });
      if (!mine) return null;
      this.nextLight = null;
    }
    const lit = this.persist(
      () => this.viewer,
      (viewer) => viewer.highlight(from, to),
    );
    const over = lit
      .catch(() => undefined)
      .finally(() => {
        if (this.lighting === over) this.lighting = null;
      });
    this.lighting = over;
    return lit;
  }

  /** Readies a worker for an estimate that will be asked for soon, while the picture is being decoded. */
  async readyEstimate(): Promise<void> {
    await this.background((worker) => worker.readyEstimate(), true);
  }

  /** The frames of a clip that begin a new scene. */
  clipCuts(of: FileRef, span: Span, report: (share: number) => void): Job<readonly number[]> {
    return this.job((worker, id, words) => worker.clipCuts(of, span, id, words, Comlink.proxy(report)) as Promise<readonly number[]>);
  }

  /** Carries the estimates of a clip to all its frames and makes them steady; each frame is kept when it is finished. */
  steadyClip(spec: ClipDepthSpec, report: (share: number) => void): Job<Flickers> {
    return this.job((worker, id, words) => worker.steadyClip(spec, id, words, Comlink.proxy(report)) as Promise<Flickers>);
  }

  output(shot: ShotRequest, given: Given, spec: OutputSpec, report: (share: number) => void): Job<MadeFile> {
    return this.job(
      (worker, id, words) => worker.output(shot, given, spec, id, words, Comlink.proxy(report)) as Promise<MadeFile>,
      true,
      FILES_SECONDS,
    );
  }

  /** One piece of a clip, on any worker that is not the viewer's. */
  clipPiece(shot: ShotRequest, given: Given, clip: ClipSpec, from: number, to: number, report: (share: number) => void): Job<Blob> {
    return this.job(
      (worker, id, words) => worker.clipPiece(shot, given, clip, from, to, id, words, Comlink.proxy(report)) as Promise<Blob>,
      false,
      // frames are looked up from often; a large one is a file that takes its time to be written
      clip.width * clip.height > LARGE_FRAME ? FILES_SECONDS : undefined,
    );
  }

  joinClip(clip: ClipSpec, pieces: readonly Blob[]): Promise<Blob> {
    return this.background((worker) => worker.joinClip(clip, pieces), false, FILES_SECONDS);
  }

  /** So many pieces of a clip are made at the same time. */
  get hands(): number {
    return Math.max(1, Math.min(this.others.length, globalThis.navigator?.hardwareConcurrency ?? 2));
  }

  /** A held plate, or a frame of one that is a clip, as a PNG. */
  framePicture(need: RasterNeed): Promise<Blob> {
    return this.background((worker) => worker.framePicture(need), false, FILES_SECONDS);
  }

  thumbnail(shot: ShotRequest, given: Given): Promise<Blob> {
    return this.background((worker) => worker.thumbnail(shot, given));
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

export type { Job } from './workers';

let shared: Engine | null = null;

/** The page's one engine. */
export const engine = (): Engine => (shared ??= new Engine());
