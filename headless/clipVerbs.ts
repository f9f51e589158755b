import type { FileRef } from '../src/core/need/fileRef';
import './kernels';
import { spawn } from 'node:child_process';
import { mkdirSync, statSync, writeFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { encode as encodePng } from 'fast-png';
import { OmbrageError } from '../src/core/error';
import { meanFlicker } from '../src/core/motion/flicker';
import { estimatorOf, namedQuality, OWN_QUALITY } from '../src/core/need/estimators';
import { cutsWith, estimatedFrames, estimatesOf, seriesOf, type ClipDepthSpec } from '../src/core/motion/clipSpec';
import type { MapNeed } from '../src/core/need/need';
import type { Plane } from '../src/core/picture';
import { samplePlaneLinear, stretch } from '../src/core/raster/resample';
import { clampUnit } from '../src/core/scalar';
import { cutsOf, steadyClip, type FrameStore } from '../src/engine/clip/clipDepth';
import { levelled } from '../src/formats/maps/packedPlane';
import { proposeMap } from '../src/formats/maps/proposal';
import { frameName } from '../src/formats/outputs/clips';
import { packGrey16 } from '../src/media/yuv';
import { endsOfClip, nearnessIn } from '../src/media/clipMaps';
import { mapIn } from '../src/media/halves';
import { decodeMapPicture, openNodeClip, type NodeClip } from './clips';
import { readFrames } from './frames';
import { estimated, useFor, type NetworkOptions } from './ownNetwork';

/** How hard PNGs are packed: a clip has many, and harder saves a few per cent only. */
const PNG_LEVEL = 3;

/** Maps of a clip's frames for the time of one command. */
export function memoryStore(): FrameStore {
  const kept = new Map<string, Plane>();
  return {
    keptFrame: (series, frame) => Promise.resolve(kept.get(`${series}@${frame}`) ?? null),
    keepFrame: (series, frame, plane) => {
      // as in the browser, which keeps them in levels
      kept.set(`${series}@${frame}`, levelled(plane));
      return Promise.resolve();
    },
    // a command that was broken off begins anew
    keptProgress: () => Promise.resolve(null),
    keepProgress: () => Promise.resolve(),
  };
}

const plateOf = (path: string, { width, height, frames, fps }: NodeClip): FileRef => ({
  sha256: '0'.repeat(64),
  name: basename(path),
  width,
  height,
  clip: { frames, fps },
});

/** A number between two, as it is typed. Throws OmbrageError. */
function numberOption(name: string, text: string, least: number, most: number): number {
  const value = Number(text);
  if (!(value >= least && value <= most)) throw new OmbrageError('bad-setting', `"${text}" is no value for --${name}.`, `Give ${least} to ${most}.`);
  return value;
}

/** Depth of the frames of a clip: estimated, carried and made steady; raw nearness 0..1, of the size of the estimate. */
export async function depthOfClip(clip: NodeClip, spec: ClipDepthSpec, store: FrameStore, tell: (text: string) => void): Promise<ClipDepthSpec> {
  const cuts = await cutsOf(clip, spec, () => undefined);
  const full = { ...spec, cuts: cutsWith(cuts, spec.of) };
  if (spec.source.is === 'estimate') {
    const frames = estimatedFrames(full);
    for (const [k, frame] of frames.entries()) {
      tell(`estimating frame ${frame}, ${k + 1} of ${frames.length}`);
      await store.keepFrame(estimatesOf(full)!, frame, await estimated(await clip.frame(frame), spec.source));
    }
  }
  return full;
}

interface DepthClipOptions extends NetworkOptions {
  readonly quality: string;
  readonly steady: string;
  readonly every?: string;
  readonly parallax?: boolean;
  readonly frames?: string;
  readonly out: string;
}

/** `depth-clip CLIP --quality Q --steady S --frames A-B --out DIR|FILE.webm`: depth for the frames of a clip. */
export async function depthClip(path: string, options: DepthClipOptions): Promise<string> {
  const quality = options.network === undefined ? namedQuality(options.quality) : OWN_QUALITY;
  const steady = numberOption('steady', options.steady, 0, 100);
  const every = numberOption('every', options.every ?? String(steady === 0 ? 1 : estimatorOf(quality).every), 1, 16);
  if (steady === 0 && every > 1)
    throw new OmbrageError(
      'bad-setting',
      `--every ${every} leaves frames without depth where --steady is 0.`,
      'Give --every 1, or --steady above 0.',
    );
  checkOut(options.out);
  const clip = await openNodeClip(path);
  try {
    const span = options.frames === undefined ? { from: 0, to: clip.frames - 1 } : readFrames(options.frames, clip.frames);
    const own = options.network === undefined ? null : await useFor(await clip.frame(span.from), options.network, options);
    if (own) process.stderr.write(`${own.said}\n`);
    const spec: ClipDepthSpec = {
      of: plateOf(path, clip),
      ...span,
      source: { is: 'estimate', quality, ...(own && { network: own.use }) },
      every,
      steady,
      parallax: options.parallax === true,
      cuts: [],
    };
    const store = memoryStore();
    const tell = (text: string): void => void process.stderr.write(`${text}\n`);
    const full = await depthOfClip(clip, spec, store, tell);
    const flickers = steady > 0 ? await steadyClip(full, { clip, mapAt: noMaps }, store, () => undefined) : null;
    const series = steady > 0 ? seriesOf(full) : estimatesOf(full)!;
    await writeMaps(options.out, clip, span, async (frame) => (await store.keptFrame(series, frame)) ?? missing(frame));
    return summary(options.out, span, flickers, [...clip.remarks, ...cutsText(full.cuts)]);
  } finally {
    clip.close();
  }
}

interface SteadyOptions {
  readonly clip: string;
  readonly depth: string;
  readonly strength: string;
  readonly out: string;
}

/** `steady --clip CLIP --depth DIR|FILE --out DIR|FILE.webm`: maps of a clip made steady along its flow. */
export async function steady(options: SteadyOptions): Promise<string> {
  const strength = numberOption('strength', options.strength, 0, 100);
  checkOut(options.out);
  const clip = await openNodeClip(options.clip);
  const depth = await openNodeClip(options.depth);
  try {
    const of = plateOf(options.clip, clip);
    // a folder has no rate: its frames are those of the clip
    const fps = depth.frames === clip.frames || statSync(options.depth).isDirectory() ? clip.fps : depth.fps;
    const lastFrame = Math.floor((depth.frames / fps) * clip.fps + 0.5);
    const short = lastFrame < clip.frames ? [`its maps end at frame ${lastFrame - 1}: the last one is held`] : [];
    const ref: FileRef = { ...plateOf(options.depth, depth), clip: { frames: depth.frames, fps } };
    const span = { from: 0, to: clip.frames - 1 };
    const { reading } = proposeMap(await mapIn(depth, 0, null, decodeMapPicture), of, null);
    const ends = reading === 'distance' ? await endsOfClip(depth, depth.frames, null, decodeMapPicture) : undefined;
    const source = { is: 'map', ref, channel: null, reading, ends, offset: 0 } as const;
    const cuts = await cutsOf(clip, span, () => undefined);
    const spec: ClipDepthSpec = { of, ...span, source, every: 1, steady: strength, cuts };
    const store = memoryStore();
    const mapAt = (need: MapNeed): Promise<Plane> => nearnessIn(depth, need, decodeMapPicture);
    const flickers = await steadyClip(spec, { clip, mapAt }, store, () => undefined);
    await writeMaps(options.out, clip, span, async (frame) => (await store.keptFrame(seriesOf(spec), frame)) ?? missing(frame));
    return summary(options.out, span, flickers, [...clip.remarks, ...depth.remarks, ...short, ...cutsText(cuts)]);
  } finally {
    clip.close();
    depth.close();
  }
}

const noMaps = (): Promise<Plane> => Promise.reject(new Error('no clip of maps was given'));
const missing = (frame: number): never => {
  throw new Error(`frame ${frame} has no depth`);
};
const cutsText = (cuts: readonly number[]): readonly string[] => (cuts.length > 0 ? [`scenes begin at ${cuts.join(', ')}`] : []);

function summary(
  out: string,
  { from, to }: { readonly from: number; readonly to: number },
  flickers: { readonly before: readonly (number | null)[]; readonly after: readonly (number | null)[] } | null,
  remarks: readonly string[],
): string {
  const percent = (list: readonly (number | null)[]): string => `${(100 * meanFlicker(list)).toFixed(2)} %`;
  const told = flickers ? `, flicker ${percent(flickers.before)} to ${percent(flickers.after)}` : '';
  return [`${out}: ${to - from + 1} frames${told}`, ...remarks].join('\n');
}

/** Refuses an output that can hold no frames, before anything is computed. */
function checkOut(out: string): void {
  if (/\.[a-z0-9]{2,5}$/i.test(out) && !/\.webm$/i.test(out))
    throw new OmbrageError('bad-output', `${out} cannot hold frames of depth.`, 'Give a folder, or a name that ends in .webm.');
}

/** Writes maps at the size of the clip: 16-bit PNGs into a folder, or a clip without loss. */
async function writeMaps(
  out: string,
  { width, height, frames, fps }: NodeClip,
  { from, to }: { readonly from: number; readonly to: number },
  mapOf: (frame: number) => Promise<Plane>,
): Promise<void> {
  const grey = async (frame: number): Promise<Uint16Array> => {
    const map = await mapOf(frame);
    const { data } = samplePlaneLinear(map, stretch(map, width, height), width, height);
    const out = new Uint16Array(data.length);
    for (let i = 0; i < out.length; i++) out[i] = Math.round(65535 * clampUnit(data[i]!));
    return out;
  };
  if (!/\.webm$/i.test(out)) {
    mkdirSync(out, { recursive: true });
    for (let f = from; f <= to; f++)
      writeFileSync(
        join(out, frameName(f, frames - 1, 'png')),
        encodePng({ width, height, data: await grey(f), channels: 1, depth: 16 }, { zlib: { level: PNG_LEVEL } }),
      );
    return;
  }
  const input = ['-f', 'rawvideo', '-pix_fmt', 'yuv444p', '-s', `${width}x${height}`, '-r', String(fps), '-i', '-'];
  const codec = ['-c:v', 'libvpx-vp9', '-lossless', '1', '-pix_fmt', 'yuv444p', '-color_range', 'pc', '-g', '24'];
  const child = spawn('ffmpeg', ['-v', 'error', '-y', ...input, ...codec, out], { stdio: ['pipe', 'ignore', 'ignore'], env: process.env });
  const ended = new Promise<number | null>((resolve, reject) => {
    child.once('error', () =>
      reject(
        new OmbrageError(
          'no-ffmpeg',
          'Clips are written by ffmpeg here, and it is not installed.',
          'Install it, or give --out a folder: each frame becomes a PNG.',
        ),
      ),
    );
    child.once('close', resolve);
  });
  ended.catch(() => undefined);
  child.stdin.on('error', () => undefined);
  for (let f = from; f <= to; f++)
    if (!child.stdin.write(packGrey16(await grey(f)))) await Promise.race([new Promise((done) => child.stdin.once('drain', done)), ended]);
  child.stdin.end();
  if ((await ended) !== 0) throw new OmbrageError('ffmpeg-failed', `ffmpeg could not write ${out}.`, 'Give a folder instead.');
}
