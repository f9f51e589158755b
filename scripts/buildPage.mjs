// Bundles what runs inside of pages that leave the application, as text of a module, so that a worker, Jest and the command line write the same.
import { build } from 'esbuild';
import { mkdirSync, readFileSync, writeFileSync, existsSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const folder = join(dirname(fileURLToPath(import.meta.url)), '../src/formats/page');
for (const [entry, name] of [
  ['main', 'runtime'],
  ['clip', 'clipRuntime'],
]) {
  const { outputFiles } = await build({
    entryPoints: [join(folder, `runtime/${entry}.ts`)],
    bundle: true,
    minify: true,
    write: false,
    format: 'iife',
    // pages are opened for years, by what is there
    target: ['chrome90', 'firefox113', 'safari16.4'],
  });
  // nothing in it may end the script that it stands in
  const text = outputFiles[0].text.trim().replaceAll('</', '<\\/');
  const built = join(folder, `build/${name}.ts`);
  const module = `/** Bundled from ../runtime by scripts/buildPage.mjs. */\nexport const ${name} = ${JSON.stringify(text)};\n`;
  if (existsSync(built) && readFileSync(built, 'utf8') === module) continue;
  mkdirSync(dirname(built), { recursive: true });
  writeFileSync(built, module);
  console.log(`${name}: ${text.length} bytes`);
}
