import type { Numbered } from '../../core/need/fileRef';
import type { PageOfClip } from '../page/facts';
import { pageStrength } from '../page/strength';
import type { ColourLayout } from './colourDepth';
import { OmbrageError } from '../../core/error';
import { percent, type Params } from '../../core/values/params';

export const clipCodecs = ['h264', 'vp9', 'av1', 'vp9-alpha', 'vp9-exact'] as const;
export type ClipCodec = (typeof clipCodecs)[number];

/** What a clip is of: each has a part of the Output panel. */
export const clipSorts = ['clip', 'depth clip'] as const;
export type ClipSort = (typeof clipSorts)[number];

/** How frames become files: a clip in pieces that are joined, a file each in a zip, or frames of an animation. */
export type ClipMaking =
  | { readonly by: 'codec'; readonly codec: ClipCodec }
  | { readonly by: 'files'; readonly output: string }
  | { readonly by: 'animation'; readonly format: 'gif' | 'webp' };

/** A way in which a shot goes out frame by frame. */
export interface ClipOutput {
  readonly kind: string;
  readonly of: ClipSort;
  readonly label: string;
  readonly note: string;
  readonly extension: string;
  readonly params: Params;
  readonly making: ClipMaking;
  /** its frames are scenes, and it goes out as a page that moves */
  readonly page?: true;
  /** the colours stand in the same picture as their depth */
  readonly colour?: ColourLayout;
  /** bytes a pixel and frame, about, at usual quality: for the estimate of its size */
  readonly bytesPerPixel: number;
}

const quality = { quality: percent({ label: 'Quality', min: 10, max: 100, lowest: 1, default: 75 }) };

/** Every output of frames, in the order in which they are offered. */
export const clipOutputs: readonly ClipOutput[] = [
  {
    kind: 'clip-mp4',
    of: 'clip',
    label: 'MP4',
    note: 'H.264: plays everywhere.',
    extension: 'mp4',
    params: quality,
    making: { by: 'codec', codec: 'h264' },
    bytesPerPixel: 0.014,
  },
  {
    kind: 'clip-webm',
    of: 'clip',
    label: 'WebM',
    note: 'VP9: smaller, takes longer.',
    extension: 'webm',
    params: quality,
    making: { by: 'codec', codec: 'vp9' },
    bytesPerPixel: 0.009,
  },
  {
    kind: 'clip-av1',
    of: 'clip',
    label: 'WebM, AV1',
    note: 'AV1: smallest, for new players.',
    extension: 'webm',
    params: quality,
    making: { by: 'codec', codec: 'av1' },
    bytesPerPixel: 0.008,
  },
  {
    kind: 'clip-alpha',
    of: 'clip',
    label: 'WebM, transparent',
    note: 'VP9 with transparency, where the picture has some.',
    extension: 'webm',
    params: quality,
    making: { by: 'codec', codec: 'vp9-alpha' },
    bytesPerPixel: 0.012,
  },
  {
    kind: 'frames-png',
    of: 'clip',
    label: 'PNG 8, each frame',
    note: 'A PNG for each frame, in a zip. Lossless.',
    extension: 'zip',
    params: {},
    making: { by: 'files', output: 'picture-png' },
    bytesPerPixel: 1.6,
  },
  {
    kind: 'frames-png16',
    of: 'clip',
    label: 'PNG 16, each frame',
    note: 'A 16-bit PNG for each frame, in a zip.',
    extension: 'zip',
    params: {},
    making: { by: 'files', output: 'picture-png16' },
    bytesPerPixel: 5.2,
  },
  {
    kind: 'frames-jpeg',
    of: 'clip',
    label: 'JPEG, each frame',
    note: 'A JPEG for each frame, in a zip.',
    extension: 'zip',
    params: quality,
    making: { by: 'files', output: 'picture-jpeg' },
    bytesPerPixel: 0.25,
  },
  {
    kind: 'clip-animated-webp',
    of: 'clip',
    label: 'Animated WebP',
    note: 'For small loops on pages.',
    extension: 'webp',
    params: quality,
    making: { by: 'animation', format: 'webp' },
    bytesPerPixel: 0.09,
  },
  {
    kind: 'clip-gif',
    of: 'clip',
    label: 'GIF',
    note: '256 colours a frame, for where nothing else plays.',
    extension: 'gif',
    params: {},
    making: { by: 'animation', format: 'gif' },
    bytesPerPixel: 0.75,
  },
  {
    kind: 'clip-page',
    of: 'clip',
    label: 'Page that moves',
    note: 'One .html file that loops and follows the pointer: the shot’s effects are in it, the move is the pointer’s.',
    extension: 'html',
    params: { parallax: pageStrength, ...quality },
    making: { by: 'codec', codec: 'h264' },
    page: true,
    bytesPerPixel: 0.017,
  },
  {
    kind: 'depth-clip-exact',
    of: 'depth clip',
    label: '16-bit WebM',
    note: 'Nearness in 65 536 greys without loss: high byte in Y, folded low byte in U (VP9 4:4:4).',
    extension: 'webm',
    params: {},
    making: { by: 'codec', codec: 'vp9-exact' },
    bytesPerPixel: 0.42,
  },
  {
    kind: 'depth-clip-grey',
    of: 'depth clip',
    label: '8-bit MP4',
    note: 'Nearness in 219 greys, to look at: white is the near end.',
    extension: 'mp4',
    params: quality,
    making: { by: 'codec', codec: 'h264' },
    bytesPerPixel: 0.006,
  },
  {
    kind: 'depth-frames-png16',
    of: 'depth clip',
    label: 'PNG 16, each frame',
    note: 'A 16-bit PNG of nearness for each frame, in a zip.',
    extension: 'zip',
    params: {},
    making: { by: 'files', output: 'depth-png16' },
    bytesPerPixel: 0.7,
  },
  {
    kind: 'depth-frames-exr',
    of: 'depth clip',
    label: 'EXR, each frame',
    note: 'Distances in metres as floats for each frame, in a zip.',
    extension: 'zip',
    params: {},
    making: { by: 'files', output: 'depth-exr' },
    bytesPerPixel: 3.5,
  },
  {
    kind: 'depth-clip-beside',
    of: 'depth clip',
    label: 'MP4, side by side',
    note: 'Colours at the left, nearness at the right, in one picture.',
    extension: 'mp4',
    params: quality,
    making: { by: 'codec', codec: 'h264' },
    colour: 'beside',
    bytesPerPixel: 0.011,
  },
  {
    kind: 'depth-clip-below',
    of: 'depth clip',
    label: 'MP4, over-under',
    note: 'Colours above, nearness below, in one picture.',
    extension: 'mp4',
    params: quality,
    making: { by: 'codec', codec: 'h264' },
    colour: 'below',
    bytesPerPixel: 0.011,
  },
  {
    kind: 'depth-clip-alpha',
    of: 'depth clip',
    label: 'WebM, depth in alpha',
    note: 'Colours with nearness as their alpha channel (VP9).',
    extension: 'webm',
    params: quality,
    making: { by: 'codec', codec: 'vp9-alpha' },
    colour: 'alpha',
    bytesPerPixel: 0.013,
  },
  {
    kind: 'mesh-frames-glb',
    of: 'depth clip',
    label: 'GLB, each frame',
    note: 'A mesh of each frame with its pictures, in metres, in a zip.',
    extension: 'zip',
    params: {},
    making: { by: 'files', output: 'mesh-glb' },
    bytesPerPixel: 2.5,
  },
  {
    kind: 'mesh-frames-ply',
    of: 'depth clip',
    label: 'PLY, each frame',
    note: 'A mesh of each frame with a colour at every corner, in metres, in a zip.',
    extension: 'zip',
    params: {},
    making: { by: 'files', output: 'mesh-ply' },
    bytesPerPixel: 2,
  },
];

