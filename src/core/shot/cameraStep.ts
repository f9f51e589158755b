import { colourPlate, layPlate } from '../camera/behind';
import type { Backdrop, LayeredPlate, PathExtent } from '../camera/layered';
import { hasCamera, ofEye, poseAt, posesOf } from '../path/path';
import type { PlateLens } from '../camera/pose';
import { takeApart, type PlateShape } from '../camera/plateShape';
import { overscanFor } from '../camera/relief';
import { isPlate, extentOf, viewFrom, type Seen } from '../camera/view';
import { LEAST_PAD, viewKernel } from '../camera/viewKernel';
import { newPicture, newPlane, type Picture, type Plane } from '../picture';
import { invertAffine, applyAffine, sampleRaster } from '../raster/resample';
import { partOf } from '../run';
import { needKey, pictureNeed } from '../need/need';
import { composedFrame, renderLens, withParts, type Frame, type Step } from './frame';
import { hfovOf } from '../document/framing';
import { addressOf, type Address } from '../key';
import { sized, stepOf } from './stepOf';
import { affineOf, rasterAffine, type ChainInputs, type Kept, type ShotRequest, type Stage } from './stage';
import { firmed, surveyed, withoutPaint } from './survey';

/** The lens of the output as moves see it, at a size: its axis is the plate's middle, wherever the framing puts that. */
export function cameraLens(request: Pick<ShotRequest, 'plate' | 'settings' | 'size'>): PlateLens {
  const { plate, size } = request;
  const axis = applyAffine(invertAffine(affineOf(request)), plate.width / 2, plate.height / 2);
  return { width: size.width, height: size.height, focalPx: renderLens(request).focalPx, axisX: axis.x, axisY: axis.y };
}

/** How the camera of a shot sees at a moment: its pose, and how much is cut off for the whole path. */
export interface CameraView {
  readonly lens: PlateLens;
  readonly seen: Seen;
  /** all that the path sees, for making the plate ready once */
  readonly all: readonly Seen[];
}

/** Everything that a shot's camera does at a moment; null where it stands where the plate was taken, throughout. */
export function cameraView(request: ShotRequest, inputs: ChainInputs): CameraView | null {
  const { settings, at, eye = 0 } = request;
  if (!hasCamera(settings)) return null;
  const lens = cameraLens(request);
  const hfov = hfovOf(lens.width, lens.focalPx);
  const path = posesOf(settings, hfov);
  const enlarged = settings.camera.border === 'overscan' ? overscanFor(lens, path, surveyed(request, inputs).value) : 1;
  const pose = ofEye(poseAt(settings, hfov, at), settings.camera, eye);
  return { lens, seen: { pose, enlarged }, all: path.map((p) => ({ pose: p, enlarged })) };
}

/** What was seen from where the camera stands, kept as one. */
interface Moved extends Kept {
  readonly picture: Picture;
  readonly distance: Plane;
  readonly uncovered: Uint8Array;
}

const besides = (address: Address, what: string): Address => ({ fingerprint: `${address.fingerprint}:${what}`, key: `${address.key}:${what}` });

