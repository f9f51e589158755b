import type { Project } from '../core/document/schema';
import { mediaOf, packProject, unpackProject } from '../formats/projectFile';
import type { Database } from './database';
import { getMedia, putMedia } from './media';
import { addProject } from './projects';

/** A project with its media as one file. */
export async function exportProject(db: Database, project: Project): Promise<Blob> {
  const media = new Map<string, Uint8Array>();
  for (const ref of mediaOf(project)) media.set(ref.sha256, new Uint8Array(await (await getMedia(db, ref)).arrayBuffer()));
  return new Blob([packProject(project, media) as Uint8Array<ArrayBuffer>], { type: 'application/zip' });
}

/** Brings a project file in beside what is there; a project of the same id is kept and the new one gets its own. */
export async function importProject(db: Database, file: Blob, name: string): Promise<Project> {
  const { project, media } = await unpackProject(new Uint8Array(await file.arrayBuffer()), name);
  for (const ref of mediaOf(project)) await putMedia(db, ref.sha256, ref.name, new Blob([media.get(ref.sha256)! as Uint8Array<ArrayBuffer>]));
  return addProject(db, project);
}
