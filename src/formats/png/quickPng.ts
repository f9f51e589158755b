import type { Raster } from '../../core/picture';

const SIGNATURE = [137, 80, 78, 71, 13, 10, 26, 10];
const RGBA = 6;

const TABLE = Uint32Array.from({ length: 256 }, (_, n) => {
  let c = n;
  for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
  return c;
});

/** The check of a chunk (PNG, annex D). */
function crcOf(bytes: Uint8Array): number {
  let c = 0xffffffff;
  for (const byte of bytes) c = TABLE[(c ^ byte) & 255]! ^ (c >>> 8);
  return (c ^ 0xffffffff) >>> 0;
}

function chunk(type: string, data: Uint8Array): Uint8Array<ArrayBuffer> {
  const bytes = new Uint8Array(data.length + 12);
  const view = new DataView(bytes.buffer);
  view.setUint32(0, data.length);
  for (let k = 0; k < 4; k++) bytes[4 + k] = type.charCodeAt(k);
  bytes.set(data, 8);
  view.setUint32(8 + data.length, crcOf(bytes.subarray(4, 8 + data.length)));
  return bytes;
}

/** Eight-bit RGBA as it is, as a PNG, without filters: compressed by what the browser brings, two to four times as fast as in script. */
export async function quickPng({ width, height, data }: Pick<Raster, 'width' | 'height'> & { readonly data: Uint8Array }): Promise<Blob> {
  const rows = new Uint8Array(height * (4 * width + 1));
  for (let y = 0; y < height; y++) rows.set(data.subarray(4 * width * y, 4 * width * (y + 1)), y * (4 * width + 1) + 1);
  const packed = await new Response(new Blob([rows]).stream().pipeThrough(new CompressionStream('deflate'))).arrayBuffer();
  const head = new Uint8Array(13);
  const view = new DataView(head.buffer);
  view.setUint32(0, width);
  view.setUint32(4, height);
  head[8] = 8;
  head[9] = RGBA;
  return new Blob([Uint8Array.from(SIGNATURE), chunk('IHDR', head), chunk('IDAT', new Uint8Array(packed)), chunk('IEND', new Uint8Array(0))], {
    type: 'image/png',
  });
}
