// Compiles the AssemblyScript kernels and wraps the result as a module, so that a worker, Jest and the command line load it alike.
import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { copyFileSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync, existsSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const folder = join(root, 'src/core/kernels');
const built = join(folder, 'build/kernelBytes.ts');
const sources = readdirSync(join(folder, 'assembly')).map((f) => join(folder, 'assembly', f));
const newest = Math.max(...[...sources, fileURLToPath(import.meta.url)].map((f) => statSync(f).mtimeMs));
if (!existsSync(built) || statSync(built).mtimeMs < newest) {
  mkdirSync(join(folder, 'build'), { recursive: true });
  const wasm = join(folder, 'build/kernels.wasm');
  execFileSync(
    process.execPath,
    [
      join(root, 'node_modules/assemblyscript/bin/asc.js'),
      join(folder, 'assembly/index.ts'),
      ...[
        '--outFile',
        wasm,
        '--enable',
        'simd',
        '--runtime',
        'stub',
        '-O3',
        '--noAssert',
        '--importMemory',
        '--initialMemory',
        '1',
        '--use',
        'abort=',
      ],
    ],
    { stdio: 'inherit' },
  );
  const bytes = readFileSync(wasm);
  writeFileSync(
    built,
    `/** Compiled from ../assembly by scripts/buildKernels.mjs; base64. */\nexport const kernelBytes = '${bytes.toString('base64')}';\n`,
  );
  console.log(`kernels: ${bytes.length} bytes`);
}

// What decides what a picture looks like has a name of its own: pieces of exports and frames on a farm that another version made are not taken for ours.
const hash = createHash('sha256');
for (const room of ['core', 'formats', 'media', 'engine'])
  for (const name of readdirSync(join(root, 'src', room), { recursive: true })
    .map(String)
    .sort())
    if (/\.ts$/.test(name) && !/\.test\.ts$/.test(name) && !/(kernels|page).build/.test(name))
      hash.update(name).update(readFileSync(join(root, 'src', room, name)));
for (const name of ['network', 'people']) hash.update(readFileSync(join(root, `training/${name}.bin`)));
const revision = `/** Names the code that makes pictures; written by scripts/buildKernels.mjs. */\nexport const REVISION = '${hash.digest('hex').slice(0, 16)}';\n`;
const revisionFile = join(folder, 'build/revision.ts');
if (!existsSync(revisionFile) || readFileSync(revisionFile, 'utf8') !== revision) writeFileSync(revisionFile, revision);

// What was trained is served with the page, and fetched by the worker that needs it.
const serve = (from, folder, name) => {
  const to = join(root, 'public', folder, name);
  mkdirSync(dirname(to), { recursive: true });
  if (!existsSync(to) || statSync(to).mtimeMs < statSync(from).mtimeMs) copyFileSync(from, to);
};
serve(join(root, 'training/network.bin'), 'models', 'estimate.bin');
serve(join(root, 'training/people.bin'), 'models', 'people.bin');
// Networks of somebody's own are run by this, fetched when the first one is.
for (const name of [
  'ort.wasm.min.mjs',
  'ort-wasm-simd-threaded.mjs',
  'ort-wasm-simd-threaded.wasm',
  'ort.webgpu.min.mjs',
  'ort-wasm-simd-threaded.asyncify.mjs',
  'ort-wasm-simd-threaded.asyncify.wasm',
])
  serve(join(root, 'node_modules/onnxruntime-web/dist', name), 'onnx', name);
for (const name of ['detector', 'landmarks'])
  for (const file of [`${name}.bin`, `${name}.json`]) serve(join(root, 'training/faces', file), 'face', file);
