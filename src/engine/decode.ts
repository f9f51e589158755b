import { OmbrageError } from '../core/error';
import { luminance } from '../core/raster/colour';
import { fullScale, newPlane, type Plane, type Raster } from '../core/raster/picture';
import type { StillFacts } from '../formats/definition';
import { checkPlate, inspectStill } from '../formats/inspect';
import { decodePfm } from '../formats/pfm';
import { decodePng } from '../formats/png';

const share = (raster: Raster): Raster => {
  if (typeof SharedArrayBuffer === 'undefined' || raster.data.buffer instanceof SharedArrayBuffer) return raster;
  const buffer = new SharedArrayBuffer(raster.data.byteLength);
  const data = raster.data instanceof Uint16Array ? new Uint16Array(buffer) : new Uint8Array(buffer);
  data.set(raster.data);
  return { ...raster, data };
};

/** Pixels of a picture file in the browser, in memory that workers share. 16-bit PNGs keep their bits. */
export async function decodeFile(file: Blob, name: string, plate: boolean): Promise<{ facts: StillFacts; raster: Raster; bytes: Uint8Array }> {
  const bytes = new Uint8Array(await file.arrayBuffer());
  const facts = await inspectStill(bytes, name);
  if (plate) checkPlate(facts, name);
  if (facts.format === 'PNG' && facts.bits === 16) return { facts, raster: share(decodePng(bytes)), bytes };
  let bitmap: ImageBitmap;
  try {
    bitmap = await createImageBitmap(new Blob([bytes]), {
      imageOrientation: 'from-image',
      premultiplyAlpha: 'none',
      colorSpaceConversion: 'default',
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

/** A map's numbers from a picture: its grey values as stored (not turned to linear light), or of a PFM its range brought to 0..1. */
export async function decodeMapFile(file: Blob, name: string): Promise<{ plane: Plane; facts: StillFacts; bytes: Uint8Array; colourful: boolean }> {
  const bytes = new Uint8Array(await file.arrayBuffer());
  const facts = await inspectStill(bytes, name);
  if (facts.format === 'PFM') {
    const image = decodePfm(bytes);
    if (image.kind !== 'plane')
      throw new OmbrageError('not-a-map', `${name} holds colours, not depth.`, 'Choose a grey picture or a one-channel PFM.');
    return { plane: unitRange(image.plane), facts, bytes, colourful: false };
  }
  const { raster } = await decodeFile(file, name, false);
  return { ...rasterToMap(raster), facts, bytes };
}

function rasterToMap(raster: Raster): { plane: Plane; colourful: boolean } {
  const { width, height, channels, data } = raster;
  const plane = newPlane(width, height, true);
  const top = fullScale(raster);
  let colour = 0;
  for (let i = 0, p = 0; i < plane.data.length; i++, p += channels) {
    if (channels < 3) {
      plane.data[i] = data[p]! / top;
      continue;
    }
    const [r, g, b] = [data[p]! / top, data[p + 1]! / top, data[p + 2]! / top];
    plane.data[i] = luminance(r, g, b);
    colour += Math.max(r, g, b) - Math.min(r, g, b);
  }
  return { plane, colourful: colour / plane.data.length > 0.06 };
}

/** Finite numbers stretched to 0..1; what is not finite becomes 0. */
function unitRange(plane: Plane): Plane {
  let low = Infinity;
  let high = -Infinity;
  for (const v of plane.data)
    if (Number.isFinite(v)) {
      low = Math.min(low, v);
      high = Math.max(high, v);
    }
  const out = newPlane(plane.width, plane.height, true);
  const inside = low >= 0 && high <= 1;
  for (let i = 0; i < out.data.length; i++) {
    const v = plane.data[i]!;
    out.data[i] = !Number.isFinite(v) ? 0 : inside ? v : (v - low) / Math.max(1e-12, high - low);
  }
  return out;
}
