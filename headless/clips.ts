import './kernels';
import { spawn, type ChildProcessByStdio } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, statSync } from 'node:fs';
import { basename, join } from 'node:path';
import type { Readable } from 'node:stream';
import * as z from 'zod';
import { OmbrageError } from '../src/core/error';
import type { Raster } from '../src/core/picture';
import { USUAL_FPS } from '../src/core/values/moment';
import { inspectStill } from '../src/formats/inspect';
import type { DecodeRaster } from '../src/formats/maps/mapFile';
import { clipKind, HEAD_BYTES, type ClipKind } from '../src/media/clipKind';
import { rateOf, shownTimes } from '../src/media/frameTimes';
import { findSequence } from '../src/media/sequenceNames';
import { unfoldGrey } from '../src/media/yuv';
import { decodeStill } from './stills';

/** An open clip on the command line. */
export interface NodeClip {
  readonly width: number;
  readonly height: number;
  readonly frames: number;
  readonly fps: number;
  /** what is to be told */
  readonly remarks: readonly string[];
  /** Frames asked for in their order are decoded once each. Throws OmbrageError. */
  frame(index: number): Promise<Raster>;
  /** the file of a frame, where each has one */
  file?(index: number): Promise<{ readonly bytes: Uint8Array; readonly name: string }>;
  close(): void;
}

/** A frame so far ahead is reached by reading on; from farther on ffmpeg begins anew. */
const READ_ON = 250;

/** Opens a clip: a folder of numbered pictures, an animated picture, or a file that the system's ffmpeg decodes. Throws OmbrageError. */
export async function openNodeClip(path: string): Promise<NodeClip> {
  if (!existsSync(path)) throw new OmbrageError('no-file', `${path} is not there.`, 'Check the name.');
  if (statSync(path).isDirectory()) return openFolder(path);
  const head = new Uint8Array(readFileSync(path).subarray(0, HEAD_BYTES));
  const kind = clipKind(head);
  if (kind) return OPENERS[kind](path);
  throw new OmbrageError('bad-clip', `${basename(path)} is no clip.`, 'Give a clip, an animated picture, or a folder of numbered pictures.');
}

const OPENERS: Readonly<Record<ClipKind, (path: string) => Promise<NodeClip>>> = {
  container: (path) => openWithFfmpeg(path),
  animation: (path) => openAnimation(path),
  pictures: (path) => openZip(path),
};

async function openFolder(folder: string): Promise<NodeClip> {
  const sequence = findSequence(readdirSync(folder));
  if (!sequence) throw new OmbrageError('bad-clip', `${folder} holds no numbered pictures.`, 'Give a folder of pictures such as 0001.png, 0002.png.');
  const file = (index: number): Promise<{ bytes: Uint8Array; name: string }> => {
    const name = sequence.names[index]!;
    return Promise.resolve({ bytes: new Uint8Array(readFileSync(join(folder, name))), name });
  };
  const read = async (index: number): Promise<Raster> => {
    const { bytes, name } = await file(index);
    return (await decodeFrame(bytes, name)).raster;
  };
  const { width, height } = await read(0);
  const remarks = [
    ...(sequence.strangers.length > 0 ? [`left out, not of the sequence: ${sequence.strangers.slice(0, 3).join(', ')}`] : []),
    ...(sequence.missing.length > 0
      ? [`numbers are missing: ${sequence.missing.slice(0, 3).join(', ')}; the frames on both sides follow each other`]
      : []),
  ];
  return {
    width,
    height,
    frames: sequence.names.length,
    fps: USUAL_FPS,
    remarks,
    file,
    frame: async (index) => {
      const raster = await read(index);
      if (raster.width !== width || raster.height !== height)
        throw new OmbrageError(
          'bad-clip',
          `${sequence.names[index]} is ${raster.width}x${raster.height} px, the first frame is ${width}x${height}.`,
          'Save all frames at one size.',
        );
      return raster;
    },
    close: () => undefined,
  };
}

async function openZip(path: string): Promise<NodeClip> {
  const { openPictures } = await import('../src/media/pictureSequence');
  const { facts, ...reader } = await openPictures(new Blob([readFileSync(path)]), basename(path), decodeFrame);
  return { ...facts, ...reader };
}

/** One picture of a sequence; of maps only their size. */
async function decodeFrame(bytes: Uint8Array, name: string): Promise<{ raster: Raster; bits: number }> {
  const { plate, width, height, bits } = await inspectStill(bytes, name, false);
  if (plate === false) return { raster: { width, height, channels: 1, data: new Uint8Array(width * height) }, bits };
  return { raster: (await decodeStill(bytes, name)).raster, bits };
}

