import { newLayer, storedFar } from '../../../core/document/defaults';
import type { StoredCalibration } from '../../../core/document/schema';
import { foundIn } from '../../../formats/maps/foundMap';
import { database } from '../../../store/database';
import { checkRoom, getMedia, putMedia } from '../../../store/media';
import { changeSettings, shotOf, useDocument, whileOpen } from '../../state/documentStore';
import { swapPlate } from '../../state/files';
import { session } from '../../state/session';
import { notify, notifyError } from '../../notices/noticeStore';
import { withSequences } from '../../bringIn/sequences';
import { addLayer, changeLayer, layerById } from './layerActions';

/** Brings files in as layers: numbered ones together, as a map for each frame; any others one by one. */
export async function importMaps(files: readonly File[]): Promise<void> {
  const errors: { text: string; hint: string }[] = [];
  for (const file of await withSequences(files, errors, 2)) await importMap(file);
  for (const error of errors) notify({ kind: 'error', ...error });
}

/** Brings a map in as a new layer on top, read, turned and fitted as the file and the picture suggest. */
export async function importMap(file: File): Promise<void> {
  const open = whileOpen();
  try {
    const read = await session().readMap(file, file.name, null);
    await checkRoom(file.name, file.size);
    await putMedia(database(), read.sha256, file.name, file);
    if (!open()) return;
    const clip = read.clip && { frames: read.clip.frames, fps: read.clip.fps };
    const layer = newLayer('imported', {
      sha256: read.sha256,
      name: file.name.slice(0, 200),
      width: read.facts.width,
      height: read.facts.height,
      ...(clip && { clip }),
    });
    Object.assign(layer.values, { turnOver: read.proposal.turnOver, fit: read.proposal.fit });
    if (clip) tellClip(file.name, clip);
    addLayer({ ...layer, name: file.name.slice(0, 200), content: foundIn(read) });
    if (read.facts.colourful)
      notify({
        kind: 'note',
        text: `${file.name} is a colour picture.`,
        hint: 'Its brightness is used as depth. If it is the plate and the plate is its map, swap them; if not, undo.',
        actions: [{ label: 'Swap with the plate', run: () => void swapWithPlate(layer.id) }],
      });
  } catch (error) {
    notifyError(error);
  }
}

/** Says how a clip of maps meets the plate. */
function tellClip(name: string, { frames, fps }: { readonly frames: number; readonly fps: number }): void {
  const plate = shotOf(useDocument.getState())?.plate.clip;
  if (!plate) return;
  const short = frames / fps < plate.frames / plate.fps - 0.5 / plate.fps;
  notify({
    kind: 'note',
    text: `${name} is a clip of ${frames} frames at ${fps} fps.`,
    hint: `It is matched to the plate by time${short ? '; where it is shorter its last frame is held' : ''}. “Begins at” moves it.`,
  });
}

/** Reads a layer's file again, by another of its channels. */
export async function chooseChannel(layerId: string, channel: string): Promise<void> {
  const layer = layerById(layerId);
  if (!layer?.media) return;
  try {
    const read = await session().readMap(await getMedia(database(), layer.media), layer.media.name, channel);
    changeLayer(layerId, (l) => {
      l.content = foundIn(read);
      l.values.turnOver = read.proposal.turnOver;
    });
  } catch (error) {
    notifyError(error);
  }
}

/** The calibration under which nearness between two distances tells metres. */
export const calibrationBetween = ({ near, far }: { readonly near: number; readonly far: number | null }): StoredCalibration => ({
  near,
  far: far === null ? 'infinite' : storedFar(far),
  spacing: 'perspective',
  bend: 1,
  low: 0,
  high: 1,
  turnOver: false,
  scaled: true,
});

/** The distances that a file carries become the calibration. */
export const takeEnds = (ends: { readonly near: number; readonly far: number | null }): void =>
  changeSettings((s) => void Object.assign(s.calibration, calibrationBetween(ends)));

/** The layer's file becomes the plate, and the plate the layer's map. */
export async function swapWithPlate(layerId: string): Promise<void> {
  try {
    await swapPlate(layerId);
  } catch (error) {
    notifyError(error);
  }
}
