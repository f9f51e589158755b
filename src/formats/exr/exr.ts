import { OmbrageError } from '../../core/error';
import { newPlane, type Plane, type Raster } from '../../core/picture';
import { view } from '../bytes/bytes';
import { defineFormat, type FoundMap } from '../definition';
import { checkChunks } from './exrChunks';
import { damaged, readHeader, type Header } from './exrHeader';
import { encodeExr } from './exrWriter';
import { sixteenBits } from '../bytes/sixteenBits';

export { encodeExr };

export const exr = defineFormat({
  kind: 'exr',
  label: 'OpenEXR',
  extensions: ['exr'],
  mime: 'image/x-exr',
  decodedBy: 'own',
  use: 'plates in (linear light up to white); depth in (half or float; Z or any channel) and out',
  matches: (bytes) => bytes[0] === 0x76 && bytes[1] === 0x2f && bytes[2] === 0x31 && bytes[3] === 0x01,
  describe: (bytes) => {
    const { channels } = readHeader(bytes);
    const names = channels.map((c) => c.name);
    return { bits: channels.some((c) => c.type !== 1) ? 32 : 16, colour: names.join(', '), animated: false, plate: colourChannels(names) !== null };
  },
  size: readHeader,
  readPicture: (bytes, _, use) => (use === 'plate' ? readColours(bytes) : null),
  readMap: (bytes, channel) => readMap(bytes, channel),
  writePlane: (plane) => encodeExr({ Z: plane }),
});

/** The channels of a picture: red, green, blue, and alpha where there is one, of the part without a name or of the first that has all three; null where there is none. */
function colourChannels(names: readonly string[]): readonly string[] | null {
  const parts = ['', ...names.filter((n) => n.includes('.')).map((n) => n.slice(0, n.lastIndexOf('.') + 1))];
  for (const part of parts) {
    const colours = ['R', 'G', 'B'].map((c) => names.find((n) => n === part + c) ?? '');
    const alpha = names.find((n) => n === `${part}A`);
    if (colours.every(Boolean)) return alpha === undefined ? colours : [...colours, alpha];
  }
  return null;
}

/** The colours of a file as a plate: linear light to sRGB in 16 bits, straight alpha; light above white is cut off. */
async function readColours(bytes: Uint8Array): Promise<Raster> {
  const names = colourChannels(readHeader(bytes).channels.map((c) => c.name));
  if (!names) throw damaged('holds no colours');
  const planes: Plane[] = [];
  for (const name of names) planes.push((await decodeExr(bytes, name)).plane);
  return sixteenBits(planes, true);
}

/** Names that depth is usually given, the likeliest first. */
const DEPTH_NAMES = [/^z$/i, /^depth(\.[a-z])?$/i, /(^|\.)z$/i, /depth/i, /^y$/i, /distance/i, /^r$/i];

/** The channel that most likely holds depth. */
export function likelyChannel(names: readonly string[]): string {
  for (const pattern of DEPTH_NAMES) {
    const found = names.find((n) => pattern.test(n));
    if (found) return found;
  }
  return names[0]!;
}

/**
 * Renames a channel to the one that the decoder reads as grey and every other out of its way. Names have different lengths, so
 * the header is rebuilt and the table of offsets moved with it.
 */
function asGrey(bytes: Uint8Array, header: Header, channel: string): Uint8Array {
  const entries = header.channels.map((c, i) => {
    const name = new TextEncoder().encode(c.name === channel ? 'Y' : `n${i}`);
    const entry = new Uint8Array(name.length + 17);
    entry.set(name);
    entry.set(bytes.subarray(c.to - 16, c.to), name.length + 1);
    return entry;
  });
  const listLength = entries.reduce((s, e) => s + e.length, 1);
  const shift = listLength - (header.listTo - header.listFrom);
  const out = new Uint8Array(bytes.length + shift);
  out.set(bytes.subarray(0, header.listFrom));
  view(out).setInt32(header.listSize, listLength, true);
  let p = header.listFrom;
  for (const entry of entries) {
    out.set(entry, p);
    p += entry.length;
  }
  out.set(bytes.subarray(header.listTo), p + 1);
  const data = view(out);
  for (let i = 0; i < header.chunks; i++) {
    const at = header.table + shift + i * 8;
    data.setBigUint64(at, data.getBigUint64(at, true) + BigInt(shift), true);
  }
  return out;
}

/** One channel of an OpenEXR file as it is stored. Throws OmbrageError. */
export async function decodeExr(
  bytes: Uint8Array,
  wanted: string | null,
): Promise<{ plane: Plane; channel: string; channels: string[]; bits: number }> {
  const header = readHeader(bytes);
  const names = header.channels.map((c) => c.name);
  const channel = wanted !== null && names.includes(wanted) ? wanted : likelyChannel(names);
  const { type } = header.channels.find((c) => c.name === channel)!;
  if (type !== 1 && type !== 2)
    throw new OmbrageError('unsupported-file', `The channel ${channel} of the EXR holds whole numbers.`, 'Save depth as half or float.');
  await checkChunks(bytes, header);
  const { EXRLoader } = await import('three/examples/jsm/loaders/EXRLoader.js');
  const { FloatType, RedFormat } = await import('three');
  let data: Float32Array;
  try {
    const loader = new EXRLoader();
    loader.setDataType(FloatType);
    (loader as { outputFormat: number }).outputFormat = RedFormat;
    data = loader.parse(asGrey(bytes, header, channel).buffer as ArrayBuffer).data as Float32Array;
  } catch {
    throw damaged('cannot be decoded');
  }
  const { width, height } = header;
  if (data.length < width * height) throw damaged('is not whole');
  const plane = newPlane(width, height);
  // the decoder gives rows from the bottom
  for (let y = 0; y < height; y++) plane.data.set(data.subarray((height - 1 - y) * width, (height - y) * width), y * width);
  return { plane, channel, channels: names, bits: type === 1 ? 16 : 32 };
}

/** Names of the three axes of a position pass. */
const POSITION = [
  ['X', 'Y', 'Z'],
  ['P.X', 'P.Y', 'P.Z'],
  ['P.R', 'P.G', 'P.B'],
  ['position.X', 'position.Y', 'position.Z'],
  ['Position.R', 'Position.G', 'Position.B'],
];
const LENGTH = 'length of position';

/** A channel as a map: distances from the camera plane, or the length of a position pass. */
async function readMap(bytes: Uint8Array, wanted: string | null): Promise<FoundMap> {
  const first = await decodeExr(bytes, wanted === LENGTH ? null : wanted);
  const axes = POSITION.find((names) => names.every((n) => first.channels.includes(n)));
  const channels = axes ? [...first.channels, LENGTH] : first.channels;
  let { plane } = first;
  if (axes && wanted === LENGTH) {
    const parts = await Promise.all(axes.map(async (axis) => (await decodeExr(bytes, axis)).plane));
    plane = newPlane(plane.width, plane.height);
    for (let i = 0; i < plane.data.length; i++) plane.data[i] = Math.hypot(...parts.map((p) => p.data[i]!));
  } else if (axes && plane.data.filter((v) => v < 0).length > plane.data.length / 2)
    // a camera that looks along its negative axis
    plane = { ...plane, data: plane.data.map((v) => -v) };
  const channel = wanted === LENGTH && axes ? LENGTH : first.channel;
  const distance = /^z$|(^|\.)z$|dist|length/i.test(channel);
  return { plane, bits: first.bits, float: true, channel, channels, ...(distance && { reading: 'distance' as const, smallIsNear: true }) };
}
