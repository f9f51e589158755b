import { build } from 'esbuild';
import { createServer } from 'node:http';
import { chromiumOptions } from '../scripts/chromium';
import type { PieceFormat } from '../src/media/writeClip';

/** A frame for the encoder: 8-bit sRGB with alpha, or greys 0..1. */
export type RawFrame = { readonly rgba: Uint8Array } | { readonly grey: Float32Array };

/**
 * Encodes frames with the page's own writer in Chromium, which has the encoders: `frames` are served to it one by one. Needs Chromium, as the
 * browser tests do.
 */
export async function encodeClip(format: PieceFormat, count: number, frame: (index: number) => RawFrame): Promise<Uint8Array> {
  const { outputFiles } = await build({
    entryPoints: [new URL('./encodeInPage.ts', import.meta.url).pathname],
    bundle: true,
    format: 'iife',
    globalName: 'writer',
    write: false,
    logLevel: 'error',
  });
  const server = createServer((request, response) => {
    const path = request.url ?? '/';
    if (path === '/') response.setHeader('content-type', 'text/html').end('<script src="/writer.js"></script>');
    else if (path === '/writer.js') response.setHeader('content-type', 'text/javascript').end(outputFiles[0]!.text);
    else if (!/^\/\d+$/.test(path)) response.writeHead(404).end();
    else {
      const raw = frame(Number(path.slice(1)));
      const data = 'rgba' in raw ? raw.rgba : raw.grey;
      response.end(Buffer.from(data.buffer, data.byteOffset, data.byteLength));
    }
  });
  await new Promise<void>((ready) => server.listen(0, ready));
  const { port } = server.address() as { port: number };
  const { chromium } = await import('playwright-core');
  const browser = await chromium.launch(chromiumOptions);
  try {
    const page = await browser.newPage();
    await page.goto(`http://localhost:${port}/`);
    const grey = !('rgba' in frame(0));
    const base64 = await page.evaluate<string>(`writer.encodeInPage(${JSON.stringify(format)}, ${count}, ${grey})`);
    return new Uint8Array(Buffer.from(base64, 'base64'));
  } finally {
    await browser.close();
    server.close();
  }
}
