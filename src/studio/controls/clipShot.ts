import { TIME_LIMIT } from '../../core/document/limits';
import type { Shot } from '../../core/document/schema';
import { engine } from '../../engine/engine';
import type { ClipFound } from '../../formats/definition';
import { notify, notifyError } from './noticeStore';

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
