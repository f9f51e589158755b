import { calibrationOf } from '../core/document/defaults';
import { nearnessOf } from '../core/depth/calibrate';
import type { Picture } from '../core/raster/picture';
import { checkRenderable, finishedPicture, resolved } from '../core/shot/chain';
import { distanceMap, rawMap } from '../core/shot/depthChain';
import { type ChainInputs, type ShotRequest } from '../core/shot/stage';
import { jpegWithDepth } from '../formats/depthPhoto';
import { encodeExr } from '../formats/exr';
import { encodePlanePfm } from '../formats/pfm';
import { encodeDepthPng, encodePng } from '../formats/png';
import { encodeTiff } from '../formats/tiff';
import { pictureBitmap } from './paint';
import type { OutputSpec } from './protocol';

/** A picture in a format that the browser writes. */
export async function encodeCanvas(picture: Picture, type: string, quality: number): Promise<Blob> {
  const canvas = new OffscreenCanvas(picture.width, picture.height);
  const bitmap = await pictureBitmap(picture);
  const context = canvas.getContext('2d')!;
  // these formats are shown on white where the picture is see-through
  if (type === 'image/jpeg') {
    context.fillStyle = '#fff';
    context.fillRect(0, 0, canvas.width, canvas.height);
  }
  context.drawImage(bitmap, 0, 0);
  bitmap.close();
  return canvas.convertToBlob({ type, quality });
}

const blobOf = (bytes: Uint8Array, type: string): Blob => new Blob([bytes as Uint8Array<ArrayBuffer>], { type });

/** Renders a shot at its output size as a file. Throws Stopped. */
export async function renderFile(asked: ShotRequest, inputs: ChainInputs, spec: OutputSpec): Promise<Blob> {
  const request = resolved(asked);
  checkRenderable(request.size);
  if (spec.kind === 'depth') return depthFile(request, inputs, spec.format);
  const { value } = await finishedPicture(request, inputs);
  inputs.run.checkpoint(0.95);
  if (spec.format === 'png') return blobOf(encodePng(value, 8), 'image/png');
  if (spec.format === 'png16') return blobOf(encodePng(value, 16), 'image/png');
  return encodeCanvas(value, spec.format === 'jpeg' ? 'image/jpeg' : 'image/webp', spec.quality);
}

async function depthFile(request: ShotRequest, inputs: ChainInputs, format: Extract<OutputSpec, { kind: 'depth' }>['format']): Promise<Blob> {
  const calibration = calibrationOf(request.settings.calibration);
  if (format === 'png16') {
    const raw = rawMap(request, inputs).value;
    return blobOf(encodeDepthPng({ ...raw, data: raw.data.map((v) => nearnessOf(v, calibration)) }), 'image/png');
  }
  const distance = distanceMap(request, inputs).value;
  switch (format) {
    case 'pfm':
      return blobOf(encodePlanePfm(distance), 'application/octet-stream');
    case 'tiff':
      return blobOf(encodeTiff(distance), 'image/tiff');
    case 'exr':
      return blobOf(encodeExr({ Z: distance }), 'image/x-exr');
    case 'jpeg': {
      const { value } = await finishedPicture(request, inputs);
      const jpeg = await encodeCanvas(value, 'image/jpeg', 0.92);
      return blobOf(await jpegWithDepth(new Uint8Array(await jpeg.arrayBuffer()), distance, calibration), 'image/jpeg');
    }
  }
}
