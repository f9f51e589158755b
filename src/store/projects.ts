import { OmbrageError } from '../core/error';
import { newId } from '../core/document/defaults';
import { parseProject, readProject } from '../core/document/migrate';
import { estimateKey } from '../core/need/estimateKey';
import { estimateBy, estimateLayer } from '../core/depth/layers/estimate';
import { contentOf } from '../core/depth/definition';
import { networkOf, qualities, type EstimateBy } from '../core/need/estimators';
import type { Project, Settings } from '../core/document/schema';
import { paramsAt, START } from '../core/values/moment';
import { addressOfFile, needKey } from '../core/need/need';
import { needsOf } from '../core/shot/needs';
import { mediaOf } from '../formats/project/projectMedia';
import { asStorageError } from '../media/storage';
import type { Table } from 'dexie';
import type { Database, MediaRow, ProjectRow } from './database';
import { forgetShots } from './shotNotes';

export const CHANGED_ELSEWHERE = 'changed-elsewhere';
export const DELETED_ELSEWHERE = 'deleted-elsewhere';

export const deletedElsewhere = (): OmbrageError =>
  new OmbrageError(DELETED_ELSEWHERE, 'This project was deleted in another tab.', 'Take it back, or keep what is here as a copy.');

export interface LoadedProject {
  readonly project: Project;
  readonly revision: number;
  /** what in it could not be read, and what it became */
  readonly remarks: readonly string[];
}

/** Writes a new project. An id that is taken is replaced by a fresh one, so that nothing is overwritten. */
export async function addProject(db: Database, project: Project): Promise<Project> {
  try {
    return await db.transaction('rw', db.projects, async () => {
      const taken = await db.projects.get(project.id);
      const kept = taken ? { ...project, id: newId() } : project;
      await db.projects.add({ id: kept.id, name: kept.name, document: kept, revision: 1, updatedAt: Date.now(), deletedAt: null });
      return kept;
    });
  } catch (error) {
    throw asStorageError(error);
  }
}

/** Reads a project. Throws `no-project`, or what parseProject throws; the stored document is left as it is. */
export async function loadProject(db: Database, id: string): Promise<LoadedProject> {
  const row = await db.projects.get(id);
  if (!row || row.deletedAt !== null)
    throw new OmbrageError('no-project', 'This project is not in this browser.', 'Open it from the list of shots, or from its project file.');
  return { ...readProject(row.document, row.name), revision: row.revision };
}

/**
 * Saves a project in one transaction. `revision` is the one it was loaded or last saved with; where another tab has saved
 * since, nothing is written and `changed-elsewhere` is thrown; `deleted-elsewhere` where it was deleted. Returns the new revision.
 */
export async function saveProject(db: Database, project: Project, revision: number): Promise<number> {
  try {
    return await db.transaction('rw', db.projects, async () => {
      const row = await db.projects.get(project.id);
      if (!row || row.deletedAt !== null) throw deletedElsewhere();
      if (row.revision !== revision)
        throw new OmbrageError(
          CHANGED_ELSEWHERE,
          'This project was changed in another tab.',
          'Load what the other tab saved, or keep this one as a copy.',
        );
      const next = revision + 1;
      await db.projects.put({
        id: project.id,
        name: project.name,
        document: project,
        revision: next,
        updatedAt: Date.now(),
        deletedAt: null,
      });
      return next;
    });
  } catch (error) {
    throw asStorageError(error);
  }
}

/** Brings a deleted project back as it is given here. Returns its revision. */
export async function bringBack(db: Database, project: Project): Promise<number> {
  try {
    return await db.transaction('rw', db.projects, async () => {
      const row = await db.projects.get(project.id);
      const revision = (row?.revision ?? 0) + 1;
      await db.projects.put({ id: project.id, name: project.name, document: project, revision, updatedAt: Date.now(), deletedAt: null });
      return revision;
    });
  } catch (error) {
    throw asStorageError(error);
  }
}

export interface Listed {
  readonly row: ProjectRow;
  /** null where the document cannot be read; `problem` then says why */
  readonly project: Project | null;
  readonly problem: string | null;
}

/** What rows were read as, by id and revision: a shelf of many shots is not read anew for each change of one. */
const readRows = new Map<string, { readonly version: string; readonly project: Project }>();

function projectOfRow(row: ProjectRow): Project {
  const kept = readRows.get(row.id);
  const version = `${row.revision} ${row.updatedAt}`;
  if (kept?.version === version) return kept.project;
  const project = parseProject(row.document, row.name);
  readRows.set(row.id, { version, project });
  return project;
}

/** All projects that are not deleted, the latest first. One that cannot be read is listed as such and kept. */
export async function listProjects(db: Database): Promise<Listed[]> {
  const rows = await db.projects.orderBy('updatedAt').reverse().toArray();
  return rows
    .filter((row) => row.deletedAt === null)
    .map((row) => {
      try {
        return { row, project: projectOfRow(row), problem: null };
      } catch (error) {
        return { row, project: null, problem: error instanceof OmbrageError ? `${error.message} ${error.hint}` : String(error) };
      }
    });
}

