import { LIMITS } from '../../core/limits';
import { shotOf, useDocument } from './documentStore';
import { notify } from '../notices/noticeStore';

/** Whether the open shot holds as many of something as it may; says so. */
export function isFull(list: 'layers' | 'effects' | 'stakes' | 'takes' | 'moves'): boolean {
  const shot = shotOf(useDocument.getState());
  const count = list === 'takes' ? shot?.takes.length : list === 'moves' ? shot?.settings.camera.moves.length : shot?.settings[list].length;
  const limit = LIMITS[list];
  const full = (count ?? 0) >= limit.most;
  if (full) notify({ kind: 'note', text: `There may be up to ${limit.most} ${limit.of} in ${limit.in}.`, hint: 'Delete one that is not needed.' });
  return full;
}
