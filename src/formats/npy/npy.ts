import { OmbrageError } from '../../core/error';
import { newPlane, type Plane } from '../../core/picture';
import { hasText, view } from '../bytes/bytes';
import { defineFormat } from '../definition';
import { checkMapSize } from '../mapFacts';

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
  describe: (bytes) => ({ bits: layout(bytes).bits, colour: 'numbers', animated: false, plate: false }),
  size: layout,
  readMap: (bytes) => {
    const { plane, bits, float } = decodeNpy(bytes);
    // 8- and 16-bit whole numbers are greys; wider ones count something, such as millimetres
    const top = !float && bits <= 16 ? 2 ** bits - 1 : 1;
    if (top > 1) for (let i = 0; i < plane.data.length; i++) plane.data[i]! /= top;
    return { plane, bits, float: top === 1, channel: 'numbers', channels: ['numbers'] };
  },
});

/** How one number is read, by kind and bytes. */
const READERS: Readonly<Record<string, (data: DataView, at: number, little: boolean) => number>> = {
  f2: (data, at, little) => halfFloat(data.getUint16(at, little)),
  f4: (data, at, little) => data.getFloat32(at, little),
  f8: (data, at, little) => data.getFloat64(at, little),
  i1: (data, at) => data.getInt8(at),
  i2: (data, at, little) => data.getInt16(at, little),
  i4: (data, at, little) => data.getInt32(at, little),
  i8: (data, at, little) => Number(data.getBigInt64(at, little)),
  u1: (data, at) => data.getUint8(at),
  u2: (data, at, little) => data.getUint16(at, little),
  u4: (data, at, little) => data.getUint32(at, little),
  u8: (data, at, little) => Number(data.getBigUint64(at, little)),
};

/** A 16-bit float (IEEE 754 binary16). */
function halfFloat(bits: number): number {
  const [sign, exponent, part] = [bits & 0x8000 ? -1 : 1, (bits >> 10) & 31, bits & 1023];
  if (exponent === 0) return sign * part * 2 ** -24;
  if (exponent === 31) return part ? NaN : sign * Infinity;
  return sign * (1 + part / 1024) * 2 ** (exponent - 15);
}

/** A two-dimensional array of numbers, as it is stored. Throws OmbrageError `damaged-file`. */
export function decodeNpy(bytes: Uint8Array): { plane: Plane; bits: number; float: boolean } {
  const { width, height, fortran, bits, float, descr, start } = layout(bytes);
  const [, kind, size] = ITEM.exec(descr)!;
  const read = READERS[`${kind}${size}`];
  if (!read) throw damaged(`holds numbers of a kind that is no depth (${descr})`);
  const data = view(bytes);
  const little = !descr.startsWith('>');
  const step = bits / 8;
  const plane = newPlane(width, height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) plane.data[y * width + x] = read(data, start + (fortran ? x * height + y : y * width + x) * step, little);
  return { plane, bits, float };
}
