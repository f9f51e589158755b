import type { LayeredPlate, PathExtent } from '../camera/layered';
import type { PlateLens } from '../camera/pose';
import { gainOf } from '../camera/view';
import { LEAST_PAD } from '../camera/viewKernel';
import { hfovOf } from '../document/framing';
import { standing } from '../document/standing';
import { OmbrageError } from '../error';
import { gainFor, spreadOf } from '../mesh/spread';
import { posesOf } from '../path/path';
import { cameraLens, laidPlate } from './cameraStep';
import { resolved } from './chain';
import { composedFrame, withParts, type Step } from './frame';
import type { ChainInputs, ShotRequest } from './stage';
import { steps } from './steps';
import { firmed } from './survey';

/** Parallax between the nearest and the farthest thing that a scene is made ready for where no move asks for more, share of the width. */
export const USUAL_PARALLAX = 0.06;

/** A shot's scene taken apart, for what lies outside the frame: meshes, pages, the picture in space. */
export interface LaidScene {
  readonly plate: LayeredPlate;
  readonly lens: PlateLens;
  /** px of parallax for each 1/m that it is made ready for */
  readonly gain: number;
}

/** What a scene is taken apart for. */
interface SceneChoice {
  /** what its picture has been through: what lies on surfaces, or all but moves */
  readonly effects: 'surface' | 'all';
  /** share of the width by which the nearest passes the farthest at the most; more where the shot's own moves go farther */
  readonly parallax?: number;
  /** px of parallax for each 1/m, where it is known; then neither of the others is asked */
  readonly gain?: number;
  /** whether what lies behind is made up as well: usually */
  readonly hidden?: boolean;
}

/** The scene of a shot at its moment, from where its plate was taken. Throws OmbrageError where it has no depth. */
export async function laidScene(
  asked: ShotRequest,
  inputs: ChainInputs,
  { effects, parallax = USUAL_PARALLAX, gain, hidden = true }: SceneChoice,
): Promise<LaidScene> {
  const now = resolved(asked);
  const { camera, layers } = now.settings;
  if (!layers.some((l) => l.visible)) throw new OmbrageError('no-depth', 'This shot has no depth yet.', 'Add a layer in Depth, or switch one on.');
  // pictures of earlier frames, which some effects look at, are seen from there too
  const request: ShotRequest = { ...now, settings: standing(now.settings), ...(now.set && { set: standing(now.set) }) };
  const [surface, , ...rest] = steps;
  const through: Step = async (from, of, with_) => {
    const lit = await surface!(from, of, with_);
    let frame = withParts(lit, { distance: () => firmed(lit.distance, lit.plate, camera.firm, with_) });
    for (const step of effects === 'all' ? rest : []) frame = await step(frame, of, with_);
    return frame;
  };
  const frame = await through(composedFrame(request, inputs), request, inputs);
  const lens = cameraLens(request);
  const readyFor = (): number => {
    const { data } = frame.distance.value;
    const usual = gainFor(
      parallax,
      lens.width,
      spreadOf(data.length, (i) => 1 / Math.max(1e-3, data[i]!)),
    );
    const path = posesOf(now.set ?? now.settings, hfovOf(lens.width, lens.focalPx));
    return path.reduce((most, pose) => Math.max(most, gainOf(lens, { pose, enlarged: 1 })), usual);
  };
  const extent: PathExtent = { gain: gain ?? readyFor(), pad: LEAST_PAD, border: 'mirrored', hidden };
  return { plate: (await laidPlate(frame, extent, request, inputs, through)).value, lens, gain: extent.gain };
}