/** Marks a project as deleted; its data stays for a week so that it can be brought back. */
export const deleteProject = (db: Database, id: string): Promise<number> => db.projects.update(id, { deletedAt: Date.now() });
export const restoreProject = (db: Database, id: string): Promise<number> => db.projects.update(id, { deletedAt: null, updatedAt: Date.now() });

const WEEK = 7 * 24 * 3600 * 1000;

/** What projects refer to, and what lies in other tables for them. */
interface Used {
  readonly media: ReadonlySet<string>;
  readonly maps: ReadonlySet<string>;
  readonly shots: ReadonlySet<string>;
}

/** The networks of somebody's own that settings ask. */
const ownNetworks = (all: readonly Settings[]): readonly EstimateBy[] =>
  all.flatMap(({ layers }) =>
    layers
      .filter((l) => l.kind === estimateLayer.kind)
      .map((l) => estimateBy(paramsAt(estimateLayer, l, START), contentOf(estimateLayer, l.content)))
      .filter((by) => networkOf(by) !== null),
  );

/** What the projects of some rows refer to; null where one cannot be read: then it is not known. */
function usedBy(rows: readonly ProjectRow[]): Used | null {
  const [media, maps, shots] = [new Set<string>(), new Set<string>(), new Set<string>()];
  for (const row of rows) {
    try {
      const project = parseProject(row.document, row.name);
      for (const ref of mediaOf(project)) media.add(ref.sha256);
      for (const { id, plate, settings, takes } of project.shots) {
        shots.add(id);
        for (const quality of qualities) maps.add(estimateKey(addressOfFile(plate), { quality }));
        for (const all of [settings, ...takes.map((t) => t.settings)])
          for (const need of needsOf({ plate, settings: all })) if (need.is === 'persons') maps.add(needKey(need));
        for (const by of ownNetworks([settings, ...takes.map((t) => t.settings)])) maps.add(estimateKey(addressOfFile(plate), by));
      }
    } catch {
      return null;
    }
  }
  return { media, maps, shots };
}

/**
 * Removes what nobody has any more: projects deleted more than a week ago, and whatever lies in this browser for shots that are gone. What can be
 * made again (estimates, pictures on the shelf) and what is of no use without its shot (exports, how it was looked at) goes every time; files
 * that no project refers to go with the project that did, or a week after that was first seen, since an undo may bring them back.
 */
export async function tidy(db: Database, now = Date.now()): Promise<void> {
  const used = await db.transaction('rw', [db.projects, db.media, db.maps, db.thumbs, db.exports, db.pieces, db.shapes], async () => {
    const rows = await db.projects.toArray();
    const gone = rows.filter((r) => r.deletedAt !== null && now - r.deletedAt > WEEK);
    await db.projects.bulkDelete(gone.map((r) => r.id));
    const known = usedBy(rows.filter((r) => !gone.includes(r)));
    if (!known) return null;
    const unused = (m: MediaRow): boolean => !known.media.has(m.sha256);
    // not those of no project: another tab may be bringing one in
    const left = usedBy(gone)?.media ?? new Set<string>();
    await db.media.filter((m) => unused(m) && (left.has(m.sha256) || (m.unusedSince !== undefined && now - m.unusedSince > WEEK))).delete();
    await db.media.toCollection().modify((m) => {
      if (!unused(m)) delete m.unusedSince;
      else m.unusedSince ??= now;
    });
    await removeKeys(db.maps, (key) => known.maps.has(key));
    await removeKeys(db.thumbs, (shot) => known.shots.has(shot));
    await removeKeys(db.shapes, (shot) => known.shots.has(shot));
    await db.exports.filter((e) => !known.shots.has(e.shot) || now - e.begunAt > WEEK).delete();
    const exports = new Set(await db.exports.toCollection().primaryKeys());
    await db.pieces.filter((p) => !exports.has(p.export)).delete();
    return known;
  });
  if (!used) return;
  forgetShots(used.shots);
  await tidyClips(used);
  await tidyRecordings(used);
}

async function removeKeys<T>(table: Table<T, string>, wanted: (key: string) => boolean): Promise<void> {
  await table.bulkDelete((await table.toCollection().primaryKeys()).filter((key) => !wanted(key)));
}

/** Lets go of recordings that were broken off, of shots that are gone. */
async function tidyRecordings({ shots }: Used): Promise<void> {
  if (typeof indexedDB === 'undefined') return;
  const { forgetRecordingsUnless } = await import('../media/recordingStore');
  await forgetRecordingsUnless((shot) => shots.has(shot));
}

/** Lets go of the depth of clips, and of their proxies, that no project has any more. */
async function tidyClips({ media, maps }: Used): Promise<void> {
  if (typeof indexedDB === 'undefined') return;
  const { forgetUnless } = await import('../media/clipStore');
  await forgetUnless((of) => [...maps].some((key) => of.startsWith(key)) || [...media].some((sha256) => of.includes(`along ${sha256}`)));
}