/** The camera's moves: what is seen, how far it is and the lens, from where the camera stands now. `surface` are the steps before it. */
export const cameraStep =
  (surface: Step): Step =>
  async (plain, request, inputs) => {
    const view = cameraView(request, inputs);
    if (!view || isPlate(view.seen)) return plain;
    const from = withParts(plain, { distance: () => firmed(plain.distance, plain.plate, request.settings.camera.firm, inputs) });
    const { lens, seen } = view;
    const cubic = inputs.quick !== true;
    const { cache } = inputs;
    const laid = await laidPlate(from, extentFor(lens, view.all, request, inputs), request, inputs, surface);
    const address = addressOf((of) => ['view', of(laid), seen, of({ fingerprint: null, key: [cubic, lens] })]);
    let moved = cache.get<Moved>(address.key);
    if (!moved) {
      const made = await viewFrom(partOf(inputs.run, 0.3, 0.6), laid.value, lens, seen, cubic);
      moved = { ...made, data: { byteLength: made.picture.data.byteLength + made.distance.data.byteLength + made.uncovered.byteLength } };
      cache.set(address.key, moved);
    }
    const { picture, distance, uncovered } = moved;
    const zoom = seen.pose.zoom * seen.enlarged;
    return withParts(from, {
      picture: () => ({ ...address, value: picture }),
      distance: () => ({ ...besides(address, 'distance'), value: distance }),
      lens: () => {
        const { fingerprint, key, value } = from.lens;
        return {
          fingerprint: `${fingerprint}×${zoom}`,
          key: `${key}×${zoom}`,
          value: { focalPx: value.focalPx * zoom, focalLength: value.focalLength * zoom },
        };
      },
      camera: () => {
        const name = JSON.stringify(seen);
        return { fingerprint: name, key: name, value: seen };
      },
      plate: () => movedPlate(from, view, request, inputs, { ...address, value: picture }),
      uncovered: () => ({ ...besides(address, 'uncovered'), value: { data: uncovered } }),
      region: (layer) => movedRegion(from, from.region(layer), view, request, inputs),
    });
  };

/** The plate as it was before effects, moved alike; the moved picture itself where no effect came before. */
function movedPlate(from: Frame, view: CameraView, request: ShotRequest, inputs: ChainInputs, moved: Stage<Picture>): Stage<Picture> {
  if (from.plate.key === from.picture.key) return moved;
  return movedAlike(from, from.plate, view, request, inputs);
}

/** Another picture of what the frame shows, moved as that is. */
function movedAlike(from: Frame, picture: Stage<Picture>, { lens, seen }: CameraView, request: ShotRequest, inputs: ChainInputs): Stage<Picture> {
  const extent = extentFor(lens, [seen], request, inputs);
  const look = (): void => inputs.run.checkpoint(0.6);
  const reads = { picture, shape: plateShape(from.distance, extent, inputs, look), seen, border: extent.border, lens: sized(lens) };
  return stepOf(inputs.cache, 'plate view', reads, (read) => {
    const plate = colourPlate(read.shape, { picture: read.picture, border: read.border }, false, look);
    const { width, height } = read.lens;
    const out = newPicture(width, height, inputs.run.shared);
    const distance = newPlane(width, height).data;
    viewKernel.make({ plate, lens: read.lens, ...read.seen, cubic: false, distance }, 0, height, out.data, look);
    return out;
  });
}

/** What a layer covers, moved as the picture is: as a grey picture, whose roots are what is placed between pixels. */
function movedRegion(from: Frame, region: Stage<Plane>, view: CameraView, request: ShotRequest, inputs: ChainInputs): Stage<Plane> {
  const grey = (): Picture => {
    const { width, height, data } = region.value;
    const out = newPicture(width, height);
    for (let i = 0; i < data.length; i++) out.data.fill(data[i]! ** 2, i * 4, i * 4 + 3).fill(1, i * 4 + 3, i * 4 + 4);
    return out;
  };
  const moved = movedAlike(
    from,
    {
      ...besides(region, 'grey'),
      get value() {
        return grey();
      },
    },
    view,
    request,
    inputs,
  );
  return stepOf(inputs.cache, 'cover', { moved }, ({ moved: { width, height, data } }) => {
    return { width, height, data: Float32Array.from({ length: width * height }, (_, i) => Math.sqrt(Math.min(1, Math.max(0, data[i * 4]!)))) };
  });
}

/** Nothing moves: what lies behind edges is shown as far as moves that stay clean look. */
function stillReach(request: ShotRequest, lens: PlateLens, inputs: ChainInputs): PathExtent {
  const [least, most] = surveyed(request, inputs).value.ends;
  const px = (request.settings.camera.clean / 100) * lens.width;
  return { gain: px / Math.max(1e-9, most - least), pad: LEAST_PAD, border: 'mirrored', hidden: true };
}

