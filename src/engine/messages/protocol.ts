import type { FileRef } from '../../core/need/fileRef';
import type { Harmonics } from '../../core/light/harmonics';
import type { HeldKind, HeldKinds } from './holdings';
import type { Path, PathFigures } from '../../core/path/judged';
import type { PlateLens } from '../../core/camera/pose';
import type { Relief } from '../../core/camera/relief';
import type { Rgb8 } from '../../core/estimate/face/tensors';
import type { Spacing } from '../../core/depth/calibrate';
import type { HueSpread } from '../../core/depth/hues';
import type { EstimateApi, Report } from './estimateApi';
import type { Span } from '../../core/motion/plan';
import type { RasterNeed } from '../../core/need/need';
import type { ClipDepthSpec } from '../../core/motion/clipSpec';
import type { Point } from '../../core/motion/track';
import type { Flickers, FollowedPoint, RegionSpec } from './clipJobs';
import type { Subject } from '../../core/estimate/subject';
import type { Plane, Raster, Size } from '../../core/picture';
import type { MoveItem, Region } from '../../core/document/schema';
import type { ShotRequest } from '../../core/shot/stage';
import type { CheckInput, CheckResult } from '../../core/depth/checks/definition';
import type { SceneShape } from '../../core/mesh/scene';
import type { ClipSpec } from '../../formats/outputs/clips';
import type { ClipFound, StillFacts } from '../../formats/definition';
import type { MapFacts, MapReading } from '../../formats/mapFacts';
import type { MapProposal } from '../../formats/maps/proposal';
import type { UnpackedProject } from '../../formats/project/projectFile';

/** What there is of what a shot needs: the key of a need to the key under which workers hold something for it, such as a draft for a fine estimate. */
export type Given = Readonly<Record<string, string>>;

/** What a set of sent pictures shows, told as keys, and how wide they are, px. */
export interface Fingerprints {
  readonly plate: string;
  readonly depth: string;
  readonly before: string;
  readonly width: number;
}

export interface PreviewSpec {
  readonly shot: ShotRequest;
  readonly given: Given;
  /** a held map estimated from the plate, for checks that compare with it */
  readonly estimate: string | null;
  /** whether clean-up's figures, and depth as it was before it, are wanted */
  readonly cleaning: boolean;
  /** what the page has: it need not be sent again. Null where it has nothing. What was sent and overtaken on its way never came. */
  readonly has: Fingerprints | null;
  /** smaller size to render first, or null */
  readonly quick: Size | null;
  /** something is being dragged: the page needs a processor of its own to draw each step */
  readonly dragged: boolean;
  /** depth in grey, or in the colours of distance */
  readonly depthColours: 'grey' | 'distance';
  readonly check: string | null;
  /** the reach of the effect in hand, for checks that show it */
  readonly reach: CheckInput['reach'];
  /** its region */
  readonly region: Region | null;
  /** axis on which the histogram is counted */
  readonly ruler: { readonly near: number; readonly far: number; readonly spacing: Spacing };
  /** whether the finished picture is wanted: it need not be computed to look at depth */
  readonly finished: boolean;
}

/** What the viewer needs to show one state of a shot. */
export interface PreviewPart {
  readonly stage: 'quick' | 'full';
  readonly size: Size;
  readonly milliseconds: number;
  /** what the page has once it took this part */
  readonly fingerprints: Fingerprints;
  /** null: as the page has it */
  readonly plate: ImageBitmap | null;
  readonly depth: ImageBitmap | null;
  readonly finished: ImageBitmap | null;
  readonly marks: ImageBitmap | null;
  /** what a check shows in place of the picture */
  readonly shown: ImageBitmap | null;
  /** what a check shows in a loop in place of the picture */
  readonly loop: readonly ImageBitmap[] | null;
  readonly figure: string | null;
  readonly chart: CheckResult['chart'] | null;
  /** depth before clean-up, where it is wanted and some is on */
  readonly before: ImageBitmap | null;
  /** what each step of clean-up did, by kind; null where it was not asked for */
  readonly cleaned: Readonly<Record<string, string>> | null;
  /** the stack before clean-up, 0..1 or NaN where nothing is known; the same as raw where no clean-up is on */
  readonly stack: Float32Array;
  /** raw map 0..1 and metres, for the probe */
  readonly raw: Float32Array;
  readonly distance: Float32Array;
  /** how the hues of distance lie over these depths */
  readonly hues: HueSpread;
  /** share of pixels in each bin of the ruler, near to far */
  readonly histogram: Float32Array;
}

/** What a frame for playing may consist of: as a preview has them. */
export type FramePart = 'plate' | 'picture' | 'depth' | 'before';

