import { layPlate } from '../camera/behind';
import type { LayeredPlate, PathExtent } from '../camera/layered';
import type { PlateLens } from '../camera/pose';
import { gainOf } from '../camera/view';
import { LEAST_PAD } from '../camera/viewKernel';
import { OmbrageError } from '../error';
import { hfovOf } from '../document/framing';
import { posesOf } from '../path/path';
import { partOf } from '../run';
import { cameraLens } from './cameraStep';
import { composedFrame } from './frame';
import { resolved } from './chain';
import { sized, stepOf } from './stepOf';
import type { ChainInputs, ShotRequest } from './stage';
import { steps } from './steps';
import { firmed, surveyed } from './survey';

/** Parallax between the nearest and the farthest thing that a scene is made ready for where no move asks for more, share of the width. */
export const USUAL_PARALLAX = 0.06;

/** A shot's scene taken apart, for what lies outside the frame: meshes, pages, the picture in space. */
export interface LaidScene {
  readonly plate: LayeredPlate;
  readonly lens: PlateLens;
  /** px of parallax for each 1/m that it is made ready for */
  readonly gain: number;
}

/**
 * The scene of a shot at its moment, from where its plate was taken: `effects` says what its picture has been through: what lies on surfaces, or all but
 * moves. `parallax`: share of the width by which the nearest passes the farthest at the most; more where the shot's own moves go farther.
 */
export async function laidScene(
  asked: ShotRequest,
  inputs: ChainInputs,
  { effects, parallax = USUAL_PARALLAX }: { effects: 'surface' | 'all'; parallax?: number },
): Promise<LaidScene> {
  const request = resolved(asked);
  const { settings } = request;
  if (!settings.layers.some((l) => l.visible))
    throw new OmbrageError('no-depth', 'This shot has no depth yet.', 'Add a layer in Depth, or switch one on.');
  let frame = composedFrame(request, inputs);
  const [surface, , ...rest] = steps;
  for (const step of [surface!, ...(effects === 'all' ? rest : [])]) frame = await step(frame, request, inputs);
  const lens = cameraLens(request);
  const { ends } = surveyed(request, inputs).value;
  const usual = (parallax * lens.width) / Math.max(1e-6, ends[1] - ends[0]);
  const gain = posesOf(request.set ?? settings, hfovOf(lens.width, lens.focalPx)).reduce(
    (most, pose) => Math.max(most, gainOf(lens, { pose, enlarged: 1 })),
    usual,
  );
  const distance = firmed(composedFrame(request, inputs).distance, composedFrame(request, inputs).plate, settings.camera.firm, inputs);
  const extent: PathExtent = { gain, pad: LEAST_PAD, border: 'mirrored', hidden: true };
  const part = partOf(inputs.run, 0.1, 0.4);
  const laid = stepOf(inputs.cache, 'laid scene', { picture: frame.picture, distance, extent: sized(extent) }, (read) =>
    layPlate(read.picture, read.distance, read.extent, null, false, (share) => part.checkpoint(share)),
  );
  return { plate: laid.value, lens, gain };
}
