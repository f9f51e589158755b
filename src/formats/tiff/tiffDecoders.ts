import { BaseDecoder } from 'geotiff';
import { inflateUpTo, TooMuch } from '../bytes/inflate';

/** What a block may unpack to beyond its pixels, bytes: some writers pad. */
const SLACK = 4096;

interface Parameters {
  readonly tileWidth: number;
  readonly tileHeight: number;
  readonly bitsPerSample: number | ArrayLike<number>;
  readonly planarConfiguration: number;
}

/** Bytes of one strip or tile, unpacked. */
export function blockBytes({ tileWidth, tileHeight, bitsPerSample, planarConfiguration }: Parameters): number {
  const bits = typeof bitsPerSample === 'number' ? [bitsPerSample] : Array.from(bitsPerSample);
  const perPixel = planarConfiguration === 2 ? Math.max(...bits) : bits.reduce((sum, b) => sum + b, 0);
  return Math.ceil((tileWidth * perPixel) / 8) * tileHeight;
}

const mostOf = (decoder: BaseDecoder): number => blockBytes(decoder.parameters) + SLACK;

/** Deflate that unpacks to no more than a block holds. */
export class BoundedDeflate extends BaseDecoder {
  override async decodeBlock(buffer: ArrayBufferLike): Promise<ArrayBufferLike> {
    return (await inflateUpTo([new Uint8Array(buffer)], mostOf(this))).buffer;
  }
}

const CLEAR = 256;
const END = 257;
const LONGEST_CODE = 12;

/** LZW as in TIFF 6.0, section 13, to at most `most` bytes. Throws where a code stands for nothing. */
export function unpackLzw(packed: Uint8Array, most: number): Uint8Array {
  const out = new Uint8Array(most);
  let size = 0;
  // each code is a string that was written before: where it lies in what is unpacked, and how long it is
  const from = new Int32Array(4097);
  const length = new Int32Array(4097);
  let next = 258;
  let bits = 9;
  let held = 0;
  let have = 0;
  let at = 0;
  let before = -1;
  const put = (start: number, count: number): void => {
    if (size + count > most) throw new TooMuch();
    for (let i = 0; i < count; i++) out[size + i] = out[start + i]!;
    size += count;
  };
  for (;;) {
    while (have < bits) {
      if (at >= packed.length) return out.subarray(0, size);
      held = ((held << 8) | packed[at++]!) >>> 0;
      have += 8;
    }
    const code = (held >>> (have - bits)) & ((1 << bits) - 1);
    have -= bits;
    held &= (1 << have) - 1;
    if (code === END) return out.subarray(0, size);
    if (code === CLEAR) {
      next = 258;
      bits = 9;
      before = -1;
      continue;
    }
    const start = size;
    if (code < 256) {
      if (size >= most) throw new TooMuch();
      out[size++] = code;
    } else if (code < next) put(from[code]!, length[code]!);
    else if (code === next && before >= 0) {
      // the string before with its own first byte again
      put(before, start - before);
      put(before, 1);
    } else throw new Error('a code that stands for nothing');
    if (before >= 0 && next < 4096) {
      from[next] = before;
      length[next] = start - before + 1;
      next++;
      // codes grow one step early (TIFF 6.0)
      if (next + 1 >= 1 << bits && bits < LONGEST_CODE) bits++;
    }
    before = start;
  }
}

/** LZW that unpacks to no more than a block holds. */
export class BoundedLzw extends BaseDecoder {
  override decodeBlock(buffer: ArrayBufferLike): ArrayBufferLike {
    return unpackLzw(new Uint8Array(buffer), mostOf(this)).slice().buffer;
  }
}

/** Compressed bytes that are unpacked at once. */
const BITE = 1 << 14;

/** Zstandard (RFC 8878) that unpacks to no more than a block holds. */
export class BoundedZstd extends BaseDecoder {
  override async decodeBlock(buffer: ArrayBufferLike): Promise<ArrayBufferLike> {
    const { Decompress } = await import('fzstd');
    const out = new Uint8Array(mostOf(this));
    let size = 0;
    const stream = new Decompress((piece) => {
      if (size + piece.length > out.length) throw new TooMuch();
      out.set(piece, size);
      size += piece.length;
    });
    const bytes = new Uint8Array(buffer);
    for (let at = 0; at < bytes.length; at += BITE) stream.push(bytes.subarray(at, at + BITE), at + BITE >= bytes.length);
    return out.slice(0, size).buffer;
  }
}
