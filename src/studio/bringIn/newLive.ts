import { importedContentSchema } from '../../core/depth/layers/imported';
import { newLayer, newShot, storedFar } from '../../core/document/defaults';
import type { Shot } from '../../core/document/schema';
import { sha256 } from '../../formats/bytes/sha256';
import type { LiveFrame, LiveSource, LiveValues } from '../../live/definition';
import { database } from '../../store/database';
import { putMedia } from '../../store/media';
import { pictureOf } from '../live/recorderPort';

const FILE = 'live.png';

/** A shot of a live source, with its first picture as the file of its plate. Throws where the disk is full. */
export async function newLiveShot(source: LiveSource, values: LiveValues, frame: LiveFrame): Promise<Shot> {
  const blob = await pictureOf(frame.raster);
  const hash = await sha256(new Uint8Array(await blob.arrayBuffer()));
  await putMedia(database(), hash, FILE, blob);
  return liveShot(source, values, frame, hash);
}

/** The same, where the picture is kept under a hash. */
export function liveShot(source: LiveSource, values: LiveValues, { raster, nearness, ends = source.ends }: LiveFrame, hash: string): Shot {
  const { width, height } = raster;
  const plate = { sha256: hash, name: FILE, width, height };
  const live = { source: source.kind, values: { ...values }, hears: [] };
  const shot = newShot({ ...plate, bits: 8, hfovFromFile: source.hfovDegrees ?? null, opaque: true, live });
  shot.name = source.label;
  if (!nearness) return shot;
  const depth = { ...newLayer('imported', plate), name: 'Depth in alpha', content: importedContentSchema.parse({ channel: 'alpha' }) };
  shot.settings.layers = [depth];
  if (ends) Object.assign(shot.settings.calibration, { near: ends.near, far: storedFar(ends.far), scaled: true });
  return shot;
}
