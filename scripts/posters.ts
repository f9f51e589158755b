import { mkdtempSync, openAsBlob, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { render } from '../headless/renderVerb';
import { newProject } from '../src/core/document/defaults';
import { packProject } from '../src/formats/projectFile';
import { assembleDemo, posterOf } from '../src/store/demo';

// The demo's shots as they are finished, for the shelf of a first visit: `npm run demo:posters`, after what is staged in them has changed.

const FOLDER = 'public/demo';
/** As large as the pictures that the studio makes for the shelf, px. */
const WIDTH = 640;
/** The moment that stands for a shot that moves: who walks through it is there, and in focus. */
const MOMENT = 45;

const { shots, files } = await assembleDemo((name) => openAsBlob(join(FOLDER, name)), false);
const names = Object.keys((JSON.parse(readFileSync(join(FOLDER, 'demo.json'), 'utf8')) as { shots: object }).shots);
const media = new Map(files.map((f) => [f.sha256, f.blob]));
const folder = mkdtempSync(join(tmpdir(), 'ombrage-posters-'));
try {
  for (const shot of shots) {
    const name = names.find((n) => shot.plate.name.startsWith(n))!;
    const project = join(folder, 'shot.ombrage');
    writeFileSync(project, new Uint8Array(await (await packProject({ ...newProject('Demo'), shots: [shot] }, media)).arrayBuffer()));
    await render(project, { shot: '1', frame: String(shot.plate.clip ? MOMENT : 0), out: join(folder, 'finished.png') });
    const poster = join(FOLDER, posterOf(name));
    await sharp(join(folder, 'finished.png')).toColourspace('srgb').resize(WIDTH).jpeg({ quality: 82, mozjpeg: true }).toFile(poster);
    console.log(poster);
  }
} finally {
  rmSync(folder, { recursive: true, force: true });
}
