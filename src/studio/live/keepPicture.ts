import type { Shot } from '../../core/document/schema';
import type { Raster } from '../../core/picture';
import { sha256 } from '../../formats/bytes/sha256';
import { database } from '../../store/database';
import { putMedia } from '../../store/media';
import { useDocument } from '../state/documentStore';
import { pictureOf } from './recorderPort';

/** The name of the file of a picture that was kept of a live plate. */
const KEPT = 'live.png';

/** Makes a picture that arrived the plate's file, without a step of undo: the shot is a still of it from then on. Throws where the disk is full. */
export async function keepPicture(project: string, shotId: string, raster: Raster): Promise<void> {
  const blob = await pictureOf(raster);
  const hash = await sha256(new Uint8Array(await blob.arrayBuffer()));
  await putMedia(database(), hash, KEPT, blob);
  const now = useDocument.getState();
  if (now.project?.id !== project) return;
  now.amend((p) => {
    const shot = p.shots.find((s) => s.id === shotId);
    if (shot?.plate.live) takePicture(shot, hash, raster);
  });
}

/** The plate's file is another picture; layers and takes that are of it follow. In place. */
export function takePicture(shot: Shot, hash: string, { width, height }: Pick<Raster, 'width' | 'height'>): void {
  const before = shot.plate.sha256;
  Object.assign(shot.plate, { sha256: hash, name: KEPT, width, height });
  for (const { layers } of [shot.settings, ...shot.takes.map((take) => take.settings)])
    for (const layer of layers) if (layer.media?.sha256 === before) Object.assign(layer.media, { sha256: hash, name: KEPT, width, height });
}
