import { Unzip, UnzipInflate } from 'fflate';
import { OmbrageError } from '../../core/error';
import { readProject } from '../../core/document/migrate';
import type { Project } from '../../core/document/schema';
import { writeJson } from '../../core/values/endless';
import { crc32 } from '../bytes/crc32';
import { mediaOf } from './projectMedia';
import { sha256Stream } from '../bytes/sha256';

const README = `This is an Ombrage project: a zip with
  project.json   the document
  media/         its pictures and maps, each named by the SHA-256 of its bytes
Rename it to .zip to look inside.
`;

/** Bytes that are handed on at once. */
const PIECE = 1 << 20;
/** Compressed bytes that are unpacked at once: what they may become stays small enough to be thrown away. */
const BITE = 1 << 15;
/** A medium may unpack to so many times what was read of it, and so much more, bytes: pictures are compressed already. */
const GROWTH = 8;
const ALLOWANCE = 32e6;
/** Longest document, bytes. */
const DOCUMENT_BYTES = 64e6;

/**
 * Packs a project and its media. Sizes stand before what they are of: a medium may be a zip itself, and a reader that looks for its end would
 * find one inside. Throws `missing-media` where a file is not given.
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
  const document = entries.get('project.json');
  if (!document) throw new OmbrageError('not-a-project', `${name} holds no project.json.`, 'Choose a project file that Ombrage wrote.');
  const bytes = new Uint8Array(await document.blob.arrayBuffer());
  const sum = await sumOf(file, 'project.json');
  if (sum !== null && sum !== crc32(bytes))
    throw new OmbrageError('damaged-file', `${name} is damaged in project.json.`, 'Try an earlier copy of the file.');
  let json: unknown;
  try {
    json = JSON.parse(new TextDecoder().decode(bytes));
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

/** The checksum that a zip keeps of an entry: before it, or in the directory at its end; null where neither tells. */
async function sumOf(file: Blob, entry: string): Promise<number | null> {
  for (let at = 0; at + 30 <= file.size;) {
    const head = new DataView(await file.slice(at, at + 30).arrayBuffer());
    // of an entry that was written as it came, sum and sizes stand after it
    if (head.getUint32(0, true) !== 0x04034b50 || head.getUint16(6, true) & 8) break;
    const name = head.getUint16(26, true);
    if ((await file.slice(at + 30, at + 30 + name).text()) === entry) return head.getUint32(14, true);
    at += 30 + name + head.getUint16(28, true) + head.getUint32(18, true);
  }
  const { BlobReader, ZipReader } = await import('@zip.js/zip.js');
  const zip = new ZipReader(new BlobReader(file), { useWebWorkers: false });
  try {
    for await (const { filename, signature } of zip.getEntriesGenerator()) if (filename === entry) return signature ?? null;
    return null;
  } catch {
    return null;
  } finally {
    await zip.close();
  }
}

/** The document and the media of a zip. */
async function unzip(file: Blob, name: string): Promise<Map<string, Entry>> {
  const entries = new Map<string, Entry>();
  let consumed = 0;
  let open = 0;
  let failure: unknown = null;
  const fail = (code: string, message: string, hint: string): void => {
    failure ??= new OmbrageError(code, message, hint);
  };
  const reader = new Unzip((entry) => {
    const path = entry.name;
    if (path.startsWith('/') || path.includes('\\') || path.split('/').includes('..')) {
      fail('unsafe-path', `${name} holds a path that leads outside it ("${path}").`, 'Do not use this file; ask for a new copy.');
      return;
    }
    if (path !== 'project.json' && !path.startsWith('media/')) return;
    const hash = sha256Stream();
    const document = path === 'project.json';
    const begun = consumed;
    let parts: BlobPart[] = [];
    let size = 0;
    open++;
    entry.ondata = (error, chunk, final) => {
      if (error) {
        fail('damaged-file', `${name} is damaged in ${path}.`, 'Try an earlier copy of the file.');
        return;
      }
      size += chunk.length;
      if (size > (document ? DOCUMENT_BYTES : GROWTH * (consumed - begun) + ALLOWANCE)) {
        fail(
          'too-large-inside',
          `${path} in ${name} (${megabytes(file.size)}) unpacks to more than ${megabytes(size)}.`,
          'No project file does that. Do not use it; ask for a new copy.',
        );
        return;
      }
      if (!document) hash.update(chunk);
      parts.push(chunk);
      // what has grown large is put where the browser keeps large things
      if (parts.length > 64) parts = [new Blob(parts)];
      if (!final) return;
      open--;
      entries.set(path, { blob: new Blob(parts), sha256: hash.digest() });
    };
    entry.start();
  });
  reader.register(UnzipInflate);
  const head = new Uint8Array(await file.slice(0, 4).arrayBuffer());
  if (head[0] !== 0x50 || head[1] !== 0x4b)
    throw new OmbrageError('not-a-project', `${name} is not a zip, so it is no project file.`, 'Choose a project file that Ombrage wrote.');
  for (let from = 0; from < file.size && !failure; from += PIECE) {
    const piece = new Uint8Array(await file.slice(from, from + PIECE).arrayBuffer());
    for (let at = 0; at < piece.length && !failure; at += BITE)
      try {
        consumed = from + Math.min(at + BITE, piece.length);
        reader.push(piece.subarray(at, at + BITE), from + at + BITE >= file.size);
      } catch {
        fail('damaged-file', `${name} is damaged.`, 'Try an earlier copy of the file.');
      }
  }
  if (failure) throw failure as Error;
  if (open > 0) throw new OmbrageError('damaged-file', `${name} is cut short.`, 'Try an earlier copy of the file.');
  return entries;
}

const megabytes = (bytes: number): string => `${Math.max(1, Math.round(bytes / 1e6))} MB`;
