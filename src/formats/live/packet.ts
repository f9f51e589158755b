import { OmbrageError } from '../../core/error';

/** What a picture of a device holds: depth in alpha, depth in its right half, or colour alone. */
export const HOLDS = ['alpha', 'side', 'colour'] as const;
export type Holds = (typeof HOLDS)[number];
/** How its pixels are packed: four bytes each, or a PNG. */
export const FORMS = ['raw', 'png'] as const;
export type Form = (typeof FORMS)[number];

/** A picture as it is sent by a device. */
export interface LivePacket {
  readonly holds: Holds;
  readonly form: Form;
  /** counted by the device */
  readonly number: number;
  /** when it was taken, ms since 1970 */
  readonly at: number;
  /** of the picture as it is packed, px: one that holds depth in its right half is twice as wide as what it shows */
  readonly width: number;
  readonly height: number;
  /** what white and black of its depth stand for, m; 0 where that is not known */
  readonly near: number;
  readonly far: number;
  readonly body: Uint8Array;
}

const MAGIC = [0x4f, 0x4d, 0x42, 0x4c];
const VERSION = 1;
/** Bytes of the header (docs/live-device.md). */
export const HEADER = 36;
/** Longest side, px. */
const LONGEST = 4096;

const bad = (what: string): OmbrageError =>
  new OmbrageError('bad-packet', `A picture of the device ${what}.`, 'It was left out; what sends it should be looked at.');

/** Whether a message is meant as a picture, and no OSC. */
export const isPacket = (bytes: Uint8Array): boolean => MAGIC.every((b, i) => bytes[i] === b);

export function writePacket({ holds, form, number, at, width, height, near, far, body }: LivePacket): Uint8Array<ArrayBuffer> {
  const bytes = new Uint8Array(HEADER + body.length);
  const view = new DataView(bytes.buffer);
  bytes.set(MAGIC);
  bytes[4] = VERSION;
  bytes[5] = HOLDS.indexOf(holds);
  bytes[6] = FORMS.indexOf(form);
  view.setUint32(8, number, true);
  view.setFloat64(12, at, true);
  view.setUint16(20, width, true);
  view.setUint16(22, height, true);
  view.setFloat32(24, near, true);
  view.setFloat32(28, far, true);
  view.setUint32(32, body.length, true);
  bytes.set(body, HEADER);
  return bytes;
}

/** Reads a picture of a device. Throws OmbrageError `bad-packet`. */
export function readPacket(bytes: Uint8Array): LivePacket {
  if (bytes.length < HEADER || !isPacket(bytes)) throw bad('has a broken header');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes[4] !== VERSION) throw bad(`is of version ${bytes[4]!}; known is ${VERSION}`);
  const holds = HOLDS[bytes[5]!];
  const form = FORMS[bytes[6]!];
  if (!holds || !form) throw bad('is of a kind that is not known');
  const [width, height] = [view.getUint16(20, true), view.getUint16(22, true)];
  if (width < 2 || height < 2 || width > LONGEST || height > LONGEST) throw bad(`is ${width}×${height} px; 2 to ${LONGEST} are known`);
  if (holds === 'side' && width % 2 === 1) throw bad('cannot be halved: its width is odd');
  const length = view.getUint32(32, true);
  const body = bytes.subarray(HEADER);
  if (body.length !== length) throw bad('is cut short, or too long');
  if (form === 'raw' && length !== 4 * width * height) throw bad('holds another number of pixels than it says');
  const at = view.getFloat64(12, true);
  const [near, far] = [view.getFloat32(24, true), view.getFloat32(28, true)];
  const sound = near > 0 && far > near;
  return {
    holds,
    form,
    number: view.getUint32(8, true),
    at: Number.isFinite(at) ? at : 0,
    width,
    height,
    near: sound ? near : 0,
    far: sound ? far : 0,
    body,
  };
}