/** How frames for playing are looked at. */
export interface ViewSpec {
  readonly parts: readonly FramePart[];
  readonly colours: 'grey' | 'distance';
  /** how the hues of distance lie over all frames; null: over each by itself */
  readonly hues: HueSpread | null;
}
export type PlayedFrame = Readonly<Partial<Record<FramePart, ImageBitmap>>>;

/** A picture that is used once, and its map of nearness where it brings one: held under the same name while it is rendered. */
export interface Brought {
  readonly key: string;
  readonly raster: Raster;
  readonly map: Plane | null;
}

/** Small pictures of what leaves each chapter. */
export interface ChapterThumbs {
  readonly plate: ImageBitmap;
  readonly depth: ImageBitmap;
  readonly calibrate: ImageBitmap;
  readonly effects: ImageBitmap;
  readonly camera: ImageBitmap;
}

export interface DecodedStill {
  readonly facts: StillFacts;
  readonly raster: Raster;
  readonly sha256: string;
  /** a small picture of it, to be shown until its shot is; where its facts were asked for */
  readonly firstPicture?: ImageBitmap;
}

/** An output by its kind, with the values of its own settings. */
export interface OutputSpec {
  readonly kind: string;
  readonly values: Readonly<Record<string, number | boolean | string>>;
  /** how the shot is called */
  readonly name: string;
  /** what it says to who does not see it */
  readonly words?: string;
  /** the shape of another shot, in place of the shot's own */
  readonly shape?: SceneShape | undefined;
}

/** How a scene is seen in space. */
export interface ReliefSpec {
  /** a sample at every so many px */
  readonly step: number;
  /** it is cut at depth edges; otherwise near and far are stretched into one */
  readonly cut: boolean;
  /** what lies behind edges is seen as well, where it is cut */
  readonly behind: boolean;
  /** with what lies on its surfaces; another part of the same scene lends it otherwise */
  readonly pictures: boolean;
}

export interface ReliefSurface {
  readonly name: 'front' | 'behind';
  /** places in its picture, px, and inverse distance, 1/m, three numbers each */
  readonly corners: Float32Array;
  readonly triangles: Uint32Array;
  readonly picture: { readonly bitmap: ImageBitmap; readonly opaque: boolean } | null;
}

/** A scene as it is seen in space. */
export interface ReliefPart {
  readonly surfaces: readonly ReliefSurface[];
  readonly lens: PlateLens;
  readonly step: number;
  /** what is infinitely far stands so far away, m */
  readonly sky: number;
  /** half of the picture lies nearer, m */
  readonly middle: number;
}

/** A file that was made of a shot, and what there is to say of it. */
export interface MadeFile {
  readonly blob: Blob;
  readonly told: string | null;
  readonly shape: SceneShape | null;
}

/** A map file as it was found, and how it is best brought in. */
export interface ReadMap {
  readonly facts: MapFacts;
  readonly proposal: MapProposal;
  readonly sha256: string;
  /** read as proposed: raw nearness 0..1, NaN where unknown */
  readonly plane: Plane;
  /** present where it is a clip of maps, of which this is the first */
  readonly clip?: ClipFound;
}

export type { Report };

