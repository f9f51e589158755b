import { estimatorOf, QUICKEST } from '../../core/need/estimators';
import type { Shot } from '../../core/document/schema';
import { clipFrameOf, addressOfFile, frameAt } from '../../core/need/need';
import type { Raster } from '../../core/picture';
import { clipDepthSpec } from '../../core/shot/clipLayer';
import type { ShotRequest } from '../../core/shot/stage';
import { layerNeeds, seenLayers, usedLayers } from '../../core/shot/needs';
import { engine } from '../../engine/pool/engine';
import { cutsSeries, cutsWith, estimatedFrames, estimatesOf, seriesOf, type ClipDepthSpec } from '../../core/motion/clipSpec';
import { stateOf } from '../../media/clipDepthState';
import { forgetFrames, keepFrame, keepReport, keptFrames, keptReport } from '../../media/clipStore';
import { pictureIn } from '../../media/halves';
import type { Database } from '../../store/database';
import { getMedia } from '../../store/media';
import { notifyError } from '../notices/noticeStore';
import { clipJob, type ClipWork } from './clipJob';
import { useSession } from './sessionStore';

/** Gives the workers a plate: its pixels, where they were decoded, and the file of one that is a clip, whose frames they read by themselves. */
export async function holdPlate(db: Database, plate: Shot['plate'], decoded: Raster | null): Promise<void> {
  const { clip, sha256, name } = plate;
  // messages keep their order: whatever is asked of a worker from here on finds the plate there
  if (decoded)
    engine()
      .hold('raster', addressOfFile(plate), { ...pictureIn(decoded, plate), opaque: plate.opaque === true })
      .catch(notifyError);
  if (!clip || engine().holds('clip', sha256)) return;
  const blob = await getMedia(db, { sha256, name });
  engine().hold('clip', sha256, { blob, name }).catch(notifyError);
}

/** Seconds that carrying and steadying take for each frame. */
const STEADY_SECONDS = 0.5;

/** About how long it takes, seconds, and how many bytes it fills. */
export function costOf({ from, to, source, every }: ClipDepthSpec): { readonly seconds: number; readonly bytes: number } {
  const frames = to - from + 1;
  const hands = engine().hands;
  const { seconds, bytes } = estimatorOf(source.is === 'estimate' ? source.quality : QUICKEST);
  const estimates = source.is === 'estimate' ? Math.ceil(frames / every) : 0;
  return {
    seconds: (estimates * seconds) / hands + frames * STEADY_SECONDS,
    bytes: (estimates + frames) * bytes,
  };
}

/** What there is of the depth of a shot that is a clip, as far as it has a hand in the picture: pictures made before more was found are others. */
export async function depthFound({ plate, settings }: Pick<ShotRequest, 'plate' | 'settings'>): Promise<unknown> {
  const layers = usedLayers(settings);
  const specs = layers.flatMap((layer) => clipDepthSpec(plate, layer) ?? []);
  const regions = layers.flatMap((layer) => layerNeeds(layer, plate)).flatMap((need) => (need.is === 'kept' ? [need.series] : []));
  return Promise.all([...specs.map(async (spec) => ({ ...(await stateOf(spec)), report: null })), ...regions.map(keptFrames)]);
}

/** Frames of a range of the shot for which depth is to be estimated, and neither that nor anything better has been done; and what would be found. */
export async function withoutDepth(
  shot: Shot,
  { from, to }: { readonly from: number; readonly to: number },
): Promise<{ readonly frames: number; readonly spec: ClipDepthSpec } | null> {
  for (const layer of seenLayers(shot.settings.layers)) {
    const spec = clipDepthSpec(shot.plate, layer);
    if (spec?.source.is !== 'estimate') continue;
    const { estimated, finished } = await stateOf(spec);
    const there = new Set([...estimated, ...finished]);
    const wanted = new Set<number>();
    for (let f = from; f <= to; f++) wanted.add(frameAt(shot.plate, { frame: f, fps: shot.settings.time.fps }));
    const frames = [...wanted].filter((f) => !there.has(f)).length;
    if (frames > 0) return { frames, spec };
  }
  return null;
}

/** Maps of the clip's frames are others now: for the workers, and for what is shown. */
export function framesAreOthers(): void {
  engine().framesChanged();
  const { depthStamp, set } = useSession.getState();
  set({ depthStamp: depthStamp + 1 });
}

/**
 * Finds depth for all frames of a clip: cuts, estimates of some frames on every worker, those nearest the playhead first, then all frames
 * carried and made steady. What is finished is kept, so that it goes on after a reload.
 */
export async function findClipDepth(spec: ClipDepthSpec, playhead: number): Promise<void> {
  const { seconds } = costOf(spec);
  const steadyShare = ((spec.to - spec.from + 1) * STEADY_SECONDS) / seconds;
  // cuts first, then estimates, then the rest: in shares of the whole
  const parts = [0.05, 0.05 + 0.95 * (1 - steadyShare)] as const;
  await clipJob('Depth of the clip', async ({ run, report, stopped }) => {
    // what was made ahead for playing shows depth that is about to change: its memory is needed meanwhile
    framesAreOthers();
    const known = await keptReport(cutsSeries(spec.of));
    const found = known?.cuts ?? (await run(engine().clipCuts(spec.of, spec, (share) => report(parts[0] * share))));
    if (!found) return;
    if (!known) await keepReport({ of: cutsSeries(spec.of), cuts: found, from: spec.from, before: [], after: [] });
    const full = { ...spec, cuts: cutsWith(found, spec.of) };
    await estimateFrames(full, playhead, { run, stopped, report: (share) => report(parts[0] + (parts[1] - parts[0]) * share) });
    if (stopped()) return;
    framesAreOthers();
    if (spec.steady === 0) return;
    const flickers = await run(engine().steadyClip(full, (share) => report(parts[1] + (1 - parts[1]) * share)));
    if (flickers) await keepReport({ of: seriesOf(full), cuts: full.cuts, from: spec.from, ...flickers });
  });
  framesAreOthers();
}

async function estimateFrames(spec: ClipDepthSpec, playhead: number, { stopped, run, report }: ClipWork): Promise<void> {
  const { source } = spec;
  const series = estimatesOf(spec);
  if (series === null || source.is === 'map') return;
  const kept = new Set(await keptFrames(series));
  const wanted = estimatedFrames(spec).filter((f) => !kept.has(f));
  const waiting = [...wanted].sort((a, b) => Math.abs(a - playhead) - Math.abs(b - playhead));
  let done = 0;
  const hand = async (): Promise<void> => {
    for (let frame = waiting.shift(); frame !== undefined && !stopped(); frame = waiting.shift()) {
      const plane = await run(engine().estimate({ is: 'raster', ref: spec.of, frame: clipFrameOf(frame) }, source, () => undefined, true));
      if (!plane) return;
      await keepFrame(series, frame, plane);
      report(++done / wanted.length);
    }
  };
  await Promise.all(Array.from({ length: engine().hands }, hand));
}

/** Forgets what was found, steady maps and estimates. */
export async function forgetClipDepth(spec: ClipDepthSpec): Promise<void> {
  await forgetFrames(seriesOf(spec));
  const series = estimatesOf(spec);
  if (series !== null) await forgetFrames(series);
  framesAreOthers();
}
