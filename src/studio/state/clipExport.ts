import { isTimed, playedRange } from '../../core/document/driven';
import type { Shot } from '../../core/document/schema';
import type { Size } from '../../core/picture';
import { contentKey } from '../../core/key';
import { REVISION } from '../../core/kernels/build/revision';
import { frameAt, needKey, ofClip } from '../../core/need/need';
import { calibrationOf } from '../../core/document/calibrationOf';
import { gainFor } from '../../core/mesh/spread';
import { fitLongSide } from '../../core/raster/resample';
import { cameraLens } from '../../core/shot/cameraStep';
import { handIn, needsOf } from '../../core/shot/needs';
import { checkRenderable, finishedSize, resolved } from '../../core/shot/chain';
import { settingsAt } from '../../core/shot/settingsAt';
import type { ShotRequest } from '../../core/shot/stage';
import { engine, type Job } from '../../engine/pool/engine';
import type { Given } from '../../engine/messages/protocol';
import { clipSize, frameName, namedClip, piecesOf, type ClipSpec } from '../../formats/outputs/clips';
import { pictureSize } from '../../formats/outputs/colourDepth';
import { namedOutput } from '../../formats/outputs/registry';
import type { PageOfClip } from '../../formats/page/facts';
import { pageStrength } from '../../formats/page/strength';
import { isFull } from '../../media/storage';
import { database } from '../../store/database';
import { beginExport, brokenExport, endExport, keepPiece, piecesOfExport } from '../../store/exports';
import { writeNote } from '../../store/shotNotes';
import { notify, notifyError } from '../notices/noticeStore';
import { fileName, saveAs } from '../../store/saveAs';
import { somethingMissing } from './missing';
import { depthFound, findClipDepth, withoutDepth } from './clipDepth';
import { shotOf, useDocument } from './documentStore';
import { requestOf } from './previewLoop';
import { progressOf, useSession } from './sessionStore';

/** What an export is kept under: what it is of, what there is of its depth, and the code that makes it. Pieces that were made otherwise are no part of it. */
export async function exportName({ request, clip }: Pick<Wanted, 'request' | 'clip'>, given: Given, revision = REVISION): Promise<string> {
  const { plate, settings } = request;
  const stills = needsOf({ plate, settings: handIn(settings) }).flatMap((need) => (ofClip(need) ? [] : [given[needKey(need)] ?? null]));
  return contentKey(revision, plate, settings, clip, stills, plate.clip ? await depthFound(request) : null);
}

/** A whole export: what is asked for again after a reload. */
interface Wanted {
  readonly name: string;
  readonly request: ShotRequest;
  readonly clip: ClipSpec;
}

/** The clip that a shot makes with some settings. `words`: what a page says to who does not see it. */
export function clipOf(shot: Shot, kind: string, values: ClipSpec['values'], size: Size, words = ''): ClipSpec {
  const { from, to } = playedRange(shot.settings);
  const output = namedClip(kind);
  const within = output.page ? fitLongSide(size, Math.min(PAGE_SIDE, Math.max(size.width, size.height))) : size;
  const even = clipSize(kind, within.width, within.height);
  const picture = output.of === 'clip' && !output.page ? finishedSize(shot.settings, even) : pictureSize(output, even);
  const { fps } = shot.settings.time;
  const { clip, sha256, name } = shot.plate;
  // played at another rate its frames are others, and the sound would not fit
  const own =
    clip && Math.abs(clip.fps - fps) < 0.01 && to < clip.frames ? { numbered: clip.numbered, ...(clip.uneven && { timed: { sha256 } }) } : {};
  const along =
    clip?.sound && !output.page && Math.abs(clip.fps - fps) < 0.01 && namedClip(kind).of === 'clip' && namedClip(kind).making.by === 'codec';
  return {
    kind,
    values,
    ...even,
    picture,
    fps,
    from,
    to,
    ...(along && { sound: { sha256, name } }),
    ...(output.page && { page: pageOf(shot, even, { from, to }, values.parallax ?? pageStrength.default, words) }),
    ...own,
  };
}

