import type { MediaRef } from '../../core/document/schema';
import { OUTPUT_LIMIT } from '../../core/document/limits';
import { engine } from '../../engine/engine';
import { database } from '../../store/database';
import { getMedia, putMedia } from '../../store/media';
import { notifyError } from '../controls/noticeStore';
import { changeShot, shotOf, useDocument, whileOpen } from './documentStore';

/** Brings a picture in and keeps it beside the document. Throws OmbrageError that names it. */
export async function readPicture(file: File): Promise<MediaRef> {
  const { facts, raster, sha256 } = await engine().decode(file, file.name);
  engine().hold('raster', sha256, raster).catch(notifyError);
  if (facts.clip) engine().hold('clip', sha256, { blob: file, name: file.name }).catch(notifyError);
  await putMedia(database(), sha256, file.name, file);
  const clip = facts.clip && { frames: facts.clip.frames, fps: facts.clip.fps };
  return { sha256, name: file.name.slice(0, 200), width: facts.width, height: facts.height, ...(clip && { clip }) };
}

/** Makes the file of an imported layer the plate of the open shot, and the plate that layer's map. */
export async function swapPlate(layerId: string): Promise<void> {
  const db = database();
  const shot = shotOf(useDocument.getState());
  const media = shot?.settings.layers.find((l) => l.id === layerId)?.media;
  if (!shot || !media) return;
  const open = whileOpen();
  const { facts, raster } = await engine().decode(await getMedia(db, media), media.name);
  engine().hold('raster', media.sha256, raster).catch(notifyError);
  const old = shot.plate;
  const read = await engine().readMap(await getMedia(db, old), old.name, null, facts, null);
  if (!open()) return;
  changeShot((s) => {
    s.plate = { ...media, width: facts.width, height: facts.height, bits: facts.bits, hfovFromFile: facts.hfovDegrees };
    if (s.settings.framing.width === old.width && s.settings.framing.height === old.height)
      Object.assign(s.settings.framing, { width: Math.min(OUTPUT_LIMIT, facts.width), height: Math.min(OUTPUT_LIMIT, facts.height) });
    const layer = s.settings.layers.find((l) => l.id === layerId);
    if (!layer) return;
    layer.media = { sha256: old.sha256, name: old.name, width: old.width, height: old.height };
    layer.name = old.name.slice(0, 200);
    layer.values.turnOver = false;
    layer.content = { channel: read.facts.channel, reading: read.proposal.reading };
  });
}
