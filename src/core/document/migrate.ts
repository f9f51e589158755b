import { layers } from '../depth/layers/registry';
import { OmbrageError } from '../error';
import { DOCUMENT_VERSION, projectSchema, type Project } from './schema';

type Document = Record<string, unknown>;

/** Entry v turns a document of version v into version v + 1. */
export const migrations: Record<number, (document: Document) => Document> = {
  // Version 0 kept a shot's settings beside its plate instead of in one place.
  0: (document) => ({
    ...document,
    version: 1,
    shots: ((document.shots as Document[] | undefined) ?? []).map(({ id, name, plate, takes, ...settings }) => ({
      id,
      name,
      plate,
      takes,
      settings,
    })),
  }),
  // Version 1 had no clean-up, and layers of maps alone; what it lacks has defaults.
  1: (document) => ({ ...document, version: 2 }),
};

/**
 * Reads a project document of any version up to ours.
 * Throws OmbrageError `newer-version` or `bad-document`; `name` is the file or project it speaks of.
 */
export function parseProject(json: unknown, name: string): Project {
  if (typeof json !== 'object' || json === null || Array.isArray(json))
    throw new OmbrageError('bad-document', `${name} holds no project.`, 'Choose a project file that Ombrage wrote.');
  let document = json as Document;
  let version = typeof document.version === 'number' ? document.version : NaN;
  if (version > DOCUMENT_VERSION)
    throw new OmbrageError(
      'newer-version',
      `${name} was written by a newer Ombrage (document ${version}, this one reads up to ${DOCUMENT_VERSION}).`,
      'Update Ombrage and open it again.',
    );
  while (version < DOCUMENT_VERSION) {
    const step = migrations[version];
    if (!step) break;
    document = step(document);
    version = document.version as number;
  }
  const parsed = projectSchema.safeParse(document);
  const issue = parsed.success ? contentIssue(parsed.data) : parsed.error.issues[0];
  if (parsed.success && !issue) return parsed.data;
  throw new OmbrageError(
    'bad-document',
    `${name} cannot be read: ${issue?.path.join('.') || 'document'}: ${issue?.message ?? 'unknown'}.`,
    'It was left as it is. Try an earlier copy of the file.',
  );
}

/** What is wrong with what layers hold, by the schemas of their own kinds. A kind that is not known is refused when it is used. */
function contentIssue(project: Project): { path: PropertyKey[]; message: string } | null {
  for (const shot of project.shots)
    for (const settings of [shot.settings, ...shot.takes.map((t) => t.settings)])
      for (const layer of settings.layers) {
        const schema = layers.find((l) => l.kind === layer.kind)?.content;
        const found = schema?.safeParse(layer.content ?? {});
        if (found?.success === false)
          return { path: [`layer ${layer.name}`, ...found.error.issues[0]!.path], message: found.error.issues[0]!.message };
      }
  return null;
}