/** The plate with what its edges hide laid over them, and which pixels those are: what the camera's moves look at. */
export async function behindEdges(
  from: Frame,
  request: ShotRequest,
  inputs: ChainInputs,
): Promise<{ readonly picture: Picture; readonly filled: Uint8Array }> {
  const view = cameraView(request, inputs);
  const { width, height } = request.size;
  const plate = view
    ? (await laidPlate(from, extentFor(view.lens, view.all, request, inputs), request, inputs, (frame) => Promise.resolve(frame))).value
    : layPlate(from.picture.value, from.distance.value, stillReach(request, cameraLens(request), inputs), ownBackdrop(request, inputs));
  const picture = newPicture(width, height);
  const filled = new Uint8Array(width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = (y + plate.pad) * plate.width + x + plate.pad;
      const k = plate.hiddenAt[i]!;
      const [colour, at] = k >= 0 ? [plate.hidden.colour, k * 4] : [plate.colour, i * 4];
      const o = y * width + x;
      filled[o] = k >= 0 ? 1 : 0;
      for (let c = 0; c < 4; c++) picture.data[o * 4 + c] = colour[at + c]! ** 2;
    }
  return { picture, filled };
}

/** What the plate of a shot must be made ready for, so that some views of it can be made. */
function extentFor(lens: PlateLens, views: readonly Seen[], request: ShotRequest, inputs: ChainInputs): PathExtent {
  const { border, hidden } = request.settings.camera;
  const ends = surveyed(request, inputs).value.sides.flat();
  return extentOf(lens, views, ends, border === 'smooth' ? 'smooth' : 'mirrored', hidden);
}

/** The plate's distances taken apart, whatever its colours. */
function plateShape(
  distance: Stage<Plane>,
  { border: _, ...extent }: PathExtent,
  inputs: ChainInputs,
  look: (share: number) => void,
): Stage<PlateShape> {
  const reads = { distance, hidden: extent.hidden, extent: sized(extent) };
  return stepOf(inputs.cache, 'plate apart', reads, (read) => takeApart(read.distance, read.extent, inputs.run.shared, look));
}

/**
 * The plate taken apart, once for all frames that show the same: what lies behind its edges is the picture that was given for that, or the scene without what
 * stands in it by itself, or what is beside them. `through`: the steps that `frame` has been through.
 */
export async function laidPlate(
  { picture, distance }: Pick<Frame, 'picture' | 'distance'>,
  extent: PathExtent,
  request: ShotRequest,
  inputs: ChainInputs,
  through: Step,
): Promise<Stage<LayeredPlate>> {
  const { border, hidden } = extent;
  const bare = hidden ? withoutPaint(request.settings) : null;
  const behind = bare && (await through(composedFrame({ ...request, settings: bare }, inputs), { ...request, settings: bare }, inputs));
  const backdropAt = hidden ? request.settings.camera.backdrop && pictureNeed(request.settings.camera.backdrop, request.at) : null;
  const part = partOf(inputs.run, 0, 0.3);
  const reads = {
    picture,
    shape: plateShape(distance, extent, inputs, (share) => part.checkpoint(0.6 * share)),
    border,
    // one that has not come yet is left out
    backdrop: backdropAt && inputs.held.raster(backdropAt) ? needKey(backdropAt) : null,
    behindPicture: behind && behind.picture,
    behindDistance: behind && behind.distance,
  };
  return stepOf(inputs.cache, 'layers', reads, (read) => {
    const own =
      read.behindPicture && read.behindDistance
        ? { picture: read.behindPicture, distance: read.behindDistance }
        : read.backdrop === null
          ? null
          : ownBackdrop(request, inputs);
    const colouring = { picture: read.picture, border: read.border, backdrop: own };
    return colourPlate(read.shape, colouring, inputs.run.shared, (share) => part.checkpoint(0.6 + 0.4 * share));
  });
}

/** A picture of what lies behind, in the plate's framing; null where none was given, or it has not come yet. */
function ownBackdrop(request: ShotRequest, { held }: ChainInputs): Backdrop | null {
  const { backdrop } = request.settings.camera;
  const raster = backdrop && held.raster(pictureNeed(backdrop, request.at));
  if (!raster) return null;
  const { width, height } = request.size;
  return { picture: sampleRaster(raster, rasterAffine(request, raster), width, height) };
}
