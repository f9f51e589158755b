import { OmbrageError } from '../../core/error';
import { newLayer, newProject, newShot, storedFar } from '../../core/document/defaults';
import type { Shot } from '../../core/document/schema';
import { addressOfFile } from '../../core/need/need';
import { estimateAhead } from '../../engine/pool/ahead';
import { engine } from '../../engine/pool/engine';
import type { ReadMap } from '../../engine/messages/protocol';
import type { StillFacts } from '../../formats/definition';
import { foundIn } from '../../formats/maps/foundMap';
import { halfOf } from '../../media/halves';
import { isNetworkFile, isProjectFile } from './projectFiles';
import { useDocument } from '../state/documentStore';
import { keepFirstPicture } from '../state/firstPicture';
import { database } from '../../store/database';
import { importProject } from '../../store/files';
import { checkRoom, putMedia } from '../../store/media';
import { splitClip, takeClip } from '../state/clipShot';
import { withSequences } from './sequences';
import { notify, notifyError } from '../notices/noticeStore';
import { addProject, loadProject, saveProject } from '../../store/projects';

export interface Added {
  /** the first shot that came in, to open it */
  readonly opened: { readonly project: string; readonly shot: string } | null;
  readonly errors: { readonly text: string; readonly hint: string }[];
}

/** Starts the workers and readies an estimate before a file is there. One that cannot be readied says so when it is wanted. */
export function readyForFiles(): void {
  engine()
    .readyEstimate()
    .catch(() => undefined);
}

/** Makes a shot of every picture, in the given project or a new one, and opens project files. `keep` puts them there. What fails is told, the rest goes on. */
export async function addFiles(
  files: readonly File[],
  projectId: string | null,
  keep: (shots: Shot[], projectId: string | null) => Promise<string> = keepShots,
): Promise<Added> {
  const db = database();
  const errors: Added['errors'] = [];
  let opened: Added['opened'] = null;
  const shots: Shot[] = [];
  for (const file of await withSequences(files, errors)) {
    try {
      if (isProjectFile(file)) {
        const unpacked = await engine().unpackProject(file, file.name);
        const project = await importProject(db, unpacked);
        if (unpacked.remarks.length > 0) notify({ kind: 'note', text: `${file.name} was taken in with changes.`, hint: unpacked.remarks.join(' ') });
        if (project.shots[0]) opened ??= { project: project.id, shot: project.shots[0].id };
        else errors.push({ text: `${file.name} holds no shot.`, hint: 'It was added all the same.' });
        continue;
      }
      if (isNetworkFile(file)) {
        const { name } = await (await import('./networkFiles')).keepNetwork(file);
        notify({ kind: 'note', text: `${name} was taken in.`, hint: 'It stands in Depth, where an estimate’s quality is Own.' });
        continue;
      }
      shots.push(await shotOfFile(file, files.length));
    } catch (error) {
      errors.push(
        error instanceof OmbrageError
          ? { text: error.message, hint: error.hint }
          : { text: `${file.name} could not be brought in: ${error instanceof Error ? error.message : String(error)}`, hint: '' },
      );
    }
  }
  if (shots.length > 0) {
    try {
      const id = await keep(shots, projectId);
      opened ??= { project: id, shot: shots[0]!.id };
    } catch (error) {
      errors.push(error instanceof OmbrageError ? { text: error.message, hint: error.hint } : { text: String(error), hint: '' });
    }
  }
  return { opened, errors };
}

/** Makes a shot of a picture; where it comes alone its depth is begun at once. */
async function shotOfFile(file: File, files: number): Promise<Shot> {
  const db = database();
  readyForFiles();
  await checkRoom(file.name, file.size);
  const { facts, raster, sha256, firstPicture } = await engine().decode(file, file.name);
  await putMedia(db, sha256, file.name, file);
  const shot = newShot({
    sha256,
    name: file.name.slice(0, 200),
    width: facts.width,
    height: facts.height,
    bits: facts.bits,
    hfovFromFile: facts.hfovDegrees,
  });
  shot.fresh = true;
  if (firstPicture && files === 1) keepFirstPicture(shot.id, firstPicture);
  else firstPicture?.close();
  if (facts.clip) takeClip(shot, facts.clip, file);
  const split = facts.clip?.split;
  if (split) await splitClip(shot, split, file);
  const carried = split ? null : await carriedDepth(file, facts);
  if (carried) {
    const { clip } = shot.plate;
    const layer = newLayer('imported', {
      sha256,
      name: file.name.slice(0, 200),
      width: carried.facts.width,
      height: carried.facts.height,
      ...(clip && { clip }),
    });
    Object.assign(layer.values, { turnOver: carried.proposal.turnOver, fit: carried.proposal.fit });
    shot.settings.layers.push({ ...layer, name: 'Depth in the picture', content: foundIn(carried) });
    const { ends } = carried.proposal;
    if (ends) Object.assign(shot.settings.calibration, { near: ends.near, far: storedFar(ends.far), scaled: true });
    notify({ kind: 'note', text: `${file.name} carries depth (${carried.facts.channel}).`, hint: 'It is the top layer of the depth stack.' });
  }
  if (facts.colour.includes('alpha')) shot.plate.opaque = carried?.facts.channel === 'alpha';
  engine()
    .hold('raster', addressOfFile(shot.plate), { ...(split ? halfOf(raster, split.picture) : raster), opaque: shot.plate.opaque === true })
    .catch(notifyError);
  const draft = files === 1 ? estimateAhead(shot.plate) : null;
  if (facts.colour === 'CMYK')
    notify({ kind: 'note', text: `${file.name} is a CMYK picture.`, hint: 'Its colours were turned to sRGB; check them.' });
  // the shelf shows the plate itself until the shot has been looked at; what is waited for comes first
  Promise.allSettled([draft])
    .then(() => engine().plateThumbnail(addressOfFile(shot.plate), 640))
    .then((blob) => db.thumbs.put({ shot: shot.id, blob }))
    .catch(() => undefined);
  return shot;
}

/** Channels of a picture that are depth and not the picture itself. */
const CARRIES = /^(alpha|XMP depth map|further picture)|(^|\.)z$|depth/i;

/** Depth that a picture brings along, or null. */
async function carriedDepth(file: File, facts: StillFacts): Promise<ReadMap | null> {
  if (facts.depthInside === null) return null;
  try {
    const read = await engine().readMap(file, file.name, null, facts, null);
    return CARRIES.test(read.facts.channel) ? read : null;
  } catch {
    // what cannot be read as depth is a picture all the same
    return null;
  }
}

/** Puts shots into a stored project, or a new one; its id. */
export async function keepShots(shots: Shot[], projectId: string | null): Promise<string> {
  const db = database();
  if (projectId) {
    const { project, revision } = await loadProject(db, projectId);
    await saveProject(db, { ...project, shots: [...project.shots, ...shots] }, revision);
    return projectId;
  }
  return (await addProject(db, { ...newProject('My shots'), shots })).id;
}

/** Shots of the project that is open are added to it as it is open, so that nothing that is done to it meanwhile stands in their way. */
export async function keepInOpen(shots: Shot[], projectId: string | null): Promise<string> {
  const { project, amend } = useDocument.getState();
  if (!projectId || project?.id !== projectId) return keepShots(shots, projectId);
  amend((p) => void p.shots.push(...shots));
  return projectId;
}
