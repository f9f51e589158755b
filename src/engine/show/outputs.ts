import type { Picture } from '../../core/picture';
import { checkRenderable } from '../../core/shot/chain';
import type { ChainInputs, ShotRequest } from '../../core/shot/stage';
import { valuesSchema } from '../../core/values/params';
import type { Encoders } from '../../formats/definition';
import { writtenOf } from '../../formats/outputs/definition';
import { namedOutput } from '../../formats/outputs/registry';
import { pictureBitmap } from './paint';
import type { MadeFile, OutputSpec } from '../messages/protocol';

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

const bytesOf = async (blob: Promise<Blob>): Promise<Uint8Array> => new Uint8Array(await (await blob).arrayBuffer());

const encoders: Encoders = {
  jpeg: (picture, quality) => bytesOf(encodeCanvas(picture, 'image/jpeg', quality)),
  webp: (picture, quality) => bytesOf(encodeCanvas(picture, 'image/webp', quality)),
};

/** Renders a shot at its output size as a file. Throws Aborted. */
export async function renderFile(request: ShotRequest, inputs: ChainInputs, { kind, values, name, shape, words }: OutputSpec): Promise<MadeFile> {
  checkRenderable(request.size);
  const output = namedOutput(kind);
  const made = writtenOf(await output.write({ request, inputs, params: valuesSchema(output.params).parse(values), encoders, name, shape, words }));
  const blob = new Blob([made.bytes as Uint8Array<ArrayBuffer>], { type: output.mime });
  return { blob, told: made.told ?? null, shape: made.shape ?? null };
}
