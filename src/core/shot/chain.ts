import { OmbrageError } from '../error';
import type { Picture, Size } from '../raster/picture';
import { combineEyes, stereoSize } from '../camera/stereo';
import type { Eye } from '../camera/path';
import type { Settings } from '../document/schema';
import { partOf } from '../run';
import { composedFrame, type Frame, type Step } from './frame';
import { addressOf } from './key';
import { settingsAt } from './settingsAt';
import { remember, type ChainInputs, type ShotRequest, type Stage } from './stage';
import { steps as usualSteps } from './steps';

/** A request whose settings are those of its moment: what the parts of the chain work with. */
export const resolved = (request: ShotRequest): ShotRequest => {
  const settings = settingsAt(request.settings, request.at);
  return settings === request.settings ? request : { ...request, settings, set: request.set ?? request.settings };
};

/** The finished frame: the composed plate, led through every step. Throws Stopped where the run is. */
export async function finishedFrame(request: ShotRequest, inputs: ChainInputs, steps: readonly Step[] = usualSteps): Promise<Frame> {
  const now = resolved(request);
  let frame = composedFrame(now, inputs);
  for (const step of steps) frame = await step(frame, now, inputs);
  return frame;
}

/** The finished picture; with two eyes both of them, in the form that the settings say. */
export async function finishedPicture(request: ShotRequest, inputs: ChainInputs, steps?: readonly Step[]): Promise<Stage<Picture>> {
  const { stereo } = request.settings.camera;
  if (!stereo.on || request.eye !== undefined) return (await finishedFrame(request, inputs, steps)).picture;
  const [left, right] = await eyesOf(request, inputs, steps);
  const address = addressOf((of) => ['two eyes', of(left), of(right), stereo.shown]);
  return remember(inputs.cache, address, () => combineEyes(stereo.shown, left.value, right.value, inputs.run.shared));
}

/** What each eye sees, finished. */
export async function eyesOf(request: ShotRequest, inputs: ChainInputs, steps?: readonly Step[]): Promise<readonly [Stage<Picture>, Stage<Picture>]> {
  const of = async (eye: Eye, from: number): Promise<Stage<Picture>> =>
    (await finishedFrame({ ...request, eye }, { ...inputs, run: partOf(inputs.run, from, from + 0.5) }, steps)).picture;
  return [await of(-1, 0), await of(1, 0.5)];
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
