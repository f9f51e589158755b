import type { FileRef, Half } from '../../core/need/fileRef';
import { TIME_LIMIT } from '../../core/limits';
import { newLayer } from '../../core/document/defaults';
import type { Layer, Shot } from '../../core/document/schema';
import type { Size } from '../../core/picture';
import { engine } from '../../engine/pool/engine';
import type { ClipFound } from '../../formats/definition';
import { foundIn } from '../../formats/maps/foundMap';
import { halfChannel, halfSize, type Split } from '../../media/halves';
import { notify, notifyError } from '../notices/noticeStore';

/** Makes a shot's plate the clip that was found: the shot is as long as it, and runs as fast. What is special about it is told. */
export function takeClip(shot: Shot, { frames, fps, rotation, sound, remarks, numbered, uneven }: ClipFound, file: File): void {
  shot.plate.clip = {
    frames,
    fps,
    ...(rotation > 0 && { rotation }),
    ...(sound && { sound }),
    ...(numbered && { numbered }),
    ...(uneven && { uneven }),
  };
  shot.settings.time.length = Math.min(TIME_LIMIT, frames);
  shot.settings.time.fps = Math.min(120, Math.max(1, fps));
  engine().hold('clip', shot.plate.sha256, { blob: file, name: file.name }).catch(notifyError);
  if (remarks.length > 0) notify({ kind: 'note', text: `${file.name} came in with remarks.`, hint: remarks.join(' ') });
  if (frames === 1) notify({ kind: 'note', text: `${file.name} has one frame.`, hint: 'It is a still.' });
}

/** The size of a clip's whole frames, of which a shot may show a half. */
export function wholeSize({ width, height, clip }: FileRef): Size {
  if (clip?.half === 'left' || clip?.half === 'right') return { width: 2 * width, height };
  return clip?.half ? { width, height: 2 * height } : { width, height };
}

/** Makes a half of a clip's frames the picture of a shot, or all of them; an output as large as the plate stays so. */
export function takeHalf({ plate, settings: { framing } }: Shot, half: Half | undefined): void {
  if (!plate.clip) return;
  const whole = wholeSize(plate);
  const { width, height } = half ? halfSize(whole, half) : whole;
  if (framing.width === plate.width && framing.height === plate.height) Object.assign(framing, { width, height });
  Object.assign(plate, { width, height });
  if (half) plate.clip.half = half;
  else delete plate.clip.half;
}

/** What lies in one half of a clip's frames, as a layer of depth. Throws OmbrageError. */
export async function layerOfHalf(plate: Shot['plate'], half: Half, file: File): Promise<Layer> {
  const { half: _, ...clip } = plate.clip!;
  const size = halfSize(wholeSize(plate), half);
  const read = await engine().readMap(file, file.name, halfChannel(half), size, null);
  const layer = newLayer('imported', { sha256: plate.sha256, name: plate.name, ...size, clip });
  Object.assign(layer.values, { turnOver: read.proposal.turnOver, fit: read.proposal.fit });
  return { ...layer, name: `Depth, ${halfChannel(half)}`, content: foundIn(read) };
}

/** A new shot of a clip whose frames are a picture and its depth: told, and taken apart. Throws OmbrageError. */
export async function splitClip(shot: Shot, { picture, depth }: Split, file: File): Promise<void> {
  takeHalf(shot, picture);
  shot.settings.layers.push(await layerOfHalf(shot.plate, depth, file));
  notify({
    kind: 'note',
    text: `${file.name} is two pictures: ${halfChannel(picture)} colour, ${halfChannel(depth)} depth.`,
    hint: 'The depth is the top layer of the depth stack. If it is one picture, say so under Plate, “Frames hold”.',
  });
}
