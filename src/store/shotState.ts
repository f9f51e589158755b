import { downFrom, QUICKEST, type Quality } from '../core/need/estimators';
import type { Shot } from '../core/document/schema';
import { estimateLayer } from '../core/depth/layers/estimate';
import { needKey } from '../core/need/need';
import { clipDepthSpec } from '../core/shot/clipLayer';
import { layerMapNeed, seenLayers } from '../core/shot/needs';
import { framesDone, isFound, stateOf } from '../media/clipDepthState';
import type { Database } from './database';
import { readNote } from './shotNotes';

/** How far a shot has come, in a few words, for the shelf; what is as usual is not said. */
export async function shotState(db: Database, shot: Shot): Promise<readonly string[]> {
  const said: string[] = [];
  const { plate, settings } = shot;
  const seen = seenLayers(settings.layers);
  const specs = seen.flatMap((layer) => clipDepthSpec(plate, layer) ?? []).filter(isFound);
  if (specs.length > 0) {
    const found = await Promise.all(specs.map(async (spec) => ({ all: spec.to - spec.from + 1, there: framesDone(spec, await stateOf(spec)) })));
    if (found.every(({ all, there }) => there >= all)) said.push('depth found');
    else if (found.some(({ there }) => there > 0)) {
      const { all, there } = found.find((f) => f.there < f.all)!;
      said.push(`depth of ${there} in ${all} frames`);
    }
  } else if (!plate.clip) {
    const need = seen.filter((l) => l.kind === estimateLayer.kind).map((l) => layerMapNeed(l, plate))[0];
    if (need?.is === 'estimate') {
      const has = async (quality: Quality): Promise<boolean> =>
        (await db.maps
          .where('key')
          .equals(needKey({ ...need, quality }))
          .count()) > 0;
      const better = downFrom(need.quality).filter((quality) => quality !== QUICKEST);
      if (!(await Promise.all(better.map(has))).some(Boolean) && (await has(QUICKEST))) said.push('draft depth');
    }
  }
  if (readNote('made', shot.id) !== null) said.push('exported');
  return said;
}