/** What stands still lies so far from the far end to the near end, in inverse distance. */
const STILL = 0.35;
/** px along the longer side of a page that moves: its video has twice as many each way. */
const PAGE_SIDE = 960;

/** How the scene of a shot moves in a page: between its near end and its far end, about what it is about. `parallax`: by how much the nearest passes the farthest, % of the width. */
function pageOf(shot: Shot, size: Size, { from, to }: { from: number; to: number }, parallax: unknown, words: string): PageOfClip {
  const { settings } = shot;
  const { fps } = settings.time;
  // ends may be driven: as near and as far as they come in any frame
  const ends = Array.from({ length: to - from + 1 }, (_, k) => calibrationOf(settingsAt(settings, { frame: from + k, fps }).calibration));
  const near = ends.reduce((least, end) => Math.min(least, end.near), Infinity);
  const far = ends.reduce((most, end) => Math.max(most, end.far), 0);
  const lens = cameraLens(resolved(requestOf(shot, size, { frame: from, fps })));
  const [least, most] = [far === Infinity ? 0 : 1 / far, 1 / near];
  const still = least + STILL * (most - least);
  const aside = gainFor(Number(parallax) / 100, lens.width, { least, most }) / (2 * lens.focalPx);
  // the border may be as near as the nearest, or as far as the farthest
  const reach = Math.max(most - still, still - least);
  const enlarged = 1 / (1 - (2 * lens.focalPx * aside * reach) / lens.width);
  const facts = { width: lens.width, height: lens.height, focal: lens.focalPx, least, most, still, aside, up: aside / 2, enlarged };
  return { name: shot.name, words: words || shot.name, facts };
}

/** Exports the frames of the open shot's range. Each finished piece is kept until all are there: after a reload it goes on. */
export async function exportClip(
  kind: string,
  values: ClipSpec['values'],
  size: Size,
  words = '',
  folder: FileSystemDirectoryHandle | null = null,
): Promise<void> {
  const shot = shotOf(useDocument.getState());
  const project = useDocument.getState().project;
  if (!shot || !project) return;
  const clip = clipOf(shot, kind, values, size, words);
  try {
    checkRenderable(clip.picture);
  } catch (error) {
    notifyError(error);
    return;
  }
  const request = requestOf(shot, { width: clip.width, height: clip.height }, { frame: clip.from, fps: clip.fps });
  const output = namedClip(kind);
  const name = `${fileName(shot.name)}${output.of === 'depth clip' ? ' depth' : ''}.${output.extension}`;
  const go = (): Promise<void> => run({ name, request, clip }, shot, project.id, folder);
  const lacking = shot.plate.clip ? await withoutDepth(shot, clip) : null;
  if (!lacking) {
    await go();
    return;
  }
  const { frames, spec } = lacking;
  notify({
    kind: 'note',
    stays: true,
    text: `${frames} of ${clip.to - clip.from + 1} frames have no depth yet.`,
    hint: 'What goes by distance does nothing there.',
    actions: [
      { label: 'Find depth first', run: () => void findClipDepth(spec, frameAt(shot.plate, { frame: clip.from, fps: clip.fps })) },
      { label: 'Export as it is', run: () => void go() },
    ],
  });
}

/** Writes each piece of a clip of files as a file of its own. */
async function writeInto(folder: FileSystemDirectoryHandle, clip: ClipSpec, pieces: readonly Blob[]): Promise<void> {
  const { making } = namedClip(clip.kind);
  const extension = making.by === 'files' ? namedOutput(making.output).extension : '';
  for (const [k, { from }] of piecesOf(clip).entries()) {
    const file = await folder.getFileHandle(frameName(from, clip.to, extension, clip.numbered), { create: true });
    const writer = await file.createWritable();
    await writer.write(pieces[k]!);
    await writer.close();
  }
}

/** Does each piece of work once, as many at a time as there are workers. */
async function byAllHands(waiting: number[], work: (k: number) => Promise<void>): Promise<void> {
  const hand = async (): Promise<void> => {
    for (let k = waiting.shift(); k !== undefined; k = waiting.shift()) await work(k);
  };
  await Promise.all(Array.from({ length: engine().hands }, hand));
}

