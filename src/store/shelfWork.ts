import { OmbrageError } from '../core/error';
import { newId } from '../core/document/defaults';
import { copyOf } from '../core/values/copy';
import type { Project, Shot } from '../core/document/schema';
import type { Database } from './database';
import { loadProject, saveProject } from './projects';

/** Where a shot lies: its project, and its place among that project's shots, from 0. */
export interface ShelfPlace {
  readonly project: string;
  readonly index: number;
}

/** Shots with one of them, or another, at a place. */
export const placed = (shots: readonly Shot[], shot: Shot, index: number): Shot[] => {
  const others = shots.filter((s) => s.id !== shot.id);
  return [...others.slice(0, index), shot, ...others.slice(index)];
};

/** Changes a stored project from outside the workspace, in one step. Throws where it is not there. */
export async function changeStored(db: Database, id: string, change: (project: Project) => Project): Promise<void> {
  await db.transaction('rw', db.projects, async () => {
    const { project, revision } = await loadProject(db, id);
    await saveProject(db, change(project), revision);
  });
}

const shotIn = (project: Project, id: string): Shot => {
  const shot = project.shots.find((s) => s.id === id);
  if (!shot) throw new OmbrageError('no-shot', `A shot is not in ${project.name} any more.`, 'It was moved or deleted in another tab.');
  return shot;
};

/** Calls a shot something else; an empty name leaves it as it is. */
export const renameShot = (db: Database, project: string, id: string, name: string): Promise<void> =>
  changeStored(db, project, (p) => {
    const called = name.trim().slice(0, 200) || shotIn(p, id).name;
    return { ...p, shots: p.shots.map((s) => (s.id === id ? { ...s, name: called } : s)) };
  });

/** A copy of a shot right after it, with its picture on the shelf. */
export async function duplicateShot(db: Database, project: string, id: string): Promise<Shot> {
  return db.transaction('rw', db.projects, db.thumbs, async () => {
    let copy!: Shot;
    await changeStored(db, project, (p) => {
      const shot = shotIn(p, id);
      copy = { ...copyOf(shot), id: newId(), name: `${shot.name}, copy`.slice(0, 200) };
      return { ...p, shots: placed(p.shots, copy, p.shots.indexOf(shot) + 1) };
    });
    const picture = await db.thumbs.get(id);
    if (picture) await db.thumbs.put({ shot: copy.id, blob: picture.blob });
    return copy;
  });
}

/** Puts a shot at a place in its own project or in another one, all or nothing. Returns where it was. */
export async function moveShot(db: Database, id: string, from: string, to: ShelfPlace): Promise<ShelfPlace> {
  return db.transaction('rw', db.projects, async () => {
    const { project } = await loadProject(db, from);
    const shot = shotIn(project, id);
    if (from === to.project) await changeStored(db, from, (p) => ({ ...p, shots: placed(p.shots, shot, to.index) }));
    else {
      await changeStored(db, to.project, (p) => ({ ...p, shots: placed(p.shots, shot, to.index) }));
      await changeStored(db, from, (p) => ({ ...p, shots: p.shots.filter((s) => s.id !== id) }));
    }
    return { project: from, index: project.shots.indexOf(shot) };
  });
}
