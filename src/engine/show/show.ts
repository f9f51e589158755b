import * as Comlink from 'comlink';
import { calibrationOf } from '../../core/document/defaults';
import { nearnessOf, type Calibration } from '../../core/depth/calibrate';
import { checks } from '../../core/depth/checks/registry';
import type { CameraFindings, CheckDefinition, CheckResult } from '../../core/depth/checks/definition';
import type { HueSpread } from '../../core/depth/hues';
import { cleanupOf } from '../../core/depth/cleanup/registry';
import { placeMap } from '../../core/depth/layers/mapLayer';
import { newPlane, type Picture, type Plane, type Size } from '../../core/picture';
import { contentKey } from '../../core/key';
import { Aborted } from '../../core/run';
import { behindEdges } from '../../core/shot/cameraStep';
import { finishedPicture, finishedShot, resolved } from '../../core/shot/chain';
import { composedPlate, depthOf, type Depth } from '../../core/shot/depthChain';
import { composedFrame } from '../../core/shot/frame';
import { layerRegion } from '../../core/shot/placing';
import { affineOf, framedPlate, type ChainInputs, type ShotRequest, type Stage } from '../../core/shot/stage';
import { stepOf } from '../../core/shot/stepOf';
import { actsOn } from '../../core/shot/within';
import type { Region } from '../../core/document/schema';
import { inputsFor, mapOf } from '../held/holding';
import type { Newest } from '../messages/newest';
import { depthBitmap, histogram, huesOf, maskBitmap, pictureBitmap } from './paint';
import { closePictures } from '../messages/pictures';
import type { ChapterThumbs, ViewSpec, FramePart, Fingerprints, PlayedFrame, PreviewPart, PreviewSpec } from '../messages/protocol';

let shown: Plane | null = null;
const NOTHING: Fingerprints = { plate: '', depth: '', before: '', width: 0 };

/** The pixels of what was shown last that lie between two distances, in paper white; null where nothing has been shown. */
export async function litDistances(from: number, to: number): Promise<ImageBitmap | null> {
  const { width, height, data } = shown ?? { width: 0, height: 0, data: new Float32Array(0) };
  return shown && maskBitmap(width, height, (i) => (data[i]! >= from && data[i]! <= to ? 0.72 : 0));
}

