import { writePiece, type PieceFormat, type PieceFrame } from '../src/media/writeClip';

/** Fetches frames one by one from where the page came from, and encodes them; the file as base64. Runs in the page. */
export async function encodeInPage(format: PieceFormat, count: number, grey: boolean): Promise<string> {
  async function* frames(): AsyncGenerator<PieceFrame> {
    for (let k = 0; k < count; k++) {
      const bytes = await (await fetch(`/${k}`)).arrayBuffer();
      yield grey ? { grey: new Float32Array(bytes) } : { rgba: new Uint8ClampedArray(bytes) };
    }
  }
  const bytes = new Uint8Array(await (await writePiece(format, frames())).arrayBuffer());
  let text = '';
  for (let i = 0; i < bytes.length; i += 0x8000) text += String.fromCharCode(...bytes.subarray(i, i + 0x8000));
  return btoa(text);
}