/** The pixels of a picture, as maps are read from them. */
export const decodeMapPicture: DecodeRaster = (bytes, name) => decodeStill(bytes, name, false);

async function openAnimation(path: string): Promise<NodeClip> {
  const { default: sharp } = await import('sharp');
  const name = basename(path);
  const damaged = (what: string): OmbrageError => new OmbrageError('bad-clip', `${name} is damaged${what}.`, 'Choose an undamaged copy.');
  const {
    pages = 1,
    delay,
    width,
    pageHeight,
    height,
  } = await sharp(path)
    .metadata()
    .catch(() => {
      throw damaged(': it cannot be decoded');
    });
  const seconds = (delay ?? []).reduce((a, b) => a + b, 0) / 1000;
  return {
    width,
    height: pageHeight ?? height,
    frames: pages,
    fps: seconds > 0 ? Math.round((1000 * pages) / seconds) / 1000 : USUAL_FPS,
    remarks: isCut(new Uint8Array(readFileSync(path))) ? [`it is cut short: ${pages} frames are left`] : [],
    frame: async (index) => {
      const { data, info } = await sharp(path, { page: index, pages: 1 })
        .ensureAlpha()
        .raw()
        .toBuffer({ resolveWithObject: true })
        .catch(() => {
          throw damaged(`: frame ${index} cannot be decoded`);
        });
      return { width: info.width, height: info.height, channels: 4, data: new Uint8Array(data) };
    },
    close: () => undefined,
  };
}

/** Whether an animated picture ends before its end: a GIF without its trailer, a WebP shorter than it says, a PNG without its last chunk. */
function isCut(bytes: Uint8Array): boolean {
  const text = (from: number, to: number): string => Buffer.from(bytes.subarray(from, to)).toString('latin1');
  if (text(0, 3) === 'GIF') return bytes[bytes.length - 1] !== 0x3b;
  if (text(0, 4) === 'RIFF') return new DataView(bytes.buffer, bytes.byteOffset).getUint32(4, true) + 8 > bytes.length;
  return text(1, 4) === 'PNG' && !text(bytes.length - 12, bytes.length).includes('IEND');
}

const probeSchema = z.object({
  streams: z
    .array(
      z.object({
        codec_name: z.string().default('an unknown codec'),
        width: z.number().optional(),
        height: z.number().optional(),
        pix_fmt: z.string().optional(),
        profile: z.string().optional(),
        field_order: z.string().optional(),
        side_data_list: z.array(z.object({ rotation: z.number().optional() })).optional(),
      }),
    )
    .default([]),
  packets: z.array(z.object({ pts_time: z.string().optional() })).default([]),
  format: z.object({ duration: z.string().optional() }).default({}),
});

const NO_FFMPEG = new OmbrageError(
  'no-ffmpeg',
  'Clips are decoded by ffmpeg here, and it is not installed.',
  'Install it (Debian: apt install ffmpeg), or give a folder of pictures.',
);

/** What a program says on its standard output, and what it says is wrong. */
function said(command: string, args: readonly string[]): Promise<{ readonly out: string; readonly wrong: string }> {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, { stdio: ['ignore', 'pipe', 'pipe'], env: process.env });
    let out = '';
    let wrong = '';
    child.stdout.on('data', (data: Buffer) => (out += data.toString()));
    child.stderr.on('data', (data: Buffer) => (wrong += data.toString()));
    child.once('error', (error: NodeJS.ErrnoException) => reject(error.code === 'ENOENT' ? NO_FFMPEG : error));
    child.once('close', (code) => (code === 0 ? resolve({ out, wrong }) : reject(new Error(wrong.trim().split('\n').pop()))));
  });
}

