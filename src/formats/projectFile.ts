import { strFromU8, strToU8, unzipSync, zipSync, type Zippable } from 'fflate';
import { OmbrageError } from '../core/error';
import { parseProject } from '../core/document/migrate';
import { flatsSchema } from '../core/depth/layers/flats/content';
import type { MediaRef, Project, Settings } from '../core/document/schema';
import { sha256 } from './sha256';

export const PROJECT_EXTENSION = '.ombrage';

const README = `This is an Ombrage project: a zip with
  project.json   the document
  media/         its pictures and maps, each named by the SHA-256 of its bytes
Rename it to .zip to look inside.
`;

/** Every file that a project refers to, once each, takes included. */
export function mediaOf(project: Project): MediaRef[] {
  const found = new Map<string, MediaRef>();
  for (const shot of project.shots) {
    found.set(shot.plate.sha256, shot.plate);
    for (const settings of [shot.settings, ...shot.takes.map((t) => t.settings)])
      for (const ref of [...settings.layers.flatMap((l) => l.media ?? []), ...stillsOf(settings)]) found.set(ref.sha256, ref);
  }
  return [...found.values()];
}

/** Stills that layers place over the plate. */
export const stillsOf = (settings: Settings): MediaRef[] =>
  settings.layers.filter((l) => l.kind === 'flats').flatMap((l) => flatsSchema.parse(l.content ?? {}).flats.flatMap((f) => f.media ?? []));

/** Packs a project and its media. Throws `missing-media` where a file is not given. */
export function packProject(project: Project, media: ReadonlyMap<string, Uint8Array>): Uint8Array {
  const files: Zippable = {
    'project.json': strToU8(JSON.stringify(project, null, 2)),
    README: strToU8(README),
  };
  for (const { sha256: hash, name } of mediaOf(project)) {
    const bytes = media.get(hash);
    if (!bytes) throw new OmbrageError('missing-media', `${name} is missing from this project.`, 'Bring the picture in again, then save.');
    // pictures are compressed already
    files[`media/${hash}`] = [bytes, { level: 0 }];
  }
  return zipSync(files, { level: 6 });
}

/** Unpacks and checks a project file. `name` is used in messages. Throws OmbrageError and changes nothing. */
export async function unpackProject(bytes: Uint8Array, name: string): Promise<{ project: Project; media: Map<string, Uint8Array> }> {
  if (bytes.length === 0) throw new OmbrageError('empty-file', `${name} is empty.`, 'Choose a project file that Ombrage wrote.');
  let files: Record<string, Uint8Array>;
  try {
    files = unzipSync(bytes, { filter: (f) => f.originalSize <= 1e9 });
  } catch {
    throw new OmbrageError('not-a-project', `${name} is not a zip, so it is no project file.`, 'Choose a project file that Ombrage wrote.');
  }
  const outside = Object.keys(files).find((p) => p.startsWith('/') || p.includes('\\') || p.split('/').includes('..'));
  if (outside)
    throw new OmbrageError('unsafe-path', `${name} holds a path that leads outside it ("${outside}").`, 'Do not use this file; ask for a new copy.');
  const document = files['project.json'];
  if (!document) throw new OmbrageError('not-a-project', `${name} holds no project.json.`, 'Choose a project file that Ombrage wrote.');
  let json: unknown;
  try {
    json = JSON.parse(strFromU8(document));
  } catch {
    throw new OmbrageError('bad-document', `The project.json in ${name} is no JSON.`, 'Try an earlier copy of the file.');
  }
  const project = parseProject(json, name);
  const media = new Map<string, Uint8Array>();
  for (const ref of mediaOf(project)) {
    const found = files[`media/${ref.sha256}`];
    if (!found)
      throw new OmbrageError('missing-media', `${name} lacks ${ref.name} (media/${ref.sha256.slice(0, 8)}…).`, 'Try an earlier copy of the file.');
    if ((await sha256(found)) !== ref.sha256)
      throw new OmbrageError(
        'media-changed',
        `${ref.name} in ${name} is not the file the project was saved with.`,
        'Try an earlier copy of the file.',
      );
    media.set(ref.sha256, found);
  }
  return { project, media };
}
