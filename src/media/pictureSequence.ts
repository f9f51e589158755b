import { BlobReader, Uint8ArrayWriter, ZipReader, type FileEntry } from '@zip.js/zip.js';
import { OmbrageError } from '../core/error';
import type { Raster } from '../core/picture';
import { USUAL_FPS } from '../core/values/moment';
import { entriesOf } from './claims';
import { MOST_FRAMES, type ClipReader } from './clip';
import { findSequence, numberedAs, PICTURE } from './sequenceNames';

/** Decodes one picture of a sequence. */
export type DecodePicture = (
  bytes: Uint8Array,
  name: string,
) => Promise<{ readonly raster: Raster; readonly bits: number; readonly plate?: boolean }>;

/** Beside its pictures a zip may hold so many other files. */
const MOST_STRANGERS = 5000;
/** Pictures are compressed already: one may unpack to so many times what it takes in the zip, and so much more, bytes. */
const GROWTH = 8;
const ALLOWANCE = 32e6;

/** Takes so many bytes at the most. */
class BoundedWriter extends Uint8ArrayWriter {
  private taken = 0;

  constructor(private readonly most: number) {
    super();
  }

  override writeUint8Array(array: Uint8Array): Promise<void> {
    this.taken += array.length;
    if (this.taken > this.most) throw new Error('more than it may hold');
    return super.writeUint8Array(array);
  }
}

/** Opens pictures in a zip as a clip; each is read when it is asked for. Throws OmbrageError. */
export async function openPictures(blob: Blob, name: string, decode: DecodePicture): Promise<ClipReader> {
  const bad = (what: string, hint = 'Choose a folder or a zip of numbered pictures.'): OmbrageError =>
    new OmbrageError('bad-clip', `${name} ${what}`, hint);
  // told at its end: nobody makes room for more
  if (((await entriesOf(blob)) ?? 0) > MOST_FRAMES + MOST_STRANGERS) throw bad(`holds more than ${MOST_FRAMES} pictures.`);
  const zip = new ZipReader(new BlobReader(blob), { useWebWorkers: false });
  const entries = new Map<string, FileEntry>();
  try {
    for (const entry of await zip.getEntries()) if (!entry.directory) entries.set(entry.filename, entry);
  } catch {
    throw bad('is not a zip, or is damaged.', 'Choose an undamaged copy.');
  }
  const sequence = findSequence([...entries.keys()]);
  if (!sequence) throw bad('holds no numbered pictures.');
  if (sequence.names.length > MOST_FRAMES) throw bad(`holds more than ${MOST_FRAMES} pictures.`);
  const fileOf = async (index: number): Promise<{ bytes: Uint8Array; name: string }> => {
    const file = sequence.names[index]!;
    const entry = entries.get(file)!;
    const most = GROWTH * entry.compressedSize + ALLOWANCE;
    if (entry.uncompressedSize > most)
      throw bad(`is no sequence: ${file} unpacks to far more than a picture does.`, 'Do not use it; ask for a new copy.');
    try {
      return { bytes: await entry.getData(new BoundedWriter(most)), name: file };
    } catch (error) {
      if (error instanceof OmbrageError) throw error;
      throw bad(`is damaged in ${file}.`, 'Choose an undamaged copy.');
    }
  };
  const read = async (index: number): ReturnType<DecodePicture> => {
    const { bytes, name: file } = await fileOf(index);
    return decode(bytes, file);
  };
  const first = await read(0);
  const { width, height } = first.raster;
  const kind = PICTURE.exec(sequence.names[0]!)![1]!.toUpperCase();
  const remarks: string[] = [];
  const some = (list: readonly (string | number)[]): string =>
    `${list.slice(0, 3).join(', ')}${list.length > 3 ? ` and ${list.length - 3} more` : ''}`;
  if (sequence.strangers.length > 0) remarks.push(`Left out, not of the sequence: ${some(sequence.strangers)}.`);
  if (sequence.missing.length > 0) remarks.push(`Numbers are missing (${some(sequence.missing)}): the frames on both sides follow each other.`);
  return {
    facts: {
      format: `${kind} sequence`,
      codec: kind,
      width,
      height,
      frames: sequence.names.length,
      fps: USUAL_FPS,
      rotation: 0,
      bits: first.bits,
      alpha: first.raster.channels === 4 || first.raster.channels === 2,
      sound: false,
      remarks,
      ...(sequence.missing.length === 0 && { numbered: numberedAs(sequence.names[0]!) }),
      ...(first.plate === false && { plate: false }),
    },
    file: fileOf,
    frame: async (index) => {
      const { raster } = await read(index);
      if (raster.width !== width || raster.height !== height)
        throw bad(
          `changes its size: ${sequence.names[index]} is ${raster.width}x${raster.height} px, the first is ${width}x${height}.`,
          'Save all frames at one size.',
        );
      return raster;
    },
    close: () => void zip.close(),
  };
}
