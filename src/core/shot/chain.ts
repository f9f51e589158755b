import { OmbrageError } from '../error';
import type { Picture, Plane, Size } from '../picture';
import { combineEyes, stereoSize } from '../path/stereo';
import { hasCamera, type Eye } from '../path/path';
import { nearnessAlong, nearnessOf } from '../depth/calibrate';
import { calibrationOf } from '../document/calibrationOf';
import { depthOf, distanceMap } from './depthChain';
import type { Settings } from '../document/schema';
import { partOf } from '../run';
import { composedFrame, type Frame, type Step } from './frame';
import { settingsAt } from './settingsAt';
import { stepOf } from './stepOf';
import { made, type ChainInputs, type ShotRequest, type Stage } from './stage';
import { steps as usualSteps } from './steps';

/** A request whose settings are those of its moment: what the parts of the chain work with. */
export const resolved = (request: ShotRequest): ShotRequest => {
  const settings = settingsAt(request.settings, request.at);
  return settings === request.settings ? request : { ...request, settings, set: request.set ?? request.settings };
};

/** The finished frame: the composed plate, led through every step; its picture is made. Throws Aborted where the run is. */
export async function finishedFrame(request: ShotRequest, inputs: ChainInputs, steps: readonly Step[] = usualSteps): Promise<Frame> {
  const now = resolved(request);
  let frame = composedFrame(now, inputs);
  for (const step of steps) frame = await step(frame, now, inputs);
  made(frame.picture);
  return frame;
}

/** A finished shot: its picture, with two eyes both of them in the form that the settings say, and the frame it was seen in (the left eye's). */
export async function finishedShot(
  request: ShotRequest,
  inputs: ChainInputs,
  steps?: readonly Step[],
): Promise<{ readonly picture: Stage<Picture>; readonly frame: Frame }> {
  const { stereo } = request.settings.camera;
  if (!stereo.on || request.eye !== undefined) {
    const frame = await finishedFrame(request, inputs, steps);
    return { picture: frame.picture, frame };
  }
  const [left, right] = await eyesOf(request, inputs, steps);
  const picture = stepOf(inputs.cache, 'two eyes', { left: left.picture, right: right.picture, shown: stereo.shown }, (read) =>
    combineEyes(read.shown, read.left, read.right, inputs.run.shared),
  );
  return { picture: made(picture), frame: left };
}

/** The finished picture. */
export const finishedPicture = async (request: ShotRequest, inputs: ChainInputs, steps?: readonly Step[]): Promise<Stage<Picture>> =>
  (await finishedShot(request, inputs, steps)).picture;

/** What each eye sees, finished. */
export async function eyesOf(request: ShotRequest, inputs: ChainInputs, steps?: readonly Step[]): Promise<readonly [Frame, Frame]> {
  const of = (eye: Eye, from: number): Promise<Frame> =>
    finishedFrame({ ...request, eye }, { ...inputs, run: partOf(inputs.run, from, from + 0.5) }, steps);
  return [await of(-1, 0), await of(1, 0.5)];
}

/** Distances of the scene as they are seen, metres: from where the camera stands. What effects put into the picture has none here. */
export async function seenDistance(request: ShotRequest, inputs: ChainInputs): Promise<Plane> {
  const now = resolved(request);
  if (!hasCamera(now.settings)) return distanceMap(now, inputs).value;
  const without = <S extends Settings>(settings: S): S => ({ ...settings, effects: [] });
  const bare = { ...now, settings: without(now.settings), ...(now.set && { set: without(now.set) }), eye: 0 as const };
  return (await finishedFrame(bare, inputs)).distance.value;
}

/** Nearness 0..1 as it is seen, on the map's own spacing: 1 at the near end. */
export async function seenNearness(request: ShotRequest, inputs: ChainInputs): Promise<Plane> {
  const now = resolved(request);
  const calibration = calibrationOf(now.settings.calibration);
  if (!hasCamera(now.settings)) {
    const raw = depthOf(now, inputs).raw.value;
    return { ...raw, data: raw.data.map((v) => nearnessOf(v, calibration)) };
  }
  const distance = await seenDistance(now, inputs);
  return { ...distance, data: distance.data.map(nearnessAlong(calibration)) };
}

/** Size of a finished picture: that of the output, but where two eyes stand beside or over each other. */
export const finishedSize = ({ camera }: Settings, size: Size): Size => (camera.stereo.on ? stereoSize(camera.stereo.shown, size) : size);

/** Size of a copy of the output that fits a box, never larger than the output. */
export function renderSize(framing: Size, box: Size): Size {
  const scale = Math.min(1, box.width / framing.width, box.height / framing.height);
  return { width: Math.max(1, Math.round(framing.width * scale)), height: Math.max(1, Math.round(framing.height * scale)) };
}

/** Refuses a rendering too large to hold in memory. */
export function checkRenderable(size: Size): void {
  if (size.width * size.height > 80e6)
    throw new OmbrageError(
      'output-too-large',
      `An output of ${size.width}x${size.height} px is too large to render.`,
      'Choose an output of at most 80 megapixels.',
    );
}
