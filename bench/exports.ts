import { spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { newEffect, newLayer, newMove, newProject, newShot } from '../src/core/document/defaults';
import { packProject } from '../src/formats/project/projectFile';
import { sha256 } from '../src/formats/bytes/sha256';
import { table } from './metrics';

const FRAMES = 48;
/** The demo's pictures come 1600x900; frames are made 1080 lines high. */
const SIZE = { width: 1920, height: 1080 };

interface Ended {
  readonly seconds: number;
  /** most memory that a process held, MB */
  readonly most: number;
}

/** A shot of the demo's with an arc and lens blur, as a project file. */
async function projectFile(folder: string): Promise<string> {
  const media = new Map<string, Blob>();
  const take = async (name: string): Promise<string> => {
    const bytes = new Uint8Array(readFileSync(`public/demo/${name}`));
    const hash = await sha256(bytes);
    media.set(hash, new Blob([bytes]));
    return hash;
  };
  const picture = { sha256: await take('figurehead.jpg'), name: 'figurehead.jpg', width: 1600, height: 900 };
  const map = { sha256: await take('figurehead.depth.png'), name: 'figurehead.depth.png', width: 1600, height: 900 };
  const shot = newShot({ ...picture, bits: 8, hfovFromFile: 50 });
  shot.settings.layers = [newLayer('imported', map)];
  shot.settings.calibration = { ...shot.settings.calibration, near: 1.5, far: 60, scaled: true };
  shot.settings.time.length = FRAMES;
  shot.settings.framing = { ...shot.settings.framing, ...SIZE };
  shot.settings.camera.moves = [newMove('arc')];
  const blur = newEffect('lens-blur');
  Object.assign(blur.values, { focus: 2.4, aperture: 0.4 });
  shot.settings.effects = [blur];
  const path = join(folder, 'shot.ombrage');
  const packed = await packProject({ ...newProject('Exports'), shots: [shot] }, media);
  writeFileSync(path, new Uint8Array(await packed.arrayBuffer()));
  return path;
}

/** Memory of a process and of those that it began, MB; Linux tells. */
function memoryOf(pid: number): number {
  try {
    const held = Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0) / 1024;
    const begun = readFileSync(`/proc/${pid}/task/${pid}/children`, 'utf8').trim().split(/\s+/).filter(Boolean);
    return begun.reduce((sum, child) => sum + memoryOf(Number(child)), held);
  } catch {
    return 0;
  }
}

/** Renders a range with so many processes that share it. */
async function renderRange(project: string, frames: number, processes: number, out: string): Promise<Ended> {
  const started = Date.now();
  let most = 0;
  const one = (): Promise<void> =>
    new Promise((done, failed) => {
      const args = ['scripts/headless.mjs', 'render', project, '--shot', '1', '--frames', `0-${frames - 1}`, '--out', out];
      const child = spawn(process.execPath, args, { stdio: ['ignore', 'ignore', 'inherit'] });
      const look = setInterval(() => (most = Math.max(most, memoryOf(child.pid!))), 500);
      child.on('exit', (code) => {
        clearInterval(look);
        if (code === 0) done();
        else failed(new Error(`render ended with ${code}`));
      });
    });
  await Promise.all(Array.from({ length: processes }, one));
  return { seconds: (Date.now() - started) / 1000, most };
}

/** Frames with a move and lens blur at 1920x1080: whether time grows as frames do, memory stays, and two processes are faster than one. */
export async function exportTable(): Promise<Record<string, number>> {
  const folder = mkdtempSync(join(tmpdir(), 'exports-'));
  try {
    const project = await projectFile(folder);
    const runs = [
      { frames: FRAMES / 4, processes: 1 },
      { frames: FRAMES, processes: 1 },
      { frames: FRAMES, processes: 2 },
    ];
    const ended: Ended[] = [];
    for (const [k, { frames, processes }] of runs.entries()) ended.push(await renderRange(project, frames, processes, join(folder, `${k}`)));
    const rows = runs.map(({ frames, processes }, k) => {
      const { seconds, most } = ended[k]!;
      return [String(frames), String(processes), seconds.toFixed(1), (seconds / frames).toFixed(2), most.toFixed(0)];
    });
    console.log(`\nExport, 1920x1080, arc and lens blur, PNG 16\n${table(['frames', 'processes', 's', 's a frame', 'MB a process'], rows)}`);
    return { seconds: ended[1]!.seconds, twoProcesses: ended[2]!.seconds, megabytes: ended[1]!.most };
  } finally {
    rmSync(folder, { recursive: true });
  }
}
