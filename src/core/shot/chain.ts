import { OmbrageError } from '../error';
import type { Picture, Size } from '../raster/picture';
import { composedFrame, type Frame } from './frame';
import { settingsAt } from './settingsAt';
import type { ChainInputs, ShotRequest, Stage } from './stage';
import { steps as usualSteps, type Step } from './steps';

/** A request whose settings are those of its moment: what the parts of the chain work with. */
export const resolved = (request: ShotRequest): ShotRequest => {
  const settings = settingsAt(request.settings, request.at);
  return settings === request.settings ? request : { ...request, settings };
};

/** The finished frame: the composed plate, led through every step. Throws Stopped where the run is. */
export async function finishedFrame(request: ShotRequest, inputs: ChainInputs, steps: readonly Step[] = usualSteps): Promise<Frame> {
  const now = resolved(request);
  let frame = composedFrame(now, inputs);
  for (const step of steps) frame = await step(frame, now, inputs);
  return frame;
}

/** The finished picture. */
export const finishedPicture = async (request: ShotRequest, inputs: ChainInputs, steps?: readonly Step[]): Promise<Stage<Picture>> =>
  (await finishedFrame(request, inputs, steps)).picture;

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
