import type { Plane } from '../../core/picture';

/** Greys are kept in so many levels: an estimate is not that sharp, and noise below them would be most of the bytes. */
const LEVELS = 4095;
/** What is not known. */
const UNKNOWN = LEVELS + 1;

/** A plane as it is kept: its size, the ends of its values, and its greys packed. */
export interface PackedPlane {
  readonly width: number;
  readonly height: number;
  readonly low: number;
  readonly high: number;
  readonly bytes: Uint8Array<ArrayBuffer>;
}

/** Greys as differences from what their neighbours foretell (the median of left, above, and their plane: Weinberger, Seroussi & Sapiro 2000), small ones of either sign small, high bytes before low ones. */
export function predict(grey: Uint16Array, width: number): Uint8Array<ArrayBuffer> {
  const n = grey.length;
  const out = new Uint8Array(2 * n);
  for (let i = 0, x = 0; i < n; i++) {
    const off = (grey[i]! - foretell(grey, i, x, width)) & 0xffff;
    const small = ((off << 1) ^ (off & 0x8000 ? 0xffff : 0)) & 0xffff;
    out[i] = small >> 8;
    out[n + i] = small & 255;
    if (++x === width) x = 0;
  }
  return out;
}

/** The greys that `foretold` was made of. */
export function restore(bytes: Uint8Array, width: number): Uint16Array {
  const n = bytes.length >> 1;
  const grey = new Uint16Array(n);
  for (let i = 0, x = 0; i < n; i++) {
    const small = (bytes[i]! << 8) | bytes[n + i]!;
    grey[i] = (foretell(grey, i, x, width) + ((small >>> 1) ^ -(small & 1))) & 0xffff;
    if (++x === width) x = 0;
  }
  return grey;
}

function foretell(grey: Uint16Array, i: number, x: number, width: number): number {
  const left = x ? grey[i - 1]! : 0;
  const above = i >= width ? grey[i - width]! : 0;
  const corner = x && i >= width ? grey[i - width - 1]! : 0;
  const most = left > above ? left : above;
  const least = left > above ? above : left;
  return corner >= most ? least : corner <= least ? most : left + above - corner;
}

const through = async (bytes: Uint8Array<ArrayBuffer>, stream: CompressionStream | DecompressionStream): Promise<Uint8Array<ArrayBuffer>> =>
  new Uint8Array(await new Response(new Blob([bytes]).stream().pipeThrough(stream)).arrayBuffer());

/** A plane as it comes back once it has been packed. */
export function levelled(plane: Plane): Plane {
  const { low, high, grey } = levelsOf(plane);
  return { width: plane.width, height: plane.height, data: fromLevels(grey, low, high) };
}

/** Greys in levels between the ends of a plane's values. */
function levelsOf({ data }: Plane): { readonly low: number; readonly high: number; readonly grey: Uint16Array } {
  let low = Infinity;
  let high = -Infinity;
  for (const v of data)
    if (v === v) {
      low = Math.min(low, v);
      high = Math.max(high, v);
    }
  if (!(high > low)) high = low = Number.isFinite(low) ? low : 0;
  const per = high > low ? LEVELS / (high - low) : 0;
  return { low, high, grey: Uint16Array.from(data, (v) => (v === v ? Math.round((v - low) * per) : UNKNOWN)) };
}

const fromLevels = (grey: Uint16Array, low: number, high: number): Float32Array =>
  Float32Array.from(grey, (g) => (g === UNKNOWN ? NaN : low + (g * (high - low)) / LEVELS));

/** Packs a plane to 4096 levels between its ends; what is not known (NaN) stays so. */
export async function packPlane(plane: Plane): Promise<PackedPlane> {
  const { width, height } = plane;
  const { low, high, grey } = levelsOf(plane);
  return { width, height, low, high, bytes: await through(predict(grey, width), new CompressionStream('deflate-raw')) };
}

/** The plane that was packed. */
export async function unpackPlane({ width, height, low, high, bytes }: PackedPlane): Promise<Plane> {
  const grey = restore(await through(bytes, new DecompressionStream('deflate-raw')), width);
  if (grey.length !== width * height) throw new Error('a packed plane is damaged');
  return { width, height, data: fromLevels(grey, low, high) };
}