export interface WorkerApi extends EstimateApi {
  /** `metadata`: whether its turning and field of view are wanted too */
  decode(file: Blob, name: string, metadata: boolean): Promise<DecodedStill>;
  /** numbered pictures put together as one file, in their order */
  packFrames(files: readonly { readonly name: string; readonly blob: Blob }[]): Promise<Blob>;
  /** reads a map for a plate of a size; `estimate` is the key of a held map of that plate, to compare with */
  readMap(file: Blob, name: string, channel: string | null, plate: Size, estimate: string | null): Promise<ReadMap>;
  /** a map read as it was decided: raw nearness 0..1, NaN where unknown */
  decodeMap(file: Blob, name: string, channel: string | null, reading: MapReading): Promise<Plane>;
  /** light from all round, of a picture of surroundings */
  surroundings(file: Blob, name: string): Promise<Harmonics>;
  /** unpacks and checks a project file */
  unpackProject(file: Blob, name: string): Promise<UnpackedProject>;
  /** takes part in the watch over this worker's life: holds a lock of that name until it ends, and counts its looks; true where it holds the lock */
  live(lock: string | null, beats: Int32Array | null): Promise<boolean>;
  ping(): void;
  /** what it is given to work with, until it is told to let go */
  hold<K extends HeldKind>(kind: K, name: string, value: HeldKinds[K]): void;
  letGo(kind: HeldKind, name: string): void;
  /** maps of clips' frames have been found, or forgotten: what was read of them is read again */
  framesChanged(): void;
  /** proxies of clips are others: what was made with them, or without, is made anew */
  proxiesChanged(): void;
  /** the subject of a held map, and the raw nearness of its farthest parts */
  subject(key: string): Promise<{ readonly subject: Subject; readonly far: number }>;
  /** the raw nearness of a held map in the middle of some places, shares of the picture; null where nothing is known */
  nearnessAt(key: string, points: readonly { readonly x: number; readonly y: number }[]): Promise<number | null>;
  /** the horizon of a held plate, share of its height from the top, may lie outside */
  horizon(sha256: string): Promise<number>;
  /** does what a preview at these sizes will need and that can be done without the plate */
  prepare(shot: ShotRequest, sizes: readonly Size[], id: number, newest: Int32Array): Promise<void>;
  preview(
    spec: PreviewSpec,
    id: number,
    newest: Int32Array,
    onPart: (part: PreviewPart) => void,
    onThumbs: (thumbs: Partial<ChapterThumbs>) => void,
  ): Promise<boolean>;
  /** what of a shot's depth decides how far its camera may move */
  survey(shot: ShotRequest, given: Given): Promise<Relief>;
  /** the scene as it stands in space; null where it was stopped */
  relief(shot: ShotRequest, given: Given, spec: ReliefSpec, id: number, newest: Int32Array): Promise<ReliefPart | null>;
  /** judges a camera's path by what was surveyed */
  judgePath(path: Path, lens: PlateLens, relief: Relief): Promise<PathFigures>;
  /** moves made as large as the picture allows, each alone */
  fitMoves(items: readonly MoveItem[], path: Path, lens: PlateLens, relief: Relief): Promise<readonly MoveItem[]>;
  /** the moves of a path made shorter until they tear nothing open wider than so many px */
  shortenMoves(path: Path, lens: PlateLens, relief: Relief, px: number): Promise<readonly MoveItem[]>;
  /** what is looked at, at one moment, for playing: as good as a first look; null where it became needless. `brought` is held for that alone. */
  frame(shot: ShotRequest, given: Given, view: ViewSpec, id: number, newest: Int32Array, brought?: Brought): Promise<PlayedFrame | null>;
  /** the pixels of the last preview that lie between two distances, in paper white */
  highlight(from: number, to: number): Promise<ImageBitmap | null>;
  /** the frames of a clip that begin a new scene; null where it was stopped */
  clipCuts(of: FileRef, span: Span, id: number, newest: Int32Array, report: Report): Promise<readonly number[] | null>;
  /** carries the estimates of a clip to all its frames and makes them steady; null where it was stopped */
  steadyClip(spec: ClipDepthSpec, id: number, newest: Int32Array, report: Report): Promise<Flickers | null>;
  /** carries a region of a clip to all its frames; what was lost of it, by frame, or null where it was stopped */
  followRegion(spec: RegionSpec, id: number, newest: Int32Array, report: Report): Promise<readonly number[] | null>;
  /** makes and keeps the proxy of a clip that is held; its size, or null where it was stopped */
  makeProxy(sha256: string, id: number, newest: Int32Array, report: Report): Promise<Size | null>;
  /** where a point of a clip goes, from the frame of the shot on, and how far it is; null where it was stopped */
  followPoint(
    shot: ShotRequest,
    given: Given,
    start: Point,
    span: Span,
    id: number,
    newest: Int32Array,
    report: Report,
  ): Promise<readonly FollowedPoint[] | null>;
  output(shot: ShotRequest, given: Given, spec: OutputSpec, id: number, newest: Int32Array, report: Report): Promise<MadeFile | null>;
  /** one piece of a clip; null where it was stopped */
  clipPiece(
    shot: ShotRequest,
    given: Given,
    clip: ClipSpec,
    from: number,
    to: number,
    id: number,
    newest: Int32Array,
    report: Report,
  ): Promise<Blob | null>;
  /** the pieces of a clip, put together */
  joinClip(clip: ClipSpec, pieces: readonly Blob[]): Promise<Blob>;
  /** a held plate, or a frame of one that is a clip, as a PNG */
  framePicture(need: RasterNeed): Promise<Blob>;
  thumbnail(shot: ShotRequest, given: Given): Promise<Blob>;
  /** a held plate at most so large, 8-bit sRGB */
  smallPlate(sha256: string, longSide: number): Promise<Rgb8>;
  plateThumbnail(sha256: string, longSide: number): Promise<Blob>;
  /** ways to workers that lend a hand with rows (null: not begun), and a word for each that is 1 while it is busy */
  meetHelpers(ports: (MessagePort | null)[], busy: Int32Array): void;
  serveHelper(port: MessagePort): void;
}