/** Renders one size of what is looked at and hands over what the page has not; says what it then has. Throws Aborted where a newer request has come. */
export async function showStage(
  spec: PreviewSpec,
  size: Size,
  stage: 'quick' | 'full',
  id: number,
  newest: Newest,
  onPart: (part: PreviewPart) => void,
): Promise<Fingerprints> {
  const sent = spec.has ?? NOTHING;
  const started = performance.now();
  const request = resolved({ ...spec.shot, size });
  const progress = (): boolean => newest.is(id);
  const inputs = inputsFor(spec.given, { quick: stage === 'quick', alone: spec.dragged, progress, id, newest });
  const plate = composedPlate(request, inputs);
  const depth = depthOf(request, inputs);
  const { stack, steps, raw } = depth;
  const distance = depth.distance.value;
  const check = spec.check === null ? undefined : checks.find((d) => d.kind === spec.check);
  const whole = spec.finished || check?.needsCamera ? await finishedShot(request, inputs) : null;
  const finished = whole?.picture.value ?? null;
  const frame = whole?.frame;
  // what the pointer meets is what is seen
  const seenStage = frame && !spec.cleaning ? frame.distance : depth.distance;
  const seen = seenStage.value;
  if (!progress()) throw new Aborted();
  const calibration = calibrationOf(request.settings.calibration);
  const picture = framedPlate(request, inputs).value;
  const camera = check?.needsCamera && whole ? await cameraFindings(request, inputs, whole) : null;
  const region = check?.needsReach && spec.region ? regionIn(request, inputs, spec.region) : null;
  const found = check ? runCheck(check, spec, request, picture, raw.value, distance, calibration, camera, region) : null;
  const { near, far, low, high, turnOver, bend, spacing } = calibration;
  const toned = { near, far, low, high, turnOver, bend, spacing, colours: spec.depthColours };
  const before = steps[0]?.before.value ?? null;
  // looks do not depend on the size, so that a quick look can do with the sharper picture sent before
  const fingerprints = { plate: plate.fingerprint, depth: contentKey(raw.fingerprint, toned), before: contentKey(stack.fingerprint, toned) };
  const stale = (part: keyof typeof fingerprints): boolean => sent[part] !== fingerprints[part] || (stage === 'full' && sent.width !== size.width);
  const { hues, counts } = alongDepth(inputs, raw, seenStage, calibration, spec.ruler);
  const wantsBefore = spec.cleaning && before !== null;
  const [plateImage, depthImage, beforeImage, finishedImage, marks, shownImage] = await Promise.all([
    stale('plate') ? pictureBitmap(plate.value) : null,
    stale('depth') ? depthBitmap(raw.value, calibration, spec.depthColours, hues) : null,
    wantsBefore && stale('before') ? depthBitmap(before, calibration, spec.depthColours, hues) : null,
    finished && pictureBitmap(finished),
    found && maskBitmap(size.width, size.height, (i) => found.marks.data[i]!),
    found?.shown ? pictureBitmap(found.shown) : null,
  ]);
  const loop = found?.loop && stage === 'full' ? await Promise.all(found.loop.map((p) => pictureBitmap(p))) : null;
  const bitmaps = [plateImage, depthImage, beforeImage, finishedImage, marks, shownImage, ...(loop ?? [])].filter((b) => b !== null);
  if (!progress()) {
    // overtaken: nobody takes them
    for (const bitmap of bitmaps) bitmap.close();
    throw new Aborted();
  }
  const cleaned = spec.cleaning && stage === 'full' ? cleanedBy(depth, picture) : null;
  shown = seen;
  const has: Fingerprints = {
    ...fingerprints,
    before: wantsBefore ? fingerprints.before : sent.before,
    width: plateImage || depthImage || beforeImage ? size.width : sent.width,
  };
  const part: PreviewPart = {
    stage,
    size,
    milliseconds: performance.now() - started,
    fingerprints: has,
    plate: plateImage,
    depth: depthImage,
    before: beforeImage,
    finished: finishedImage,
    marks,
    shown: shownImage,
    loop,
    figure: found?.figure ?? null,
    chart: found?.chart ?? null,
    cleaned,
    stack: (before ?? raw.value).data,
    raw: raw.value.data,
    distance: seen.data,
    hues,
    histogram: counts(),
  };
  onPart(Comlink.transfer(part, bitmaps));
  return has;
}

/** What each step of a cleanup has done to the map. */
const cleanedBy = ({ steps }: Depth, picture: Picture): NonNullable<PreviewPart['cleaned']> =>
  Object.fromEntries(steps.map((s) => [s.kind, cleanupOf(s.kind).figure(s.before.value, s.after.value, picture)]));

/** What a check of the camera reads beside the depth. */
async function cameraFindings(request: ShotRequest, inputs: ChainInputs, whole: Awaited<ReturnType<typeof finishedShot>>): Promise<CameraFindings> {
  const behind = await behindEdges(composedFrame(request, inputs), request, inputs);
  return { uncovered: whole.frame.uncovered?.value.data ?? null, finished: whole.picture.value, behind };
}

/** Colours of distance over a picture's own depths, and how many pixels lie where along the ruler; neither changes with what effects do. */
function alongDepth(
  inputs: ChainInputs,
  raw: Stage<Plane>,
  seen: Stage<Plane>,
  calibration: Calibration,
  ruler: PreviewSpec['ruler'],
): { hues: HueSpread; counts: () => Float32Array } {
  const hues = stepOf(inputs.cache, 'hues', { raw, calibration }, (read) => ({ data: huesOf(read.raw, read.calibration) }));
  const counts = stepOf(inputs.cache, 'histogram', { seen, ruler }, (read) => ({ data: histogram(read.seen, read.ruler) }));
  return { hues: hues.value.data, counts: () => counts.value.data };
}

