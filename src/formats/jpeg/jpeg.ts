import { OmbrageError } from '../../core/error';
import { view } from '../bytes/bytes';
import { defineFormat } from '../definition';

const CHANNELS: Record<number, string> = { 1: 'grey', 3: 'RGB', 4: 'CMYK' };

/** Walks the segments up to the frame header: bits and channels. */
function frameHeader(bytes: Uint8Array): { bits: number; channels: number } {
  const data = view(bytes);
  for (let p = 2; p + 9 < bytes.length;) {
    if (bytes[p] !== 0xff) {
      p++;
      continue;
    }
    const marker = bytes[p + 1]!;
    if (marker === 0xff || marker === 0 || (marker >= 0xd0 && marker <= 0xd8)) {
      p += marker === 0xff ? 1 : 2;
      continue;
    }
    if (marker >= 0xc0 && marker <= 0xcf && marker !== 0xc4 && marker !== 0xc8 && marker !== 0xcc)
      return { bits: bytes[p + 4]!, channels: bytes[p + 9]! };
    p += 2 + data.getUint16(p + 2);
  }
  throw new OmbrageError('damaged-file', 'The JPEG ends before its header.', 'Choose an undamaged copy.');
}

export const jpeg = defineFormat({
  kind: 'jpeg',
  label: 'JPEG',
  extensions: ['jpg', 'jpeg', 'jpe'],
  mime: 'image/jpeg',
  decodedBy: 'platform',
  isWhole: jpegIsWhole,
  writePicture: (picture, { quality, encoders }) => encoders.jpeg(picture, quality),
  use: 'plates, with EXIF orientation and field of view; pictures out',
  matches: (bytes) => bytes[0] === 0xff && bytes[1] === 0xd8 && bytes[2] === 0xff,
  describe: (bytes) => {
    const { bits, channels } = frameHeader(bytes);
    return { bits, colour: CHANNELS[channels] ?? `${channels} channels`, animated: false };
  },
});

/** Whether the compressed picture runs to its end mark; a truncated JPEG would decode with its lower part grey. */
function jpegIsWhole(bytes: Uint8Array): boolean {
  // further pictures or padding may follow the first end mark
  for (let p = bytes.length - 2; p >= 2; p--) if (bytes[p] === 0xff && bytes[p + 1] === 0xd9) return lastScan(bytes) < p;
  return false;
}

function lastScan(bytes: Uint8Array): number {
  for (let p = 2; p + 1 < bytes.length; p++) if (bytes[p] === 0xff && bytes[p + 1] === 0xda) return p;
  return bytes.length;
}