/** The output of a kind. Throws OmbrageError where there is none. */
export function namedClip(kind: string): ClipOutput {
  const found = clipOutputs.find((o) => o.kind === kind);
  if (!found) throw new OmbrageError('unknown-output', `There is no output "${kind}".`, `Known: ${clipOutputs.map((o) => o.kind).join(', ')}.`);
  return found;
}

/** What a clip is made of and how. */
export interface ClipSpec {
  readonly kind: string;
  readonly values: Readonly<Record<string, number | boolean | string>>;
  /** of the shot's output: what each eye sees, where there are two */
  readonly width: number;
  readonly height: number;
  /** of each picture of the clip */
  readonly picture: { readonly width: number; readonly height: number };
  readonly fps: number;
  /** first and last frame of the shot */
  readonly from: number;
  readonly to: number;
  /** how the frames of the plate are called, where they are those of the shot */
  readonly numbered?: Numbered | undefined;
  /** what a page that moves knows of its scene */
  readonly page?: PageOfClip | undefined;
  /** the clip whose times the frames keep */
  readonly timed?: { readonly sha256: string } | undefined;
  /** the clip whose sound goes along, its frames those of the shot */
  readonly sound?: { readonly sha256: string; readonly name: string } | undefined;
}

/** Frames of a piece of a clip: some seconds where they are encoded together, one where each is a file. */
export function piecesOf(spec: ClipSpec): readonly { readonly from: number; readonly to: number }[] {
  const { making } = namedClip(spec.kind);
  const each = making.by === 'codec' ? Math.max(12, Math.round(spec.fps)) : 1;
  const out: { from: number; to: number }[] = [];
  for (let f = spec.from; f <= spec.to; f += each) out.push({ from: f, to: Math.min(spec.to, f + each - 1) });
  return out;
}

/** The name of a frame's file: its number in the shot, as wide as the last one; that of the plate's own file where it comes from a sequence. */
export const frameName = (frame: number, last: number, extension: string, numbered?: Numbered): string =>
  numbered
    ? `${numbered.stem}${String(numbered.first + frame).padStart(numbered.digits, '0')}.${extension}`
    : `${String(frame).padStart(Math.max(4, String(last).length), '0')}.${extension}`;

/** Bits a second for a quality 1..100: a doubling every 18 steps, a tenth of a bit a pixel at 75. */
export const bitrateFor = (quality: number, { width, height, fps }: ClipSpec['picture'] & Pick<ClipSpec, 'fps'>): number =>
  Math.max(150e3, Math.round(0.1 * 2 ** ((quality - 75) / 18) * width * height * fps));

/** Bytes that a clip will have, about. */
export function clipBytes(spec: ClipSpec): number {
  const { making, bytesPerPixel } = namedClip(spec.kind);
  const frames = spec.to - spec.from + 1;
  const scale = making.by === 'codec' && typeof spec.values.quality === 'number' ? 2 ** ((spec.values.quality - 75) / 18) : 1;
  return bytesPerPixel * scale * spec.picture.width * spec.picture.height * frames;
}

/** Sides that a codec takes: even ones. */
export const clipSize = (kind: string, width: number, height: number): { readonly width: number; readonly height: number } =>
  namedClip(kind).making.by === 'codec' ? { width: Math.max(2, width & ~1), height: Math.max(2, height & ~1) } : { width, height };
