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
  if (parsed.success) return parsed.data;
  const issue = parsed.error.issues[0];
  throw new OmbrageError(
    'bad-document',
    `${name} cannot be read: ${issue?.path.join('.') || 'document'}: ${issue?.message ?? 'unknown'}.`,
    'It was left as it is. Try an earlier copy of the file.',
  );
}
