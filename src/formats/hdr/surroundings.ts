import { OmbrageError } from '../../core/error';
import { SurroundSum, type Harmonics } from '../../core/light/harmonics';
import { decodeTable } from '../../core/raster/colour';
import { fullScale } from '../../core/picture';
import { exr } from '../exr/exr';
import { isHdr, readHdr, readHdrHeader } from './hdr';
import type { DecodeRaster } from '../maps/mapFile';

/** Light from all round, from an equirectangular picture: .hdr, .exr, or any still. Throws OmbrageError that names the file. */
export async function readSurroundings(bytes: Uint8Array, name: string, decode: DecodeRaster): Promise<Harmonics> {
  try {
    return await read(bytes, name, decode);
  } catch (error) {
    if (error instanceof OmbrageError && !error.message.includes(name)) throw new OmbrageError(error.code, `${name}: ${error.message}`, error.hint);
    throw error;
  }
}

async function read(bytes: Uint8Array, name: string, decode: DecodeRaster): Promise<Harmonics> {
  if (isHdr(bytes)) {
    const { width, height } = readHdrHeader(bytes);
    const sum = new SurroundSum(width, height);
    readHdr(bytes, (y, rgb) => sum.row(y, rgb, 3));
    return sum.result();
  }
  if (/\.hdr$/i.test(name))
    throw new OmbrageError('damaged-file', `${name} is no Radiance picture.`, 'Choose an .hdr, .exr or .jpg of the surroundings.');
  if (exr.matches(bytes)) {
    const planes = [];
    for (const channel of ['R', 'G', 'B']) {
      const found = await exr.readMap!(bytes, channel);
      if (found.channel !== channel) throw new OmbrageError('not-a-picture', `${name} has no channel ${channel}.`, 'Choose an EXR with R, G and B.');
      planes.push(found.plane);
    }
    const { width, height } = planes[0]!;
    const sum = new SurroundSum(width, height);
    const row = new Float32Array(width * 3);
    for (let y = 0; y < height; y++) {
      for (let x = 0; x < width; x++) for (let k = 0; k < 3; k++) row[3 * x + k] = Math.max(0, planes[k]!.data[y * width + x]!);
      sum.row(y, row, 3);
    }
    return sum.result();
  }
  const { raster } = await decode(bytes, name);
  const { width, height, channels, data } = raster;
  const table = decodeTable(fullScale(raster) as 255 | 65535);
  const sum = new SurroundSum(width, height);
  const row = new Float32Array(width * 3);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) for (let k = 0; k < 3; k++) row[3 * x + k] = table[data[(y * width + x) * channels + (channels < 3 ? 0 : k)]!]!;
    sum.row(y, row, 3);
  }
  return sum.result();
}
