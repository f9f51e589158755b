import type { FileRef, Half } from '../../core/need/fileRef';
import type { ImportedContent } from '../../core/depth/layers/imported';
import type { Layer, Shot } from '../../core/document/schema';
import { OUTPUT_LIMIT } from '../../core/limits';
import { engine } from '../../engine/pool/engine';
import { database } from '../../store/database';
import { getMedia, putMedia } from '../../store/media';
import { halfNamed, OTHER_HALF } from '../../media/halves';
import { foundIn } from '../../formats/maps/foundMap';
import { layerOfHalf, takeClip, takeHalf } from './clipShot';
import { notifyError } from '../notices/noticeStore';
import { changeShot, shotOf, useDocument, whileOpen } from './documentStore';

/** Brings a picture in and keeps it beside the document. Throws OmbrageError that names it. */
export async function readPicture(file: File): Promise<FileRef> {
  const { facts, raster, sha256 } = await engine().decode(file, file.name);
  engine().hold('raster', sha256, raster).catch(notifyError);
  if (facts.clip) engine().hold('clip', sha256, { blob: file, name: file.name }).catch(notifyError);
  await putMedia(database(), sha256, file.name, file);
  const clip = facts.clip && { frames: facts.clip.frames, fps: facts.clip.fps };
  return { sha256, name: file.name.slice(0, 200), width: facts.width, height: facts.height, ...(clip && { clip }) };
}

/** The half of the plate's own frames that a layer is; null where it comes from elsewhere. */
const halfOfPlate = (layer: Layer, plate: FileRef): Half | null =>
  layer.media?.sha256 === plate.sha256 ? halfNamed((layer.content as ImportedContent | undefined)?.channel ?? null) : null;

/** Takes the frames of the plate's clip as a picture and its depth, or as one picture, in one step: the layer of the depth half comes and goes. */
export async function framesHold(shot: Shot, half: Half | undefined): Promise<void> {
  const open = whileOpen();
  const { plate } = shot;
  const layer = half && (await layerOfHalf(plate, OTHER_HALF[half], new File([await getMedia(database(), plate)], plate.name)));
  if (!open()) return;
  changeShot((s) => {
    takeHalf(s, half);
    s.settings.layers = s.settings.layers.filter((l) => halfOfPlate(l, s.plate) === null);
    if (layer) s.settings.layers.push(layer);
  });
}

/** Makes the file of an imported layer the plate of the open shot, and the plate that layer's map. */
export async function swapPlate(layerId: string): Promise<void> {
  const db = database();
  const shot = shotOf(useDocument.getState());
  const media = shot?.settings.layers.find((l) => l.id === layerId)?.media;
  if (!shot || !media) return;
  const half = halfOfPlate(
    shot.settings.layers.find((l) => l.id === layerId)!,
    shot.plate,
  );
  if (half) return framesHold(shot, half);
  const open = whileOpen();
  const file = await getMedia(db, media);
  const { facts, raster } = await engine().decode(file, media.name);
  engine().hold('raster', media.sha256, raster).catch(notifyError);
  const old = shot.plate;
  const oldFile = await getMedia(db, old);
  const read = await engine().readMap(oldFile, old.name, null, facts, null);
  if (read.clip) engine().hold('clip', old.sha256, { blob: oldFile, name: old.name }).catch(notifyError);
  if (!open()) return;
  changeShot((s) => {
    const { clip: _, ...still } = media;
    s.plate = { ...still, width: facts.width, height: facts.height, bits: facts.bits, hfovFromFile: facts.hfovDegrees };
    if (facts.clip) takeClip(s, facts.clip, new File([file], media.name));
    if (s.settings.framing.width === old.width && s.settings.framing.height === old.height)
      Object.assign(s.settings.framing, { width: Math.min(OUTPUT_LIMIT, facts.width), height: Math.min(OUTPUT_LIMIT, facts.height) });
    const layer = s.settings.layers.find((l) => l.id === layerId);
    if (!layer) return;
    layer.media = {
      sha256: old.sha256,
      name: old.name,
      width: old.width,
      height: old.height,
      ...(read.clip && { clip: { frames: read.clip.frames, fps: read.clip.fps } }),
    };
    layer.name = old.name.slice(0, 200);
    layer.values.turnOver = false;
    layer.content = foundIn(read);
  });
}
