// Bundles the command line, so that it starts at once; called where what it is made of is newer.
import { existsSync, readdirSync, renameSync, rmSync, statSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const folder = join(root, 'built');
/** So long a bundle stays after a newer one was made, ms: a process that began with it may still read its parts. */
const STAYS_MS = 24 * 3600e3;

/** When the newest of the files that it is made of was written. */
function newest() {
  let last = Math.max(...[join(root, 'package-lock.json'), fileURLToPath(import.meta.url)].map((file) => statSync(file).mtimeMs));
  const look = (place) => {
    for (const entry of readdirSync(place, { withFileTypes: true })) {
      if (entry.isDirectory()) look(join(place, entry.name));
      else if (/(?<!\.test)\.tsx?$/.test(entry.name)) last = Math.max(last, statSync(join(place, entry.name)).mtimeMs);
    }
  };
  for (const room of ['headless', 'src/core', 'src/formats', 'src/media', 'src/live', 'src/engine']) look(join(root, room));
  return last;
}

/** Bundles of before that nobody uses any more go. */
function tidy() {
  for (const name of readdirSync(folder)) {
    const place = join(folder, name);
    if (Date.now() - statSync(place).mtimeMs > STAYS_MS) rmSync(place, { recursive: true, force: true });
  }
}

/** The command line as one module with those that it reads when they are asked for; made anew where what it is made of is newer. Several processes may ask at once. */
export async function builtHeadless() {
  const { log } = console;
  // what is said of the kernels does not belong among what a verb answers
  console.log = console.error;
  if (!existsSync(join(root, 'src/core/kernels/build/kernelBytes.ts'))) await import('./buildKernels.mjs');
  if (!existsSync(join(root, 'src/formats/page/build/runtime.ts'))) await import('./buildPage.mjs');
  console.log = log;
  const place = join(folder, Math.round(newest()).toString(36));
  const bundle = join(place, 'main.mjs');
  if (existsSync(bundle)) return bundle;
  const { build } = await import('esbuild');
  const making = `${place}-${process.pid}`;
  await build({
    entryPoints: [join(root, 'headless/main.ts')],
    bundle: true,
    splitting: true,
    format: 'esm',
    platform: 'node',
    target: 'node20',
    minifySyntax: true,
    outdir: making,
    outExtension: { '.js': '.mjs' },
    // those bring programs of their own
    external: ['sharp', 'onnxruntime-web', 'onnxruntime-web/*'],
    // what lies beside the sources is found from where they are; some packages still ask for their parts in the old way
    define: { 'import.meta.url': 'SOURCE' },
    banner: {
      js: [
        "import { createRequire as requireFrom } from 'node:module';",
        'const require = requireFrom(import.meta.url);',
        "const SOURCE = new URL('../../headless/main.ts', import.meta.url).href;",
      ].join('\n'),
    },
    logLevel: 'warning',
  });
  try {
    renameSync(making, place);
  } catch {
    // another process was first
    rmSync(making, { recursive: true, force: true });
  }
  tidy();
  return bundle;
}
