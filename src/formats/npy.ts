import npyjs from 'npyjs';
import { OmbrageError } from '../core/error';
import { newPlane, type Plane } from '../core/raster/picture';
import { hasText } from './bytes';
import { defineFormat } from './definition';
import { checkMapSize } from './mapFacts';

const damaged = (why: string): OmbrageError => new OmbrageError('damaged-file', `The NPY ${why}.`, 'Save the array again and choose that.');

/** Its header: kind of numbers, shape, order. Read before anything is allocated. */
function readHeader(bytes: Uint8Array): { descr: string; fortran: boolean; shape: number[]; start: number } {
  const two = bytes[6]! >= 2;
  const start = two ? 12 : 10;
  if (bytes.length < start) throw damaged('ends within its header');
  const length = bytes[8]! + bytes[9]! * 256 + (two ? bytes[10]! * 65536 + bytes[11]! * 16777216 : 0);
  if (start + length > bytes.length) throw damaged('ends within its header');
  const text = new TextDecoder('latin1').decode(bytes.subarray(start, start + length));
  const descr = /'descr'\s*:\s*'([^']+)'/.exec(text)?.[1];
  const fortran = /'fortran_order'\s*:\s*(True|False)/.exec(text)?.[1];
  const shape = /'shape'\s*:\s*\(([^)]*)\)/.exec(text)?.[1];
  if (!descr || !fortran || shape === undefined) throw damaged('has no usable header');
  return {
    descr,
    fortran: fortran === 'True',
    shape: shape
      .split(',')
      .filter((s) => s.trim())
      .map(Number),
    start: start + length,
  };
}

const ITEM = /^[<>|=]?([fiu])([1248])$/;

function layout(bytes: Uint8Array): ReturnType<typeof readHeader> & { width: number; height: number; planes: number; bits: number; float: boolean } {
  const header = readHeader(bytes);
  const item = ITEM.exec(header.descr);
  if (!item) throw damaged(`holds numbers of a kind that is no depth (${header.descr})`);
  // (height, width), or with one or more channels first or last
  const shape = header.shape.filter((n, i, all) => !(n === 1 && all.length > 2 && (i === 0 || i === all.length - 1)));
  if (shape.length !== 2 || shape.some((n) => !Number.isInteger(n) || n < 1))
    throw damaged(`has the shape (${header.shape.join(', ')}), not (height, width)`);
  const [height, width] = shape as [number, number];
  checkMapSize(width, height, 'The NPY');
  const size = Number(item[2]);
  if (bytes.length - header.start < width * height * size)
    throw damaged(`holds ${bytes.length - header.start} of ${width * height * size} bytes of numbers`);
  return { ...header, width, height, planes: 1, bits: size * 8, float: item[1] === 'f' };
}

export const npy = defineFormat({
  kind: 'npy',
  label: 'NPY',
  extensions: ['npy'],
  mime: 'application/octet-stream',
  decodedBy: 'own',
  use: 'depth in: a plane of numbers, whole or float',
  matches: (bytes) => hasText(bytes, 0, '\x93NUMPY'),
  describe: (bytes) => ({ bits: layout(bytes).bits, colour: 'numbers', animated: false }),
  size: layout,
});

/** A two-dimensional array of numbers, as it is stored. */
export function decodeNpy(bytes: Uint8Array): { plane: Plane; bits: number; float: boolean } {
  const { width, height, fortran, bits, float } = layout(bytes);
  let data: ArrayLike<number | bigint>;
  try {
    data = new npyjs({ convertFloat16: true }).parse(asLittleEndian(bytes).buffer as ArrayBuffer).data as unknown as ArrayLike<number | bigint>;
  } catch {
    throw damaged('cannot be read');
  }
  if (data.length < width * height) throw damaged('is shorter than its shape');
  const plane = newPlane(width, height);
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) plane.data[y * width + x] = Number(data[fortran ? x * height + y : y * width + x]);
  return { plane, bits, float };
}

/** A copy whose numbers run from their low byte, as the parser wants them. */
function asLittleEndian(bytes: Uint8Array): Uint8Array {
  const out = bytes.slice();
  const { descr, start, bits } = layout(bytes);
  if (!descr.startsWith('>')) return out;
  const size = bits / 8;
  for (let p = start; p + size <= out.length; p += size) out.subarray(p, p + size).reverse();
  const at = new TextDecoder('latin1').decode(out.subarray(0, start)).indexOf(descr);
  out[at] = '<'.charCodeAt(0);
  return out;
}