async function openWithFfmpeg(path: string): Promise<NodeClip> {
  const name = basename(path);
  const bad = (what: string): OmbrageError => new OmbrageError('bad-clip', `${name} ${what}.`, 'Choose another file, or an undamaged copy.');
  const entries = 'stream=codec_name,width,height,pix_fmt,profile,field_order:stream_side_data=rotation:packet=pts_time:format=duration';
  let probed;
  let wrong = '';
  try {
    const told = await said('ffprobe', ['-v', 'error', '-select_streams', 'v:0', '-show_packets', '-show_entries', entries, '-of', 'json', path]);
    probed = probeSchema.parse(JSON.parse(told.out));
    wrong = told.wrong.trim();
  } catch (error) {
    if (error instanceof OmbrageError) throw error;
    throw bad('cannot be read');
  }
  const [stream] = probed.streams;
  if (!stream?.width || !stream.height) throw bad('has no video track');
  const { times } = shownTimes(probed.packets.flatMap((p) => (p.pts_time === undefined ? [] : [Number(p.pts_time)])));
  if (times.length === 0) throw bad('has no frames');
  const turned = Math.abs(stream.side_data_list?.find((d) => d.rotation !== undefined)?.rotation ?? 0) % 180 === 90;
  const [width, height] = turned ? [stream.height, stream.width] : [stream.width, stream.height];
  const interlaced = stream.field_order !== undefined && !['progressive', 'unknown'].includes(stream.field_order);
  const pipe = new FramePipe(path, width, height, stream.pix_fmt === 'yuv444p' && stream.codec_name === 'vp9');
  return {
    width,
    height,
    frames: times.length,
    fps: rateOf(times).fps,
    remarks: [
      ...(interlaced ? ['it is interlaced: its fields are taken as they are'] : []),
      ...(wrong || endsEarly(times, Number(probed.format.duration)) ? [`it is cut short or damaged: ${times.length} frames are left`] : []),
    ],
    frame: (index) => pipe.frame(index),
    close: () => pipe.stop(),
  };
}

/** Whether the last frame of a clip comes long before the end that the file tells. */
const endsEarly = (times: readonly number[], told: number): boolean => {
  const last = times[times.length - 1]! - times[0]!;
  return told > 0 && told - last > Math.max(0.5, (3 * last) / Math.max(1, times.length - 1));
};

/** Decoded frames that come out of ffmpeg one after another. */
class FramePipe {
  private child: ChildProcessByStdio<null, Readable, null> | null = null;
  private chunks: AsyncIterator<Buffer> | null = null;
  private rest: Buffer = Buffer.alloc(0);
  private next = 0;

  constructor(
    private readonly path: string,
    private readonly width: number,
    private readonly height: number,
    /** may hold greys of 16 bits */
    private readonly exact: boolean,
  ) {}

  stop(): void {
    // it may wait for somebody to read on
    this.child?.stdout.destroy();
    this.child?.kill('SIGKILL');
    this.child = null;
  }

  async frame(index: number): Promise<Raster> {
    if (!this.child || index < this.next || index > this.next + READ_ON) this.start(index);
    const bytes = this.width * this.height * (this.exact ? 3 : 4);
    for (;;) {
      const data = await this.take(bytes);
      if (!data)
        throw new OmbrageError('bad-clip', `${basename(this.path)} is damaged: frame ${index} cannot be decoded.`, 'Choose an undamaged copy.');
      if (this.next++ === index) return this.exact ? this.unfolded(data) : { width: this.width, height: this.height, channels: 4, data };
    }
  }

  private start(index: number): void {
    this.stop();
    // frames are counted, not told by a rate
    const from = index > 0 ? ['-vf', `select=gte(n\\,${index})`] : [];
    const args = ['-v', 'error', '-i', this.path, '-map', '0:v:0', ...from, '-vsync', 'passthrough', '-f', 'rawvideo'];
    this.child = spawn('ffmpeg', [...args, '-pix_fmt', this.exact ? 'yuv444p' : 'rgba', '-'], {
      stdio: ['ignore', 'pipe', 'ignore'],
      env: process.env,
    });
    this.child.once('error', () => undefined);
    this.chunks = this.child.stdout[Symbol.asyncIterator]() as AsyncIterator<Buffer>;
    this.rest = Buffer.alloc(0);
    this.next = index;
  }

  private async take(bytes: number): Promise<Uint8Array | null> {
    const parts = [this.rest];
    let there = this.rest.length;
    while (there < bytes) {
      const step = await this.chunks!.next();
      if (step.done) return null;
      parts.push(step.value);
      there += step.value.length;
    }
    const all = Buffer.concat(parts);
    this.rest = all.subarray(bytes);
    return new Uint8Array(all.subarray(0, bytes));
  }

  /** Greys of 16 bits from lossless planes, or the luma of an ordinary picture of that sort. */
  private unfolded(planes: Uint8Array): Raster {
    const n = this.width * this.height;
    const folded = planes.subarray(2 * n).every((v) => v === 128);
    const data = Uint16Array.from({ length: n }, (_, i) => (folded ? unfoldGrey(planes[i]!, planes[n + i]!) : planes[i]! * 257));
    return { width: this.width, height: this.height, channels: 1, data };
  }
}