/** A frame for playing: the parts of it that are looked at. Throws Aborted, FrameMissing. */
export async function frameParts(request: ShotRequest, inputs: ChainInputs, { parts, colours, hues }: ViewSpec): Promise<PlayedFrame> {
  const at = resolved(request);
  const calibration = calibrationOf(request.settings.calibration);
  const depth = depthOf(at, inputs);
  const coloured = (plane: Plane): Promise<ImageBitmap> => depthBitmap(plane, calibration, colours, hues ?? huesOf(depth.raw.value, calibration));
  const make: Record<FramePart, () => Promise<ImageBitmap>> = {
    plate: () => pictureBitmap(composedPlate(at, inputs).value),
    picture: async () => pictureBitmap((await finishedPicture(request, inputs)).value),
    depth: () => coloured(depth.raw.value),
    before: () => coloured((depth.steps[0]?.before ?? depth.stack).value),
  };
  return allMade(Object.fromEntries(parts.map((part) => [part, make[part]])) as Pick<typeof make, FramePart>);
}

/** How far a region lets an effect act, where the plate was taken. */
const regionIn = (request: ShotRequest, inputs: ChainInputs, { layer, outside }: Region): Plane =>
  actsOn(layerRegion(request, inputs, framedPlate(request, inputs), layer).value, outside);

function runCheck(
  check: CheckDefinition,
  spec: PreviewSpec,
  request: ShotRequest,
  picture: Picture,
  raw: Plane,
  distance: Plane,
  c: Calibration,
  camera: CameraFindings | null,
  region: Plane | null,
): CheckResult {
  const nearness = newPlane(raw.width, raw.height);
  for (let i = 0; i < nearness.data.length; i++) nearness.data[i] = nearnessOf(raw.data[i]!, c);
  const held = check.needsEstimate && spec.estimate !== null ? mapOf(spec.estimate) : undefined;
  const place = { ...request.size, framing: affineOf(request), plateSize: request.plate, picture };
  const estimate = held ? placeMap(held, place, { turnOver: false, low: 0, high: 100 }) : null;
  return check.run({ raw, nearness, distance, picture, low: c.low, high: c.high, estimate, reach: spec.reach, region, camera });
}

const THUMB = { width: 224, height: 126 };

/** Small pictures of what leaves each chapter. */
export async function chapterThumbs(spec: PreviewSpec, id: number, newest: Newest, onThumb: (thumb: Partial<ChapterThumbs>) => void): Promise<void> {
  const size = fitBox(spec.shot.settings.framing, THUMB);
  const request = resolved({ ...spec.shot, size });
  const inputs = inputsFor(spec.given, { quick: true, alone: true, progress: () => newest.is(id), id, newest });
  const calibration = calibrationOf(request.settings.calibration);
  const raw = depthOf(request, inputs).raw.value;
  const plain = { ...calibration, low: 0, high: 1, turnOver: false, bend: 1 };
  const make: Readonly<Record<keyof ChapterThumbs, () => Promise<ImageBitmap>>> = {
    plate: () => pictureBitmap(framedPlate(request, inputs).value),
    depth: () => depthBitmap(raw, plain, 'grey'),
    calibrate: () => depthBitmap(raw, calibration, 'distance'),
    effects: async () => pictureBitmap((await finishedPicture(still(request), inputs)).value),
    camera: async () => pictureBitmap((await finishedPicture(request, inputs)).value),
  };
  for (const name of Object.keys(make) as (keyof ChapterThumbs)[]) onThumb({ [name]: await make[name]() });
}

/** Pictures made one after the other; where one cannot be, those that are there are closed. */
async function allMade<K extends string>(make: Readonly<Record<K, () => Promise<ImageBitmap>>>): Promise<Record<K, ImageBitmap>> {
  const made: Partial<Record<K, ImageBitmap>> = {};
  try {
    for (const name of Object.keys(make) as K[]) made[name] = await make[name]();
  } catch (error) {
    closePictures(made);
    throw error;
  }
  return made as Record<K, ImageBitmap>;
}

/** A shot whose camera stands where the plate was taken. */
const still = (request: ShotRequest): ShotRequest => ({
  ...request,
  settings: { ...request.settings, camera: { ...request.settings.camera, moves: [], stereo: { ...request.settings.camera.stereo, on: false } } },
});

const fitBox = (of: Size, box: Size): Size => {
  const scale = Math.min(1, box.width / of.width, box.height / of.height);
  return { width: Math.max(1, Math.round(of.width * scale)), height: Math.max(1, Math.round(of.height * scale)) };
};
