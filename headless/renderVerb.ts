import './kernels';
import { spawn } from 'node:child_process';
import { basename } from 'node:path';
import { fileURLToPath } from 'node:url';
import { OmbrageError } from '../src/core/error';
import type { Picture } from '../src/core/picture';
import { REVISION } from '../src/core/kernels/build/revision';
import { runAlone } from '../src/core/run';
import { checkRenderable, finishedPicture, finishedSize } from '../src/core/shot/chain';
import { contentKey } from '../src/core/key';
import { handIn, needsOf } from '../src/core/shot/needs';
import type { ShotRequest } from '../src/core/shot/stage';
import { StageStore } from '../src/engine/memory/stageStore';
import { unpackProject } from '../src/formats/project/projectFile';
import { hasClips, openClipShot } from './clipShot';
import { framesIntoClip, framesIntoFolder, readFrames } from './frames';
import { heldFor } from './loaders';
import { giveNetwork } from './ownNetwork';
import { checkOutput, PICTURE_ENDINGS, writePicture } from './stills';
import { readBytes } from './readBytes';

interface RenderOptions {
  readonly shot: string;
  readonly frame?: string;
  readonly frames?: string;
  readonly out: string;
  /** so many processes share the frames */
  readonly jobs?: string;
  /** files of networks that the project's estimates ask */
  readonly network?: readonly string[];
}

const CLIP_ENDINGS = /\.(mp4|webm)$/i;

/** `render PROJECT --shot N (--frame N --out O | --frames A-B --out DIR|CLIP)`: finished pictures of a project file. */
export async function render(path: string, options: RenderOptions): Promise<string> {
  const { frames, out } = options;
  const jobs = jobsOf(options);
  if (frames === undefined) checkOutput(out, PICTURE_ENDINGS);
  const unpacked = await unpackProject(new Blob([readBytes(path) as Uint8Array<ArrayBuffer>]), basename(path));
  const { project } = unpacked;
  const media = new Map<string, Uint8Array>();
  for (const [hash, blob] of unpacked.media) media.set(hash, new Uint8Array(await blob.arrayBuffer()));
  const number = Number(options.shot);
  const shot = project.shots[number - 1];
  if (!shot)
    throw new OmbrageError('no-shot', `There is no shot ${options.shot} in ${basename(path)}.`, `Give a number from 1 to ${project.shots.length}.`);
  for (const file of options.network ?? []) await giveNetwork(file);
  const { framing, time } = shot.settings;
  const { width, height } = framing;
  checkRenderable({ width, height });
  const span = frames === undefined ? single(options.frame) : readFrames(frames, time.length);
  const moving = hasClips(shot) ? await openClipShot(shot, media, span) : null;
  const held = moving?.held ?? (await heldFor(needsOf({ plate: shot.plate, settings: handIn(shot.settings) }, { frame: 0, fps: time.fps }), media));
  // what all frames have in common is made once; what only one has is let go
  const cache = new StageStore(Math.max(600e6, 14 * 16 * width * height));
  const at = (frame: number): ShotRequest => ({ plate: shot.plate, settings: shot.settings, at: { frame, fps: time.fps }, size: { width, height } });
  const finished = async (frame: number): Promise<Picture> => (await finishedPicture(at(frame), { held, cache, run: runAlone() })).value;
  const make = (frame: number): Promise<Picture> => (moving ? moving.withFrames(() => finished(frame), frame) : finished(frame));
  try {
    if (frames === undefined) {
      await writePicture(out, await make(span.from));
      return `${out}: ${width}x${height} px`;
    }
    const { from, to } = span;
    if (CLIP_ENDINGS.test(out)) {
      async function* all(): AsyncGenerator<Picture> {
        for (let f = from; f <= to; f++) yield await make(f);
      }
      await framesIntoClip(out, finishedSize(shot.settings, { width, height }), time.fps, all());
      return `${out}: ${to - from + 1} frames, ${time.fps} fps`;
    }
    if (/\.[a-z0-9]{2,5}$/i.test(out))
      throw new OmbrageError('bad-output', `${out} cannot hold frames.`, 'Give a folder, or a name that ends in .mp4 or .webm.');
    // depth that is made steady depends on the frames that are found together
    const along = moving ? span : null;
    const key = (frame: number): string => contentKey(REVISION, at(frame), [...media.keys()].sort(), along);
    const work = { folder: out, from, to, last: time.length - 1, key, make };
    if (jobs > 1) {
      const ended = await sharedBy(jobs - 1, path, options, () => framesIntoFolder(work));
      // what a process left that ended before its time
      await framesIntoFolder(work);
      return `${out}: ${to - from + 1} frames, by ${jobs} processes${ended > 0 ? `, of which ${ended} ended early` : ''}`;
    }
    const { made, there, left } = await framesIntoFolder(work);
    return `${out}: ${made} made, ${there} there already${left > 0 ? `, ${left} left to other processes` : ''}`;
  } finally {
    moving?.close();
  }
}

/** One frame as a range. Throws OmbrageError. */
function single(text = '0'): { readonly from: number; readonly to: number } {
  const frame = Number(text);
  if (!Number.isInteger(frame)) throw new OmbrageError('bad-setting', `"${text}" is no frame.`, 'Give a whole number.');
  return { from: frame, to: frame };
}

/** How many processes share the frames. Throws OmbrageError. */
function jobsOf({ jobs: text = '1', frames, out }: RenderOptions): number {
  const jobs = Number(text);
  if (!Number.isInteger(jobs) || jobs < 1 || jobs > MOST_JOBS)
    throw new OmbrageError('bad-setting', `"${text}" is no number of processes.`, `Give a whole number from 1 to ${MOST_JOBS}.`);
  if (jobs > 1 && (frames === undefined || CLIP_ENDINGS.test(out)))
    throw new OmbrageError('bad-setting', 'Several processes share a range of frames in a folder.', 'Give --frames A-B, and --out a folder.');
  return jobs;
}
const MOST_JOBS = 64;

/** Runs work while so many other processes do the same; how many of them failed. They end with it where it fails. */
async function sharedBy(
  others: number,
  path: string,
  { shot, frames, out, network = [] }: RenderOptions,
  work: () => Promise<unknown>,
): Promise<number> {
  const program = fileURLToPath(new URL('../scripts/headless.mjs', import.meta.url));
  const same = ['render', path, '--shot', shot, '--frames', frames!, '--out', out, ...network.flatMap((file) => ['--network', file])];
  const children = Array.from({ length: others }, () => spawn(process.execPath, [program, ...same], { stdio: ['ignore', 'ignore', 'inherit'] }));
  const ends = children.map(
    (child) =>
      new Promise<boolean>((done) => {
        child.once('error', () => done(false));
        child.once('close', (code) => done(code === 0));
      }),
  );
  try {
    await work();
  } catch (error) {
    for (const child of children) child.kill();
    throw error;
  }
  return (await Promise.all(ends)).filter((well) => !well).length;
}
