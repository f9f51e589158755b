import { OmbrageError } from '../../core/error';
import { view } from '../bytes/bytes';
import { checkFull, checkMapSize } from '../mapFacts';

export interface Channel {
  readonly name: string;
  /** 0 whole numbers, 1 half, 2 float */
  readonly type: number;
  /** where its entry lies in the file */
  readonly from: number;
  readonly to: number;
}

/** What the header of an OpenEXR file tells. */
export interface Header {
  readonly width: number;
  readonly height: number;
  readonly channels: readonly Channel[];
  readonly tiled: boolean;
  readonly compression: number;
  /** rows of the first chunk begin here */
  readonly top: number;
  /** px of a tile; null for scan lines */
  readonly tile: { readonly x: number; readonly y: number } | null;
  /** entries of the table of offsets, and where it begins */
  readonly chunks: number;
  readonly table: number;
  /** where the channel list's length is written, and where the list begins and ends */
  readonly listSize: number;
  readonly listFrom: number;
  readonly listTo: number;
}

export const damaged = (why: string): OmbrageError => new OmbrageError('damaged-file', `The EXR ${why}.`, 'Choose an undamaged copy.');

/** Rows that are compressed together, by the number of the compression. */
export const ROWS_TOGETHER = [1, 1, 1, 16, 32, 16, 32, 32, 32, 256];

/** Reads the header of a single-part file (OpenEXR file layout). Throws `damaged-file` or `unsupported-file`. */
export function readHeader(bytes: Uint8Array): Header {
  const data = view(bytes);
  if (bytes.length < 16) throw damaged('ends within its header');
  const version = data.getUint32(4, true);
  if (version & 0x1800)
    throw new OmbrageError(
      'unsupported-file',
      'The EXR has several parts or deep pixels.',
      'Save the depth as a file of its own, in scan lines or tiles.',
    );
  let p = 8;
  const text = (): string => {
    let s = '';
    while (p < bytes.length && bytes[p] !== 0) {
      s += String.fromCharCode(bytes[p++]!);
      if (s.length > 255) throw damaged('has a broken header');
    }
    p++;
    if (p > bytes.length) throw damaged('ends within its header');
    return s;
  };
  const channels: Channel[] = [];
  let [width, height, compression, listSize, listFrom, listTo, top] = [0, 0, 0, 0, 0, 0, 0];
  let tile: { x: number; y: number; mode: number } | null = null;
  for (;;) {
    const name = text();
    if (name === '') break;
    text();
    if (p + 4 > bytes.length) throw damaged('ends within its header');
    const sizeAt = p;
    const size = data.getInt32(p, true);
    p += 4;
    if (size < 0 || p + size > bytes.length) throw damaged('has a broken header');
    const end = p + size;
    if (name === 'channels') {
      [listSize, listFrom, listTo] = [sizeAt, p, end];
      while (p < end && bytes[p] !== 0) {
        const from = p;
        const channel = text();
        if (p + 16 > end) throw damaged('has a broken list of channels');
        if (data.getInt32(p + 8, true) !== 1 || data.getInt32(p + 12, true) !== 1)
          throw new OmbrageError('unsupported-file', 'The EXR stores some channels at a lower resolution.', 'Save it without subsampled channels.');
        channels.push({ name: channel, type: data.getInt32(p, true), from, to: p + 16 });
        p += 16;
      }
    } else if (name === 'dataWindow' && size >= 16) {
      width = data.getInt32(p + 8, true) - data.getInt32(p, true) + 1;
      top = data.getInt32(p + 4, true);
      height = data.getInt32(p + 12, true) - top + 1;
    } else if (name === 'compression' && size >= 1) compression = bytes[p]!;
    else if (name === 'tiles' && size >= 9) tile = { x: data.getUint32(p, true), y: data.getUint32(p + 4, true), mode: bytes[p + 8]! & 15 };
    p = end;
  }
  checkMapSize(width, height, 'The EXR');
  if (channels.length === 0) throw damaged('lists no channels');
  if (compression >= ROWS_TOGETHER.length) throw damaged('is compressed in a way that is not known');
  const tiled = (version & 0x200) !== 0;
  if (tiled && !(tile && tile.x > 0 && tile.y > 0)) throw damaged('has no usable tiles');
  let chunks = Math.ceil(height / ROWS_TOGETHER[compression]!);
  if (tiled && tile) {
    chunks = Math.ceil(width / tile.x) * Math.ceil(height / tile.y);
    if (tile.mode !== 0) throw new OmbrageError('unsupported-file', 'The EXR holds several resolutions.', 'Save it at one resolution.');
  }
  if (p + chunks * 8 > bytes.length) throw damaged('ends within its table of rows');
  checkFull(width * height * channels.length * 2, bytes.length, 'The EXR');
  return { width, height, channels, tiled, compression, top, tile: tiled ? tile : null, chunks, table: p, listSize, listFrom, listTo };
}
