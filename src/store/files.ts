import type { Project } from '../core/document/schema';
import { packProject, type UnpackedProject } from '../formats/project/projectFile';
import { mediaOf } from '../formats/project/projectMedia';
import type { Database } from './database';
import { getMedia, putMedia } from './media';
import { addProject } from './projects';

/** A project with its media as one file. */
export async function exportProject(db: Database, project: Project): Promise<Blob> {
  const media = new Map<string, Blob>();
  for (const ref of mediaOf(project)) media.set(ref.sha256, await getMedia(db, ref));
  return packProject(project, media);
}

/** Keeps an unpacked project file beside what is there; a project of the same id is kept and the new one gets its own. */
export async function importProject(db: Database, { project, media }: UnpackedProject): Promise<Project> {
  for (const ref of mediaOf(project)) await putMedia(db, ref.sha256, ref.name, media.get(ref.sha256)!);
  return addProject(db, project);
}
