import { OmbrageError } from '../../core/error';
import type { Need } from '../../core/need/need';
import { encodePicture8 } from '../../core/raster/colour';
import { finishedPicture, seenNearness } from '../../core/shot/chain';
import type { ChainInputs, ShotRequest } from '../../core/shot/stage';
import { storedZip } from '../../formats/bytes/zip';
import { animateWebp } from '../../formats/webp/animatedWebp';
import { fourPictures } from '../../core/mesh/fourPictures';
import { laidScene } from '../../core/shot/sceneOut';
import { withDepth } from '../../formats/outputs/colourDepth';
import { namedOutput } from '../../formats/outputs/registry';
import { bitrateFor, frameName, namedClip, piecesOf, type ClipSpec } from '../../formats/outputs/clips';
import { timesOf } from '../../media/frameTimes';
import type { PieceFrame } from '../../media/writeClip';
import { clipFile, readerOf, withFrames } from '../held/clipFrames';
import { encodeCanvas, renderFile } from '../show/outputs';

/** The shot at a frame of a clip, at the clip's size. */
function atFrame(shot: ShotRequest, { width, height, fps }: ClipSpec, frame: number): ShotRequest {
  const { framing } = shot.settings;
  const same = framing.width === width && framing.height === height;
  const settings = same ? shot.settings : { ...shot.settings, framing: { ...framing, width, height } };
  return { ...shot, settings, size: { width, height }, at: { frame, fps } };
}

/** A frame as the codec of a clip takes it. */
async function frameOf(request: ShotRequest, inputs: ChainInputs, spec: ClipSpec): Promise<PieceFrame> {
  const { of, making, colour } = namedClip(spec.kind);
  if (spec.page) {
    const { facts } = spec.page;
    // as far as the eye goes from one side to the other
    const { plate } = await laidScene(request, inputs, { effects: 'all', gain: 2 * facts.focal * facts.aside });
    return { rgba: fourPictures(plate, facts.least, facts.most) };
  }
  if (of === 'depth clip') {
    const grey = (await seenNearness(request, inputs)).data;
    if (colour) return { rgba: withDepth(await colours({ ...request, eye: 0 }, inputs), grey, request.size, colour) };
    return making.by === 'codec' && making.codec === 'vp9-exact' ? { grey16: Uint16Array.from(grey, (v) => Math.round(65535 * v)) } : { grey };
  }
  return { rgba: await colours(request, inputs) };
}

/** The finished picture in 8 bits. */
async function colours(request: ShotRequest, inputs: ChainInputs): Promise<Uint8ClampedArray> {
  const picture = (await finishedPicture(request, inputs)).value;
  const rgba = new Uint8ClampedArray(picture.data.length);
  encodePicture8(picture, rgba);
  return rgba;
}

/**
 * Renders and writes one piece of a clip; `framesFor` tells what of clips a frame is made of, `inputsAt` with what. Throws Aborted, OmbrageError.
 */
