import { regionOf, spansOf } from '../../core/depth/layers/shape/follow';
import { carryRegion, colourOdds } from '../../core/motion/follow';
import { linkFrames } from '../../core/motion/links';
import { motionView } from '../../core/motion/view';
import { coverageAt, coverageOf, personsIn, personsWithin } from '../../core/estimate/people/chosen';
import type { Person } from '../../core/estimate/people/person';
import type { Plane, Size } from '../../core/picture';
import { samplePlaneLinear, stretch } from '../../core/raster/resample';
import { glanceAt } from '../../media/clip';
import type { RegionSpec } from '../messages/clipJobs';
import type { ClipFootage, FrameStore } from './clipDepth';
import { countTo, viewsAlong } from './viewsAlong';

/** Persons that are followed are looked for again every so many frames. */
const LOOKED_AT_EVERY = 4;
/** What is found again takes the place of what was carried where it is so much larger or smaller at the most. */
const AT_MOST = 2;

const areaOf = ({ data }: Plane): number => data.reduce((sum, v) => sum + v, 0);

/** What is told by the persons on a frame of a clip, of the size of a view of it. */
async function personsAt(clip: ClipFootage['clip'], frame: number, size: Size, tell: (people: readonly Person[]) => Plane): Promise<Plane> {
  const raster = await clip.frame(frame);
  return fitted(tell(personsIn(raster)!), size);
}

/** Those who lie within a region, where there are any of about its size; or else the region. */
function foundAgain(people: readonly Person[], region: Plane): Plane {
  const within = personsWithin(people, region);
  const [first] = within;
  if (!first) return region;
  const found = coverageOf(within, first.mask);
  const ratio = areaOf(found) / found.data.length / Math.max(1e-6, areaOf(region) / region.data.length);
  return ratio > 1 / AT_MOST && ratio < AT_MOST ? fitted(found, region) : region;
}

const fitted = (plane: Plane, { width, height }: Size): Plane =>
  plane.width === width && plane.height === height ? plane : samplePlaneLinear(plane, stretch(plane, width, height), width, height);

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
    const { drawing } = span;
    const seen = Math.min(to, Math.max(from, frame));
    const first = await glanceAt(clip, seen, (raster) => motionView(raster));
    const drawn =
      'shapes' in drawing ? regionOf(drawing, first, of) : await personsAt(clip, seen, first, (people) => coverageAt(people, drawing.clicked, first));
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
        // persons are known again: what drifted away from them comes back
        if ('clicked' in drawing && (at + 1) % LOOKED_AT_EVERY === 0) {
          region = await personsAt(clip, f, here, (people) => foundAgain(people, carried.region));
          if (region !== carried.region) lost[f - from] = 0;
        }
        await store.keepFrame(series, f, region);
      }
    }
  }
  return lost;
}
