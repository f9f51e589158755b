import { OmbrageError } from '../core/error';
import { MOST_FRAMES } from './clip';

/** Boxes that hold others on the way to the tables of samples (ISO/IEC 14496-12). */
const HOLDERS = ['moov', 'trak', 'mdia', 'minf', 'stbl', 'moof', 'traf', 'mvex', 'edts'];
/** The index of a clip is read whole; a larger one is none. */
const LARGEST_INDEX = 256e6;

const refused = (name: string): OmbrageError =>
  new OmbrageError('bad-clip', `${name} is damaged: it claims more frames than its bytes can hold.`, 'Choose an undamaged copy.');

/** How many samples a table says there are; null where it says nothing of it. Times run in lengths of so many samples of the same duration. */
function claimed(type: string, view: DataView): number | null {
  const entries = (): number => (view.byteLength >= 8 ? view.getUint32(4) : 0);
  switch (type) {
    case 'stts':
    case 'ctts': {
      let sum = 0;
      for (let k = 0, at = 8; k < entries() && at + 8 <= view.byteLength; k++, at += 8) sum += view.getUint32(at);
      return sum;
    }
    case 'stsz':
    case 'stz2':
      return view.byteLength >= 12 ? view.getUint32(8) : 0;
    case 'trun':
      return entries();
    case 'stss':
    case 'stsc':
    case 'stco':
    case 'co64':
      return entries();
    default:
      return null;
  }
}

/** Checks the boxes in a piece of a file. Throws OmbrageError where one claims more than `most` samples. */
function checkBoxes(bytes: Uint8Array, most: number, name: string): void {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  for (let at = 0; at + 8 <= bytes.length;) {
    const size = view.getUint32(at);
    const type = String.fromCharCode(...bytes.subarray(at + 4, at + 8));
    const head = size === 1 ? 16 : 8;
    const end = size === 0 ? bytes.length : size === 1 ? at + Number(at + 16 <= bytes.length ? view.getBigUint64(at + 8) : 0n) : at + size;
    if (end < at + head) return;
    const inside = bytes.subarray(at + head, Math.min(end, bytes.length));
    if (HOLDERS.includes(type)) checkBoxes(inside, most, name);
    else {
      const count = claimed(type, new DataView(inside.buffer, inside.byteOffset, inside.byteLength));
      if (count !== null && count > most) throw refused(name);
    }
    at = end;
  }
}

/**
 * Refuses an MP4 or MOV whose index claims more samples than its bytes can hold, before anybody makes room for them. Other files pass. `name` is
 * used in messages. Throws OmbrageError.
 */
export async function checkClaims(blob: Blob, name: string): Promise<void> {
  const head = async (at: number): Promise<DataView> => new DataView(await blob.slice(at, at + 16).arrayBuffer());
  // a sample takes a byte at the least
  const most = Math.max(blob.size, MOST_FRAMES);
  for (let at = 0, boxes = 0; at + 8 <= blob.size && boxes < 100_000; boxes++) {
    const view = await head(at);
    const type = String.fromCharCode(...new Uint8Array(view.buffer, 4, 4));
    if (at === 0 && !/^(ftyp|moov|mdat|wide|free|skip|styp|pnot)$/.test(type)) return;
    const short = view.getUint32(0);
    const size = short === 0 ? blob.size - at : short === 1 && view.byteLength >= 16 ? Number(view.getBigUint64(8)) : short;
    if (size < 8) return;
    if (type === 'moov' || type === 'moof') {
      if (size > LARGEST_INDEX) throw refused(name);
      checkBoxes(new Uint8Array(await blob.slice(at, at + size).arrayBuffer()), most, name);
    }
    at += size;
  }
}

/** Bytes at a zip's end in which its last record stands (APPNOTE 4.3.16: 22 bytes, and a comment). */
const TAIL = 22 + 65_535;

/** How many entries a zip says it has, from the record at its end; null where there is none. */
export async function entriesOf(blob: Blob): Promise<number | null> {
  const tail = new Uint8Array(await blob.slice(Math.max(0, blob.size - TAIL)).arrayBuffer());
  const view = new DataView(tail.buffer);
  for (let at = tail.length - 22; at >= 0; at--) {
    if (view.getUint32(at, true) !== 0x06054b50) continue;
    const count = view.getUint16(at + 10, true);
    // more than fit here stand in a record of their own (4.3.14), just before
    if (count < 0xffff) return count;
    for (let k = at - 56; k >= 0; k--) if (view.getUint32(k, true) === 0x06064b50) return Number(view.getBigUint64(k + 32, true));
    return count;
  }
  return null;
}