/** Puts the pieces together to one file, saves it, and shows it where its shot is still open. */
async function handOver({ name, clip }: Wanted, shot: Shot, pieces: readonly Blob[]): Promise<void> {
  const blob = await engine().joinClip(clip, pieces);
  saveAs(blob, name);
  const { width, height, from, to, fps } = clip;
  if (shotOf(useDocument.getState())?.id === shot.id)
    useSession.getState().set({ made: { name, blob, width, height, frames: { count: to - from + 1, fps } } });
}

const DISK_FULL = {
  kind: 'error',
  text: 'The disk is full: the export stopped.',
  hint: 'What is finished is kept. Make room, then export again: it goes on from there.',
} as const;

/** Makes an export; `goesOn`: the one that was broken off, of which what is still the same is taken. */
async function run(wanted: Wanted, shot: Shot, project: string, folder: FileSystemDirectoryHandle | null = null, goesOn?: string): Promise<void> {
  const { exporting, given, set } = useSession.getState();
  if (exporting) return;
  const { name, request, clip } = wanted;
  if (somethingMissing(shot.plate, request.settings, given)) {
    notify({ kind: 'note', text: 'The depth of this shot is not ready yet.', hint: 'Export again when its maps and pictures have arrived.' });
    return;
  }
  const db = database();
  const what = `Exporting ${clip.to - clip.from + 1} frames`;
  let stopped = false;
  const jobs = new Set<Job<Blob>>();
  const progress = progressOf(
    what,
    () => {
      stopped = true;
      for (const job of jobs) job.cancel();
    },
    (p) => set({ exporting: p }),
  );
  try {
    const pieces = piecesOf(clip);
    const id = await exportName(wanted, given);
    // what was broken off is another thing by now
    if (goesOn !== undefined && goesOn !== id) await endExport(db, goesOn);
    const finished = await beginExport(db, { id, project, shot: shot.id, name, request, clip, begunAt: Date.now() });
    const shares = pieces.map((_, k): number => (finished.has(k) ? 1 : 0));
    const report = (k: number, share: number): void => {
      shares[k] = Math.max(shares[k]!, share);
      progress.report((0.97 * shares.reduce((a, b) => a + b, 0)) / pieces.length);
    };
    const waiting = pieces.map((_, k) => k).filter((k) => !finished.has(k));
    await byAllHands(waiting, async (k) => {
      if (stopped) return;
      const job = engine().clipPiece(request, given, clip, pieces[k]!.from, pieces[k]!.to, (share) => report(k, share));
      jobs.add(job);
      const blob = await job.done.finally(() => jobs.delete(job));
      if (!blob || stopped) return;
      await keepPiece(db, id, k, blob);
      report(k, 1);
    });
    if (stopped) {
      await endExport(db, id);
      notify({ kind: 'note', text: `${what} was stopped.` });
      return;
    }
    const all = await piecesOfExport(db, id);
    if (folder) await writeInto(folder, clip, all);
    else await handOver(wanted, shot, all);
    writeNote('made', shot.id, name);
    await endExport(db, id);
  } catch (error) {
    // no other part is begun
    stopped = true;
    for (const job of jobs) job.cancel();
    if (isFull(error)) notify(DISK_FULL);
    else notifyError(error);
  } finally {
    progress.end();
  }
}

/** Offers to go on with an export of the open shot that was broken off. */
export async function offerBrokenExport(shot: Shot, project: string, open: () => boolean): Promise<void> {
  const found = await brokenExport(database(), shot.id, Date.now());
  if (!found || !open() || useSession.getState().exporting || !isTimed(shot)) return;
  const { row, finished } = found;
  const wanted = { name: row.name, request: row.request as ShotRequest, clip: row.clip as ClipSpec };
  notify({
    kind: 'note',
    stays: true,
    text: `The export of ${row.name} was broken off.`,
    hint: `${finished} of ${piecesOf(wanted.clip).length} parts are finished.`,
    actions: [
      { label: 'Go on', run: () => void run(wanted, shot, project, null, row.id) },
      { label: 'Let it go', run: () => void endExport(database(), row.id) },
    ],
  });
}
