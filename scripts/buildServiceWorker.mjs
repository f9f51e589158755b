// The service worker: bundled from src/offline, with the list of what the build made. Runs after next build.
import { getManifest } from '@serwist/build';
import { build } from 'esbuild';
import { existsSync, readdirSync, readFileSync } from 'node:fs';
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
const inFolder = (folder) => readdirSync(join(root, 'public', folder)).map((file) => `/${folder}/${file}`);
// what the pages themselves show
const shown = [
  '/preview.html',
  '/icons/192.png',
  '/icons/512.png',
  '/manifest.webmanifest',
  ...inFolder('demo').filter((file) => file.endsWith('.webp')),
];
const kept = shown.map((url) => ({ url, revision: String(Date.now()) }));
// as the workers ask for them: the network by its version
const version = /ESTIMATE_VERSION = (\d+)/.exec(readFileSync(join(root, 'src/core/need/estimateKey.ts'), 'utf8'));
if (!version) throw new Error('the version of the estimate is not where it was');
const models = [...['estimate', 'people'].map((name) => `/models/${name}.bin?v=${version[1]}`), ...inFolder('face'), ...inFolder('surroundings')];
await build({
  entryPoints: [join(root, 'src/offline/worker.ts')],
  outfile: join(root, 'public/offline.js'),
  bundle: true,
  minify: true,
  format: 'iife',
  target: 'es2022',
  define: {
    MODELS: JSON.stringify(models),
    'self.__SW_MANIFEST': JSON.stringify([...manifestEntries, ...kept]),
    'process.env.NODE_ENV': '"production"',
  },
  logLevel: 'error',
});
console.log(`offline: ${count} files, ${(size / 1e6).toFixed(1)} MB`);
