// The service worker: bundled from src/offline, with the list of what the build made. Runs after next build.
import { getManifest } from '@serwist/build';
import { build } from 'esbuild';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { root } from './prepare.mjs';

const next = join(root, '.next');
if (!existsSync(join(next, 'BUILD_ID'))) throw new Error('next build comes first');
const { manifestEntries, count, size, warnings } = await getManifest({
  globDirectory: next,
  globPatterns: ['static/**/*.{js,css,woff2,wasm}'],
  // their names change with what is in them
  dontCacheBustURLsMatching: /./,
  maximumFileSizeToCacheInBytes: 8e6,
  modifyURLPrefix: { 'static/': '/_next/static/' },
});
for (const warning of warnings ?? []) console.warn(warning);
const icons = ['/icons/192.png', '/icons/512.png', '/manifest.webmanifest'].map((url) => ({ url, revision: String(Date.now()) }));
await build({
  entryPoints: [join(root, 'src/offline/worker.ts')],
  outfile: join(root, 'public/offline.js'),
  bundle: true,
  minify: true,
  format: 'iife',
  target: 'es2022',
  define: { 'self.__SW_MANIFEST': JSON.stringify([...manifestEntries, ...icons]), 'process.env.NODE_ENV': '"production"' },
  logLevel: 'error',
});
console.log(`offline: ${count} files, ${(size / 1e6).toFixed(1)} MB`);
