import { trackPoint, type Point } from '../../core/motion/track';
import { motionView } from '../../core/motion/view';
import { pictureNeed } from '../../core/need/need';
import { quantile } from '../../core/raster/filters';
import { applyAffine, fitLongSide, invertAffine } from '../../core/raster/resample';
import { distanceMap } from '../../core/shot/depthChain';
import { resolved } from '../../core/shot/chain';
import { affineOf, type ChainInputs, type ShotRequest } from '../../core/shot/stage';
import { glanceAt, type ClipReader } from '../../media/clip';
import { withFrames } from '../held/clipFrames';
import type { FollowedPoint } from '../messages/clipJobs';
import { countTo, viewsAlong } from './viewsAlong';

/** Distances are read at such a size, long side px, in the middle of so many px around. */
const READ_SIDE = 480;
const AROUND = 3;

/**
 * Follows a point of a clip, shares of the plate, from a frame to both ends of a range, or until it is lost; reads the distance there at each
 * frame. Throws what `onProgress` throws.
 */
export async function followPoint(
  shot: ShotRequest,
  clip: ClipReader,
  inputs: ChainInputs,
  start: Point,
  { from, to }: { readonly from: number; readonly to: number },
  onProgress: (share: number) => void,
): Promise<readonly FollowedPoint[]> {
  const at = (frame: number): ShotRequest => ({ ...shot, at: { ...shot.at, frame }, size: fitLongSide(shot.settings.framing, READ_SIDE) });
  const inClip = (frame: number): number => pictureNeed(shot.plate, at(frame).at).frame;
  const total = to - from + 1;
  let done = 0;
  const read = async (frame: number, point: Point): Promise<FollowedPoint> => {
    onProgress(++done / total);
    return { frame, ...point, distance: await distanceAt(at(frame), inputs, point) };
  };
  const first = Math.min(to, Math.max(from, Math.round(shot.at.frame)));
  const out: FollowedPoint[] = [await read(first, start)];
  const begin = await glanceAt(clip, inClip(first), (raster) => motionView(raster));
  for (const step of [1, -1] as const) {
    let view = begin;
    let point: Point | null = start;
    const others = countTo(first + step, step > 0 ? to : from, step);
    for await (const { at: k, view: next } of viewsAlong(clip, others.map(inClip))) {
      const frame = others[k]!;
      const { width, height } = view;
      const moved = trackPoint(view.luma, next.luma, { x: point.x * width - 0.5, y: point.y * height - 0.5 });
      point = moved && { x: (moved.x + 0.5) / width, y: (moved.y + 0.5) / height };
      if (!point) break;
      const found = await read(frame, point);
      if (step > 0) out.push(found);
      else out.unshift(found);
      view = next;
    }
  }
  return out;
}

/** How far it is at a place of the plate: the middle of what is around it. */
async function distanceAt(request: ShotRequest, inputs: ChainInputs, { x, y }: Point): Promise<number> {
  const { width, height, data } = await withFrames(() => distanceMap(resolved(request), inputs).value);
  const seen = applyAffine(invertAffine(affineOf(request)), x * request.plate.width - 0.5, y * request.plate.height - 0.5);
  const around: number[] = [];
  for (let v = Math.round(seen.y) - AROUND; v <= Math.round(seen.y) + AROUND; v++)
    for (let u = Math.round(seen.x) - AROUND; u <= Math.round(seen.x) + AROUND; u++)
      if (u >= 0 && v >= 0 && u < width && v < height) around.push(data[v * width + u]!);
  return around.length > 0 ? quantile({ width: around.length, height: 1, data: Float32Array.from(around) }, 0.5) : Infinity;
}