export async function renderPiece(
  shot: ShotRequest,
  spec: ClipSpec,
  from: number,
  to: number,
  framesFor: (request: ShotRequest) => readonly Need[],
  inputsAt: (index: number) => ChainInputs,
): Promise<Blob> {
  const { making } = namedClip(spec.kind);
  const first = atFrame(shot, spec, from);
  if (making.by === 'files') {
    const output = namedOutput(making.output);
    const file = await withFrames(() => renderFile(first, inputsAt(0), { kind: output.kind, values: spec.values, name: 'frame' }), framesFor(first));
    return file.blob;
  }
  if (making.by === 'animation') {
    const picture = (await withFrames(() => finishedPicture(first, inputsAt(0)), framesFor(first))).value;
    if (making.format === 'webp') return encodeCanvas(picture, 'image/webp', Number(spec.values.quality ?? 75) / 100);
    const { quantize, applyPalette } = await import('gifenc');
    const rgba = new Uint8ClampedArray(picture.data.length);
    encodePicture8(picture, rgba);
    const palette = quantize(rgba, 256);
    const index = applyPalette(rgba, palette);
    const colours = Uint8Array.from(palette.flat());
    return new Blob([Uint8Array.of(palette.length & 255, palette.length >> 8), colours, index as Uint8Array<ArrayBuffer>]);
  }
  const { writePiece } = await import('../../media/writeClip');
  const format = {
    codec: making.codec,
    ...spec.picture,
    fps: spec.fps,
    bitrate: bitrateFor(Number(spec.values.quality ?? 75), { ...spec.picture, fps: spec.fps }),
  };
  async function* frames(): AsyncGenerator<PieceFrame> {
    for (let f = from; f <= to; f++) {
      const request = atFrame(shot, spec, f);
      yield await withFrames(() => frameOf(request, inputsAt(f - from), spec), framesFor(request));
    }
  }
  return writePiece(format, frames());
}

/** The part of the sound that belongs to a range. */
const soundSpan = ({ from, to, fps }: ClipSpec, times: ReturnType<typeof timesOf>): { readonly from: number; readonly seconds: number } =>
  times ? { from: times.begins, seconds: times.shown[times.shown.length - 1]! } : { from: from / fps, seconds: (to - from + 1) / fps };

/** Puts the pieces of a clip together. */
export async function joinClip(spec: ClipSpec, pieces: readonly Blob[]): Promise<Blob> {
  const { making, extension } = namedClip(spec.kind);
  const places = piecesOf(spec);
  if (pieces.length !== places.length) throw new OmbrageError('pieces-missing', 'Parts of the export are missing.', 'Export again.');
  if (making.by === 'codec') {
    const { joinPieces } = await import('../../media/writeClip');
    const times = spec.timed && timesOf((await readerOf(spec.timed.sha256)).times, spec);
    const joined = await joinPieces(
      making.codec,
      pieces,
      places.map((p) => p.from - spec.from),
      spec.fps,
      spec.sound && { blob: clipFile(spec.sound.sha256).blob, ...soundSpan(spec, times) },
      times?.shown,
    );
    if (!spec.page) return joined;
    const { encodeClipPage } = await import('../../formats/page/clipPage');
    const page = encodeClipPage(new Uint8Array(await joined.arrayBuffer()), 'video/mp4', spec.page);
    return new Blob([page as Uint8Array<ArrayBuffer>], { type: 'text/html' });
  }
  if (making.by === 'files')
    return storedZip(
      pieces.map((blob, k) => ({ name: frameName(places[k]!.from, spec.to, namedOutput(making.output).extension, spec.numbered), blob })),
    );
  const all = await Promise.all(pieces.map(async (p) => new Uint8Array(await p.arrayBuffer())));
  // times in whole milliseconds, or hundredths, that add up to the whole
  const shown = (unit: number): number[] =>
    all.map((_, k) => Math.round(((k + 1) * 1000) / spec.fps / unit) * unit - Math.round((k * 1000) / spec.fps / unit) * unit);
  if (making.format === 'webp')
    return new Blob([animateWebp(all, spec.picture.width, spec.picture.height, shown(1))], { type: `image/${extension}` });
  const { GIFEncoder } = await import('gifenc');
  const gif = GIFEncoder();
  for (const [k, bytes] of all.entries()) {
    const count = bytes[0]! | (bytes[1]! << 8);
    const palette = Array.from({ length: count }, (_, c) => [...bytes.subarray(2 + 3 * c, 5 + 3 * c)] as [number, number, number]);
    gif.writeFrame(bytes.subarray(2 + 3 * count), spec.picture.width, spec.picture.height, { palette, delay: shown(10)[k]! });
  }
  gif.finish();
  return new Blob([gif.bytes() as Uint8Array<ArrayBuffer>], { type: 'image/gif' });
}
