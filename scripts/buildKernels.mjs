// Compiles the AssemblyScript kernels and wraps the result as a module, so that a worker, Jest and the command line load it alike.
import { execFileSync } from 'node:child_process';
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

// The estimate's network: its weights wrapped the same way.
const wrapped = join(root, 'src/core/estimate/network/build/weightBytes.ts');
const weights = join(root, 'training/network.bin');
if (!existsSync(wrapped) || [weights, fileURLToPath(import.meta.url)].some((file) => statSync(wrapped).mtimeMs < statSync(file).mtimeMs)) {
  mkdirSync(dirname(wrapped), { recursive: true });
  const text = readFileSync(weights).toString('base64');
  writeFileSync(wrapped, `/** training/network.bin, wrapped by scripts/buildKernels.mjs; base64. */\nexport const weightBytes = '${text}';\n`);
}

// The face model's weights, served with the page.
const models = join(root, 'node_modules/@vladmandic/face-api/model');
const served = join(root, 'public/face');
mkdirSync(served, { recursive: true });
for (const name of ['tiny_face_detector_model', 'face_landmark_68_model'])
  for (const file of [`${name}.bin`, `${name}-weights_manifest.json`])
    if (!existsSync(join(served, file))) copyFileSync(join(models, file), join(served, file));
