import { AT_PLATE } from '../camera/pose';
import type { Seen } from '../camera/view';
import type { RenderLens } from '../effects/definition';
import { focalLengthOfHfov } from '../optics';
import type { Picture, Plane } from '../picture';
import { outputFocalPx } from '../document/framing';
import { composedPlate, distanceMap } from './depthChain';
import { layerRegion } from './placing';
import { framedPlate, type ChainInputs, type ShotRequest, type Stage } from './stage';

/**
 * The state of a shot between two steps: what is seen, how far it is, by which lens; the same size throughout. Each part is a stage of its
 * own, so that a step which leaves one alone leaves its address alone. Distance and plate are made when they are first asked for.
 */
export interface Frame {
  readonly picture: Stage<Picture>;
  readonly distance: Stage<Plane>;
  readonly lens: Stage<RenderLens>;
  /** where the camera stands */
  readonly camera: Stage<Seen>;
  /** the framed plate before all effects, moved as the picture was */
  readonly plate: Stage<Picture>;
  /** 1 where what is seen was hidden in the plate; null where the camera has not moved */
  readonly uncovered: Stage<{ readonly data: Uint8Array }> | null;
  /** what a layer covers, 0..1, moved as the picture was */
  region(layer: string): Stage<Plane>;
}

/** One step of the chain. The identity where it has nothing to do. */
export type Step = (from: Frame, request: ShotRequest, inputs: ChainInputs) => Promise<Frame>;

/** A frame with some of its parts replaced; parts are still made only when they are asked for. */
export function withParts(
  frame: Frame,
  parts: {
    readonly picture?: () => Stage<Picture>;
    readonly distance?: () => Stage<Plane>;
    readonly lens?: () => Stage<RenderLens>;
    readonly camera?: () => Stage<Seen>;
    readonly plate?: () => Stage<Picture>;
    readonly uncovered?: () => Frame['uncovered'];
    readonly region?: Frame['region'];
  },
): Frame {
  return lazily({
    picture: parts.picture ?? (() => frame.picture),
    distance: parts.distance ?? (() => frame.distance),
    lens: parts.lens ?? (() => frame.lens),
    camera: parts.camera ?? (() => frame.camera),
    plate: parts.plate ?? (() => frame.plate),
    uncovered: parts.uncovered ?? (() => frame.uncovered),
    region: parts.region ?? ((layer) => frame.region(layer)),
  });
}

type Parts = Omit<Frame, 'region'>;

function lazily(parts: { [K in keyof Parts]: () => Parts[K] } & Pick<Frame, 'region'>): Frame {
  const made: { -readonly [K in keyof Parts]?: Parts[K] } = {};
  return {
    region: (layer) => parts.region(layer),
    get picture() {
      return (made.picture ??= parts.picture());
    },
    get distance() {
      return (made.distance ??= parts.distance());
    },
    get lens() {
      return (made.lens ??= parts.lens());
    },
    get camera() {
      return (made.camera ??= parts.camera());
    },
    get plate() {
      return (made.plate ??= parts.plate());
    },
    get uncovered() {
      return (made.uncovered ??= parts.uncovered());
    },
  };
}

/** The lens of the plate at the size rendered. */
export function renderLens({ plate, settings, size }: Pick<ShotRequest, 'plate' | 'settings' | 'size'>): RenderLens {
  const { framing, hfovDegrees } = settings;
  return {
    focalPx: (outputFocalPx(plate, framing, hfovDegrees) * size.width) / framing.width,
    focalLength: focalLengthOfHfov(hfovDegrees),
  };
}

const STILL: Stage<Seen> = { fingerprint: 'still', key: 'still', value: { pose: AT_PLATE, enlarged: 1 } };

/** What a shot is before its first effect: the plate with what layers stage over it, and the distances that Depth gives. */
export function composedFrame(request: ShotRequest, inputs: ChainInputs): Frame {
  return lazily({
    picture: () => composedPlate(request, inputs),
    distance: () => distanceMap(request, inputs),
    lens: () => {
      const value = renderLens(request);
      // lengths in px of the rendering are part of its size
      return {
        fingerprint: JSON.stringify(['lens', request.settings.hfovDegrees]),
        key: JSON.stringify(['lens', value.focalPx, value.focalLength]),
        value,
      };
    },
    camera: () => STILL,
    plate: () => framedPlate(request, inputs),
    uncovered: () => null,
    region: (layer) => layerRegion(request, inputs, framedPlate(request, inputs), layer),
  });
}
