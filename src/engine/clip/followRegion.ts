import { regionOf, spansOf } from '../../core/depth/layers/shape/follow';
import { carryRegion, colourOdds } from '../../core/motion/follow';
import { linkFrames } from '../../core/motion/links';
import { motionView } from '../../core/motion/view';
import { glanceAt } from '../../media/clip';
import type { RegionSpec } from '../messages/clipJobs';
import type { ClipFootage, FrameStore } from './clipDepth';
import { countTo, viewsAlong } from './viewsAlong';

/** Carries a region to every frame of a range, from the nearest frame on which it was drawn, and keeps it; the share of it that was lost, by frame. Throws what `onProgress` throws. */
export async function followRegion(
  { of, series, drawings, from, to }: RegionSpec,
  clip: ClipFootage['clip'],
  store: Pick<FrameStore, 'keepFrame'>,
  onProgress: (share: number) => void,
): Promise<readonly number[]> {
  const lost = new Array<number>(to - from + 1).fill(0);
  let done = 0;
  const step = (): void => onProgress(++done / (to - from + 1 + 2 * drawings.length));
  for (const span of spansOf(drawings, from, to)) {
    const { frame } = span.drawing;
    step();
    const first = await glanceAt(clip, Math.min(to, Math.max(from, frame)), (raster) => motionView(raster));
    const drawn = regionOf(span.drawing, first, of);
    const odds = colourOdds(first, drawn);
    if (frame >= from && frame <= to) await store.keepFrame(series, frame, drawn);
    for (const way of [1, -1] as const) {
      let view = first;
      let region = drawn;
      const others = countTo(frame + way, way > 0 ? Math.min(to, span.to) : Math.max(from, span.from), way);
      for await (const { at, view: here } of viewsAlong(clip, others)) {
        step();
        const f = others[at]!;
        const { back } = linkFrames(view.luma, here.luma);
        const carried = carryRegion(region, here, back, odds);
        region = carried.region;
        view = here;
        lost[f - from] = carried.lost;
        await store.keepFrame(series, f, region);
      }
    }
  }
  return lost;
}
