import { OmbrageError } from '../../core/error';
import { newBytes, type Raster } from '../../core/picture';
import { readPng } from '../../formats/png/png';
import type { LivePacket } from '../../formats/live/packet';

const RGBA = 4;

/** The pixels of a device's picture: colour, with depth in alpha where it brings some. `room` may be written to where it is as long. Throws OmbrageError. */
export async function unpackedPicture(packet: LivePacket, room?: Uint8Array): Promise<Raster> {
  const { form, width, height, holds } = packet;
  const whole = form === 'png' ? rgbaOf(await readPng(packet.body, 'plate'), packet) : packet.body;
  const wide = holds === 'side' ? width / 2 : width;
  const length = RGBA * wide * height;
  const data = room?.length === length ? room : newBytes(length, true);
  if (holds !== 'side') data.set(whole);
  else
    for (let y = 0, o = 0; y < height; y++)
      for (let x = 0, p = RGBA * width * y; x < wide; x++, o += RGBA, p += RGBA) {
        data[o] = whole[p]!;
        data[o + 1] = whole[p + 1]!;
        data[o + 2] = whole[p + 2]!;
        // depth is grey: its green tells it
        data[o + 3] = whole[p + RGBA * wide + 1]!;
      }
  if (holds === 'colour') for (let i = 3; i < length; i += RGBA) data[i] = 255;
  return { width: wide, height, channels: RGBA, data, opaque: true };
}

/** A decoded PNG as RGBA of the size that its packet tells. Throws OmbrageError. */
function rgbaOf({ width, height, channels, data }: Raster, packet: LivePacket): Uint8Array {
  if (width !== packet.width || height !== packet.height || !(data instanceof Uint8Array))
    throw new OmbrageError('bad-packet', 'A PNG of the device has another size than it says, or 16 bits.', 'It was left out.');
  if (channels === RGBA) return data;
  const out = new Uint8Array(RGBA * width * height);
  const grey = channels < 3;
  for (let i = 0; i < width * height; i++) {
    const p = i * channels;
    out[RGBA * i] = data[p]!;
    out[RGBA * i + 1] = data[grey ? p : p + 1]!;
    out[RGBA * i + 2] = data[grey ? p : p + 2]!;
    out[RGBA * i + 3] = channels === 2 ? data[p + 1]! : 255;
  }
  return out;
}
