import type { FileEntry } from '@zip.js/zip.js';
import { OmbrageError } from '../../core/error';
import { readProject } from '../../core/document/migrate';
import type { Project } from '../../core/document/schema';
import { writeJson } from '../../core/values/endless';
import { TooMuch } from '../bytes/inflate';
import { mediaOf } from './projectMedia';
import { sha256Stream } from '../bytes/sha256';

const README = `This is an Ombrage project: a zip with
  project.json   the document
  media/         its pictures and maps, each named by the SHA-256 of its bytes
Rename it to .zip to look inside.
`;

const DOCUMENT = 'project.json';
/** A medium may unpack to so many times what it takes in the zip, and so much more, bytes: pictures are compressed already. */
const GROWTH = 8;
const ALLOWANCE = 32e6;
/** Longest document, bytes. */
const DOCUMENT_BYTES = 64e6;

/**
 * Packs a project and its media. Throws `missing-media` where a file is not given.
 */
export async function packProject(project: Project, media: ReadonlyMap<string, Blob | Uint8Array>): Promise<Blob> {
  const { BlobReader, BlobWriter, TextReader, ZipWriter } = await import('@zip.js/zip.js');
  const zip = new ZipWriter(new BlobWriter('application/zip'), { useWebWorkers: false, dataDescriptor: false, extendedTimestamp: false });
  await zip.add('project.json', new TextReader(writeJson(project, 2)), { level: 6 });
  await zip.add('README', new TextReader(README), { level: 6 });
  for (const { sha256: hash, name } of mediaOf(project)) {
    const found = media.get(hash);
    if (!found) throw new OmbrageError('missing-media', `${name} is missing from this project.`, 'Bring the picture in again, then save.');
    // pictures are compressed already
    const blob = found instanceof Blob ? found : new Blob([found as Uint8Array<ArrayBuffer>]);
    await zip.add(`media/${hash}`, new BlobReader(blob), { level: 0 });
  }
  return zip.close();
}

/** A project file as it was read, its media by their SHA-256. */
export interface UnpackedProject {
  readonly project: Project;
  readonly media: ReadonlyMap<string, Blob>;
  /** what in the document could not be read, and what it became */
  readonly remarks: readonly string[];
}

interface Entry {
  readonly blob: Blob;
  readonly sha256: string;
}

/**
 * Unpacks and checks a project file piece by piece; one that unpacks to far more than it may hold is refused as soon as that shows.
 * `name` is used in messages. Throws OmbrageError and changes nothing.
 */
export async function unpackProject(file: Blob, name: string): Promise<UnpackedProject> {
  if (file.size === 0) throw new OmbrageError('empty-file', `${name} is empty.`, 'Choose a project file that Ombrage wrote.');
  const entries = await unzip(file, name);
  const document = entries.get(DOCUMENT);
  if (!document) throw new OmbrageError('not-a-project', `${name} holds no project.json.`, 'Choose a project file that Ombrage wrote.');
  let json: unknown;
  try {
    json = JSON.parse(await document.blob.text());
  } catch {
    throw new OmbrageError('bad-document', `The project.json in ${name} is no JSON.`, 'Try an earlier copy of the file.');
  }
  const { project, remarks } = readProject(json, name);
  const media = new Map<string, Blob>();
  for (const ref of mediaOf(project)) {
    const found = entries.get(`media/${ref.sha256}`);
    if (!found)
      throw new OmbrageError('missing-media', `${name} lacks ${ref.name} (media/${ref.sha256.slice(0, 8)}…).`, 'Try an earlier copy of the file.');
    if (found.sha256 !== ref.sha256)
      throw new OmbrageError(
        'media-changed',
        `${ref.name} in ${name} is not the file the project was saved with.`,
        'Try an earlier copy of the file.',
      );
    media.set(ref.sha256, found.blob);
  }
  return { project, media, remarks };
}

/** The document and the media of a zip. Throws OmbrageError. */
async function unzip(file: Blob, name: string): Promise<Map<string, Entry>> {
  const head = new Uint8Array(await file.slice(0, 4).arrayBuffer());
  if (head[0] !== 0x50 || head[1] !== 0x4b)
    throw new OmbrageError('not-a-project', `${name} is not a zip, so it is no project file.`, 'Choose a project file that Ombrage wrote.');
  const { BlobReader, ERR_UNSAFE_FILENAME, ZipReader } = await import('@zip.js/zip.js');
  const zip = new ZipReader(new BlobReader(file), { useWebWorkers: false, checkSignature: true });
  const entries = new Map<string, Entry>();
  try {
    const listed = await zip.getEntries().catch((error: Error & { readonly filename?: string }) => {
      if (error.message === ERR_UNSAFE_FILENAME)
        throw new OmbrageError(
          'unsafe-path',
          `${name} holds a path that leads outside it ("${error.filename}").`,
          'Do not use this file; ask for a new copy.',
        );
      throw new OmbrageError('damaged-file', `${name} is damaged or cut short.`, 'Try an earlier copy of the file.');
    });
    for (const entry of listed) {
      const path = entry.filename;
      if (!entry.directory && (path === DOCUMENT || path.startsWith('media/'))) entries.set(path, await readEntry(file, entry, name));
    }
    return entries;
  } finally {
    await zip.close();
  }
}

/** What an entry unpacks to, checked against the sum that the zip keeps of it. Throws OmbrageError, as soon as it is more than it may be. */
async function readEntry(file: Blob, entry: FileEntry, name: string): Promise<Entry> {
  const path = entry.filename;
  const most = path === DOCUMENT ? DOCUMENT_BYTES : GROWTH * Math.min(entry.compressedSize, file.size) + ALLOWANCE;
  const hash = sha256Stream();
  let parts: BlobPart[] = [];
  let size = 0;
  const unpacked = new WritableStream<Uint8Array<ArrayBuffer>>({
    write: (chunk) => {
      size += chunk.length;
      if (size > most) throw new TooMuch();
      hash.update(chunk);
      parts.push(chunk);
      // what has grown large is put where the browser keeps large things
      if (parts.length > 64) parts = [new Blob(parts)];
    },
  });
  try {
    await entry.getData(unpacked);
  } catch {
    if (size <= most) throw new OmbrageError('damaged-file', `${name} is damaged in ${path}.`, 'Try an earlier copy of the file.');
    throw new OmbrageError(
      'too-large-inside',
      `${path} in ${name} (${megabytes(file.size)}) unpacks to more than ${megabytes(most)}.`,
      'No project file does that. Do not use it; ask for a new copy.',
    );
  }
  return { blob: new Blob(parts), sha256: hash.digest() };
}

const megabytes = (bytes: number): string => `${Math.max(1, Math.round(bytes / 1e6))} MB`;
