import './kernels';
import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, openSync, closeSync, readFileSync, renameSync, rmSync, statSync, writeFileSync, writeSync } from 'node:fs';
import { hostname } from 'node:os';
import { join } from 'node:path';
import { OmbrageError } from '../src/core/error';
import { encodePicture8 } from '../src/core/raster/colour';
import type { Picture } from '../src/core/picture';
import { toI420 } from '../src/media/yuv';
import { frameName } from '../src/formats/outputs/clips';
import { writePicture } from './stills';

/** Where what processes tell each other about a folder of frames lies. */
const NOTES = '.frames';
/** A claim older than this is that of a process which ended without a word, ms. */
const STALE_MS = 15 * 60e3;

/** Reads "A-B": two frames of a shot, the first not after the last. Throws OmbrageError. */
export function readFrames(text: string, length: number): { readonly from: number; readonly to: number } {
  const found = /^(\d+)(?:-(\d+))?$/.exec(text.trim());
  const from = Number(found?.[1]);
  const to = Number(found?.[2] ?? found?.[1]);
  if (!found || from > to)
    throw new OmbrageError('bad-setting', `"${text}" is no range of frames.`, 'Give A-B, such as 0-95, the first not after the last.');
  if (to >= length)
    throw new OmbrageError('bad-setting', `The shot ends at frame ${length - 1}, before frame ${to}.`, `Give frames from 0 to ${length - 1}.`);
  return { from, to };
}

/** Claims a frame, so that no other process makes it; false where one is at it. */
function claim(file: string): boolean {
  const mine = `${hostname()} ${process.pid}`;
  for (let times = 0; times < 2; times++) {
    try {
      const handle = openSync(file, 'wx');
      writeSync(handle, mine);
      closeSync(handle);
      return true;
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
      if (!isStale(file)) return false;
      rmSync(file, { force: true });
    }
  }
  return false;
}

/** Whether a claim is that of a process which is no more. */
function isStale(file: string): boolean {
  try {
    const [host, pid] = readFileSync(file, 'utf8').split(' ');
    if (host === hostname()) {
      try {
        process.kill(Number(pid), 0);
      } catch {
        return true;
      }
    }
    return Date.now() - statSync(file).mtimeMs > STALE_MS;
  } catch {
    // it has just been let go
    return true;
  }
}

export interface FolderJob {
  readonly folder: string;
  readonly from: number;
  readonly to: number;
  /** last frame of the shot: as many digits as it has are in every name */
  readonly last: number;
  /** the content key of a frame */
  key(frame: number): string;
  make(frame: number): Promise<Picture>;
}

/**
 * Writes frames as 16-bit PNGs into a folder. Several processes may share a range, on several machines too: a frame that is there with the
 * same key is left as it is, one that another process is making is left to it.
 */
export async function framesIntoFolder({
  folder,
  from,
  to,
  last,
  key,
  make,
}: FolderJob): Promise<{ readonly made: number; readonly there: number; readonly left: number }> {
  const notes = join(folder, NOTES);
  mkdirSync(notes, { recursive: true });
  const count = { made: 0, there: 0, left: 0 };
  // a frame is written while the next one is made
  let writing: Promise<void> = Promise.resolve();
  for (let frame = from; frame <= to; frame++) {
    const name = frameName(frame, last, 'png');
    const [file, keyFile, claimFile] = [join(folder, name), join(notes, `${name}.key`), join(notes, `${name}.claim`)];
    const wanted = key(frame);
    const isThere = (): boolean => existsSync(file) && existsSync(keyFile) && readFileSync(keyFile, 'utf8') === wanted;
    if (isThere()) {
      count.there++;
      continue;
    }
    if (!claim(claimFile)) {
      count.left++;
      continue;
    }
    const letGo = (): void => rmSync(claimFile, { force: true });
    let picture: Picture;
    try {
      if (isThere()) {
        count.there++;
        letGo();
        continue;
      }
      picture = await make(frame);
      await writing;
    } catch (error) {
      letGo();
      await writing.catch(() => undefined);
      throw error;
    }
    writing = (async () => {
      const unfinished = join(notes, `${process.pid}-${name}`);
      await writePicture(unfinished, picture);
      renameSync(unfinished, file);
      writeFileSync(keyFile, wanted);
      count.made++;
    })().finally(letGo);
    // its failing is told where it is waited for
    writing.catch(() => undefined);
  }
  await writing;
  return count;
}

/** Pipes frames to the system's ffmpeg, which writes an H.264 MP4 or a VP9 WebM. Throws OmbrageError where there is none, or it fails. */
export async function framesIntoClip(
  out: string,
  size: { readonly width: number; readonly height: number },
  fps: number,
  frames: AsyncIterable<Picture>,
): Promise<void> {
  const [width, height] = [size.width & ~1, size.height & ~1];
  const codec = out.toLowerCase().endsWith('.webm')
    ? ['-c:v', 'libvpx-vp9', '-crf', '24', '-b:v', '0']
    : ['-c:v', 'libx264', '-crf', '18', '-movflags', '+faststart'];
  const colours = ['-colorspace', 'bt709', '-color_primaries', 'bt709', '-color_trc', 'bt709', '-color_range', 'tv'];
  const input = ['-f', 'rawvideo', '-pix_fmt', 'yuv420p', '-s', `${width}x${height}`, '-r', String(fps), ...colours, '-i', '-'];
  const child = spawn('ffmpeg', ['-loglevel', 'error', '-y', ...input, ...codec, '-pix_fmt', 'yuv420p', ...colours, out], {
    stdio: ['pipe', 'ignore', 'pipe'],
    env: process.env,
  });
  let said = '';
  child.stderr.on('data', (data: Buffer) => (said += data.toString()));
  const ended = new Promise<number | null>((resolve, reject) => {
    child.once('error', reject);
    child.once('close', resolve);
  });
  // what it says at its end is heard there
  ended.catch(() => undefined);
  child.stdin.on('error', () => undefined);
  const missing = new OmbrageError(
    'no-ffmpeg',
    'Clips are written by ffmpeg here, and it is not installed.',
    'Install it (Debian: apt install ffmpeg), or give --out a folder: each frame becomes a PNG.',
  );
  const started = await Promise.race([
    new Promise<boolean>((done) => child.once('spawn', () => done(true))),
    ended.then(
      () => false,
      () => false,
    ),
  ]);
  if (!started) throw missing;
  for await (const picture of frames) {
    const rgba = new Uint8ClampedArray(picture.data.length);
    encodePicture8(picture, rgba);
    const planes = toI420(picture.width === width && picture.height === height ? rgba : cut(rgba, picture.width, width, height), width, height);
    if (!child.stdin.write(planes)) await Promise.race([new Promise((done) => child.stdin.once('drain', done)), ended]);
  }
  child.stdin.end();
  if ((await ended) !== 0)
    throw new OmbrageError(
      'ffmpeg-failed',
      `ffmpeg could not write ${out}: ${said.trim().split('\n').pop() ?? 'no reason given'}.`,
      'Try another ending or a folder.',
    );
}

/** The upper left part of a picture. */
function cut(rgba: Uint8ClampedArray, from: number, width: number, height: number): Uint8ClampedArray {
  const out = new Uint8ClampedArray(width * height * 4);
  for (let y = 0; y < height; y++) out.set(rgba.subarray(y * from * 4, (y * from + width) * 4), y * width * 4);
  return out;
}
