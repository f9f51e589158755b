import { downFrom, networkOf, QUICKEST, type EstimateBy } from '../../../core/need/estimators';
import { levelled } from '../../../formats/maps/packedPlane';
import { addressOfFile, needKey, waysOf, type EstimateNeed } from '../../../core/need/need';
import { takeAhead } from '../ahead';
import type { Loader, Loading, Work } from './definition';

/** Depth estimated from the plate: what was kept, or a draft to look at first and then the careful one. */
export const loadEstimate: Loader<EstimateNeed> = async (need, loading) => {
  if (need.of.clip) return loadFrameEstimate(need, loading);
  const kept = await loading.sources.kept(needKey(need));
  if (!loading.wanted()) return;
  if (kept) {
    loading.hold('map', needKey(need), kept);
    loading.given(needKey(need));
    return;
  }
  // what is quicker is looked at first
  for (const quality of [...downFrom(need.quality)].reverse()) if (!(await runEstimate({ ...need, quality }, loading))) return;
};

/** Depth of a frame of a clip: made steady where that has been done, or else as estimated, or a draft; one that has none gets a draft, then the careful one. */
async function loadFrameEstimate(need: EstimateNeed, loading: Loading): Promise<void> {
  const ways = waysOf(need);
  const wanted: EstimateNeed = { ...need, steady: undefined };
  for (const way of ways) {
    const kept = await loading.sources.kept(needKey(way), way);
    if (!loading.wanted()) return;
    if (!kept) continue;
    loading.hold('map', needKey(way), kept);
    loading.given(needKey(way));
    if (way.quality !== need.quality) await runEstimate(wanted, loading);
    return;
  }
  const draft = ways[ways.length - 1]!;
  if ((await runEstimate(draft, loading)) && draft.quality !== need.quality) await runEstimate(wanted, loading);
}

function workOf(by: EstimateBy): Work {
  const network = networkOf(by);
  return {
    doing: network ? `Asking ${network.name}` : `Estimating depth, ${by.quality}`,
    stopped: network ? `${network.name} was stopped.` : `The ${by.quality} estimate was stopped.`,
    hint: 'Choose “Estimate again” in Depth to run it.',
  };
}

/** Makes an estimate, whatever has been kept. Whether it is there. */
export async function runEstimate(need: EstimateNeed, { engine, sources, wanted, hold, given, without, watch }: Loading): Promise<boolean> {
  const { of, quality } = need;
  const plane = await watch(workOf(need), (report) => {
    const ahead = quality === QUICKEST && need.frame === 0 ? takeAhead(addressOfFile(of), report) : null;
    return ahead ?? engine.estimate({ is: 'raster', ref: of, frame: need.frame }, need, report);
  });
  if (!wanted()) return false;
  if (!plane) {
    without('stopped');
    return false;
  }
  const key = needKey(need);
  // what is shown is what is kept: maps of clips are kept in levels
  const shown = of.clip ? levelled(plane) : plane;
  hold('map', key, shown);
  await sources.keep(key, shown, need);
  if (!wanted()) return false;
  given(key);
  return true;
}
