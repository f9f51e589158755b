import { OmbrageError } from '../../core/error';
import type { Raster } from '../../core/picture';
import type { StillFacts } from '../../formats/definition';
import { checkPlate, inspectStill } from '../../formats/inspect';
import type { DecodeRaster } from '../../formats/maps/mapFile';
import { formatOf } from '../../formats/registry';

export const share = (raster: Raster): Raster => {
  if (typeof SharedArrayBuffer === 'undefined' || raster.data.buffer instanceof SharedArrayBuffer) return raster;
  const buffer = new SharedArrayBuffer(raster.data.byteLength);
  const data = raster.data instanceof Uint16Array ? new Uint16Array(buffer) : new Uint8Array(buffer);
  data.set(raster.data);
  return { ...raster, data };
};

/** Pixels of a picture file in the browser, in memory that workers share. 16-bit PNGs keep their bits. */
export async function decodeFile(
  file: Blob,
  name: string,
  plate: boolean,
  metadata = true,
): Promise<{ facts: StillFacts; raster: Raster; bytes: Uint8Array }> {
  const bytes = new Uint8Array(await file.arrayBuffer());
  const facts = await inspectStill(bytes, name, metadata);
  if (plate) checkPlate(facts, name);
  const own = await formatOf(bytes)?.readPicture?.(bytes, facts, plate ? 'plate' : 'map');
  if (own) return { facts, raster: share(own), bytes };
  await checkDecodes(bytes, facts, name);
  let bitmap: ImageBitmap;
  try {
    bitmap = await createImageBitmap(new Blob([bytes]), {
      imageOrientation: 'from-image',
      premultiplyAlpha: 'none',
      // a map's greys mean what they are
      colorSpaceConversion: plate ? 'default' : 'none',
    });
  } catch {
    throw new OmbrageError('damaged-file', `${name} is damaged or of a kind this browser cannot decode.`, 'Save it as PNG or JPEG and choose that.');
  }
  const { width, height } = bitmap;
  const context = new OffscreenCanvas(width, height).getContext('2d', { willReadFrequently: true })!;
  context.drawImage(bitmap, 0, 0);
  bitmap.close();
  const { data } = context.getImageData(0, 0, width, height);
  return { facts: { ...facts, width, height }, raster: share({ width, height, channels: 4, data }), bytes };
}

/** Formats in which a damaged middle shows in wrong colours, unless their decoder is asked whether all of it is sound. */
const CHECKED: Readonly<Record<string, string>> = { WebP: 'image/webp', AVIF: 'image/avif' };

/** Refuses a file whose decoder finds it damaged. Where the browser has no such decoder nothing is known. */
async function checkDecodes(bytes: Uint8Array, { format }: StillFacts, name: string): Promise<void> {
  const type = CHECKED[format];
  if (!type || typeof ImageDecoder === 'undefined' || !(await ImageDecoder.isTypeSupported(type))) return;
  const decoder = new ImageDecoder({ type, data: bytes as Uint8Array<ArrayBuffer> });
  try {
    const { image } = await decoder.decode({ completeFramesOnly: true });
    image.close();
  } catch {
    throw new OmbrageError('damaged-file', `${name} is damaged: its pixels cannot be decoded whole.`, 'Choose an undamaged copy.');
  } finally {
    decoder.close();
  }
}

/** For readers of maps, which open pictures inside other files too. */
export const decodeRaster: DecodeRaster = async (bytes, name) => {
  const { facts, raster } = await decodeFile(new Blob([bytes as Uint8Array<ArrayBuffer>]), name, false);
  return { facts, raster };
};
