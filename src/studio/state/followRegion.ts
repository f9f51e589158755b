import { drawingsOf, followSeries } from '../../core/depth/layers/shape/follow';
import type { ShapesContent } from '../../core/depth/layers/shape/content';
import { personsDrawings, personsSeries, type PersonsContent } from '../../core/depth/layers/persons/content';
import type { RegionSpec } from '../../engine/messages/clipJobs';
import type { Shot } from '../../core/document/schema';
import { addressOfFile } from '../../core/need/need';
import { engine } from '../../engine/pool/engine';
import { keepReport, keptFrames, keptReport } from '../../media/clipStore';
import { notify } from '../notices/noticeStore';
import { framesAreOthers } from './clipDepth';
import { clipJob } from './clipJob';

/** What there is of a region that follows: on how many frames it is, and what share of it was lost, by frame. */
export interface RegionState {
  readonly frames: number;
  readonly lost: readonly (number | null)[];
}

export async function regionState(series: string): Promise<RegionState> {
  const [frames, report] = await Promise.all([keptFrames(series), keptReport(series)]);
  return { frames: frames.length, lost: report?.after ?? [] };
}

/** Carries the shapes of a layer through the clip, from each frame on which they were drawn. */
export const carryShapes = ({ plate }: Shot, content: ShapesContent): Promise<void> =>
  carry(plate, followSeries(addressOfFile(plate), content), drawingsOf(content));

/** Carries persons through the clip, from each frame on which they were clicked. */
export const carryPersons = ({ plate }: Shot, content: PersonsContent): Promise<void> =>
  carry(plate, personsSeries(addressOfFile(plate), content), personsDrawings(content));

async function carry(plate: Shot['plate'], series: string | null, drawings: RegionSpec['drawings']): Promise<void> {
  const { sha256, name, width, height, clip } = plate;
  if (!clip || series === null) return;
  const spec = { of: { sha256, name, width, height, clip }, series, drawings, from: 0, to: clip.frames - 1 };
  await clipJob('Following a region', async ({ run, report }) => {
    const lost = await run(engine().followRegion(spec, report));
    if (!lost) return;
    await keepReport({ of: series, cuts: [], from: 0, before: [], after: lost });
    const worst = lost.indexOf(Math.max(...lost));
    notify({
      kind: 'note',
      text: `The region follows through ${lost.length} frames.`,
      hint:
        lost[worst]! > 0.25
          ? `Most of it was lost at frame ${worst} (${Math.round(100 * lost[worst]!)} %): look there, and draw it again where it fails.`
          : 'Look at some frames, and draw it again where it fails.',
    });
  });
  framesAreOthers();
}
