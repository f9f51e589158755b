import {
  ALL_FORMATS,
  AudioSampleSink,
  AudioSampleSource,
  BlobSource,
  BufferTarget,
  canEncodeVideo,
  EncodedAudioPacketSource,
  EncodedPacket,
  EncodedPacketSink,
  EncodedVideoPacketSource,
  Input,
  Mp4OutputFormat,
  Output,
  VideoSample,
  VideoSampleSource,
  WebMOutputFormat,
} from 'mediabunny';
import { registryOf } from '../core/values/registry';
import { OmbrageError } from '../core/error';
import type { ClipCodec } from '../formats/outputs/clips';
import { placed } from './frameTimes';
import { greyToI420, packGrey16, toI420 } from './yuv';

/** Frames from one key frame to the next, seconds. */
const KEY_EVERY = 1;
/** Lossless depth: a key frame every so many frames. */
const KEY_FRAMES = 24;
/** VP9, profile 1, 8-bit 4:4:4, full range: at quantizer 0 it loses nothing. */
const EXACT = 'vp09.01.51.08.03.01.01.01.01';

/** How a piece of a clip is encoded. */
export interface PieceFormat {
  readonly codec: ClipCodec;
  readonly width: number;
  readonly height: number;
  readonly fps: number;
  /** bits a second */
  readonly bitrate: number;
  /** a key frame every so many seconds; one where not given */
  readonly keyEvery?: number;
}

/** A frame of a piece: 8-bit sRGB with straight alpha, greys 0..1, or greys of 16 bits. */
export type PieceFrame = { readonly rgba: Uint8ClampedArray } | { readonly grey: Float32Array } | { readonly grey16: Uint16Array };

/** A way to encode a clip. */
interface CodecDefinition {
  readonly kind: ClipCodec;
  readonly label: string;
  /** what its packets hold */
  readonly encoded: 'avc' | 'vp9' | 'av1';
  /** WebM, otherwise MP4 */
  readonly webm: boolean;
  /** whether this browser can */
  able(format: PieceFormat): Promise<boolean>;
  write(format: PieceFormat, frames: AsyncIterable<PieceFrame>): Promise<Blob>;
}

/** One that the browser's encoder chooses a bit rate for. */
const lossy = (kind: ClipCodec, label: string, encoded: CodecDefinition['encoded'], alpha = false): CodecDefinition => ({
  kind,
  label,
  encoded,
  webm: encoded !== 'avc',
  able: ({ width, height, bitrate }) => canEncodeVideo(encoded, { width, height, bitrate }),
  write: (format, frames) => writeLossy(format, frames, encoded, alpha),
});

export const codecRegistry = registryOf<CodecDefinition>('codec', [
  lossy('h264', 'H.264', 'avc'),
  lossy('vp9', 'VP9', 'vp9'),
  lossy('av1', 'AV1', 'av1'),
  lossy('vp9-alpha', 'VP9 with transparency', 'vp9', true),
  {
    kind: 'vp9-exact',
    label: 'VP9 without loss',
    encoded: 'vp9',
    webm: true,
    able: async ({ width, height }) =>
      (await VideoEncoder.isConfigSupported({ codec: EXACT, width, height, bitrateMode: 'quantizer' })).supported === true,
    write: (format, frames) => writeExact(format, frames),
  },
]);

/** Says in words where this browser cannot write a clip. */
export async function checkEncoder(format: PieceFormat): Promise<void> {
  const { codec, width, height } = format;
  const instead = 'Export a picture sequence or an animated WebP instead.';
  if (typeof VideoEncoder === 'undefined') throw new OmbrageError('no-encoder', 'This browser has no encoder for clips.', instead);
  const { label, able } = codecRegistry.named(codec);
  if (await able(format)) return;
  const smaller = width * height > 9e6 ? 'Choose a smaller size or another format. ' : '';
  throw new OmbrageError('no-encoder', `This browser cannot write ${label} at ${width}×${height}.`, `${smaller}${instead}`);
}

const formatOf = (codec: ClipCodec): Mp4OutputFormat | WebMOutputFormat =>
  codecRegistry.named(codec).webm ? new WebMOutputFormat() : new Mp4OutputFormat({ fastStart: 'in-memory' });

const bt709 = (fullRange: boolean): VideoColorSpaceInit => ({ primaries: 'bt709', transfer: 'bt709', matrix: 'bt709', fullRange });

/** Encodes frames as a whole small clip: a piece that can be kept, and joined with others. Throws OmbrageError. */
export async function writePiece(format: PieceFormat, frames: AsyncIterable<PieceFrame>): Promise<Blob> {
  await checkEncoder(format);
  return codecRegistry.named(format.codec).write(format, frames);
}

async function writeLossy(
  { codec, width, height, fps, bitrate, keyEvery = KEY_EVERY }: PieceFormat,
  frames: AsyncIterable<PieceFrame>,
  encoder: CodecDefinition['encoded'],
  alpha: boolean,
): Promise<Blob> {
  const target = new BufferTarget();
  const output = new Output({ format: formatOf(codec), target });
  const source = new VideoSampleSource({ codec: encoder, bitrate, keyFrameInterval: keyEvery, ...(alpha && { alpha: 'keep' as const }) });
  output.addVideoTrack(source, { frameRate: fps });
  try {
    await output.start();
    let k = 0;
    for await (const frame of frames) {
      const planes =
        'rgba' in frame ? toI420(frame.rgba, width, height, alpha) : greyToI420('grey' in frame ? frame.grey : new Float32Array(0), width, height);
      const picture = new VideoFrame(planes, {
        format: alpha ? 'I420A' : 'I420',
        codedWidth: width,
        codedHeight: height,
        timestamp: Math.round((k * 1e6) / fps),
        duration: Math.round(1e6 / fps),
        colorSpace: bt709(false),
      });
      const sample = new VideoSample(picture, { timestamp: k / fps, duration: 1 / fps });
      k++;
      await source.add(sample).finally(() => sample.close());
    }
    await output.finalize();
  } catch (error) {
    // a piece that is stopped leaves no encoder open
    await output.cancel().catch(() => undefined);
    throw error;
  }
  return new Blob([target.buffer!], { type: output.format.mimeType });
}

async function writeExact({ width, height, fps }: PieceFormat, frames: AsyncIterable<PieceFrame>): Promise<Blob> {
  const target = new BufferTarget();
  const output = new Output({ format: new WebMOutputFormat(), target });
  const source = new EncodedVideoPacketSource('vp9');
  output.addVideoTrack(source, { frameRate: fps });
  await output.start();
  const failed: unknown[] = [];
  let wake: () => void = () => undefined;
  let written = Promise.resolve();
  const encoder = new VideoEncoder({
    output: (chunk, meta) => {
      written = written.then(() => source.add(EncodedPacket.fromEncodedChunk(chunk), meta)).catch((error: unknown) => void failed.push(error));
    },
    error: (error) => {
      failed.push(error);
      // one that failed takes nothing more from its queue
      wake();
    },
  });
  encoder.addEventListener('dequeue', () => wake());
  encoder.configure({ codec: EXACT, width, height, framerate: fps, bitrateMode: 'quantizer' });
  const check = (): void => {
    if (failed.length > 0) throw failed[0];
  };
  try {
    let k = 0;
    for await (const frame of frames) {
      check();
      const picture = new VideoFrame(packGrey16('grey16' in frame ? frame.grey16 : new Uint16Array(0)), {
        format: 'I444',
        codedWidth: width,
        codedHeight: height,
        timestamp: Math.round((k * 1e6) / fps),
        duration: Math.round(1e6 / fps),
        colorSpace: bt709(true),
      });
      encoder.encode(picture, { keyFrame: k % KEY_FRAMES === 0, vp9: { quantizer: 0 } });
      picture.close();
      k++;
      while (encoder.encodeQueueSize > 2 && failed.length === 0) await new Promise<void>((done) => (wake = done));
    }
    await encoder.flush();
    await written;
    check();
    await output.finalize();
  } catch (error) {
    await output.cancel().catch(() => undefined);
    throw error;
  } finally {
    if (encoder.state !== 'closed') encoder.close();
  }
  return new Blob([target.buffer!], { type: 'video/webm' });
}

/** A part of a clip's sound, seconds. */
export interface SoundPart {
  readonly blob: Blob;
  readonly from: number;
  readonly seconds: number;
}

/**
 * Joins pieces packet by packet, without encoding anything again; `starts`: the first frame of each, counted from the clip's first. Sound is
 * copied where the container takes it as it is, or else encoded as Opus. `times`: when each frame is shown and when the last one ends, seconds; even
 * where not given.
 */
export async function joinPieces(
  codec: ClipCodec,
  pieces: readonly Blob[],
  starts: readonly number[],
  fps: number,
  sound?: SoundPart,
  times?: readonly number[],
): Promise<Blob> {
  if (pieces.length === 1 && !sound && !times) return pieces[0]!;
  const target = new BufferTarget();
  const output = new Output({ format: formatOf(codec), target });
  const source = new EncodedVideoPacketSource(codecRegistry.named(codec).encoded);
  // a rate rounds all times to its frames
  output.addVideoTrack(source, times ? {} : { frameRate: fps });
  const addSound = sound && (await soundTrack(output, sound));
  await output.start();
  for (const [k, piece] of pieces.entries()) {
    const track = await new Input({ formats: ALL_FORMATS, source: new BlobSource(piece) }).getPrimaryVideoTrack();
    if (!track) throw new OmbrageError('bad-piece', `Part ${k + 1} of the export cannot be read.`, 'Export again.');
    const decoderConfig = await track.getDecoderConfig();
    for await (const packet of new EncodedPacketSink(track).packets())
      await source.add(packet.clone(placed(packet.timestamp + starts[k]! / fps, packet.duration, fps, times)), {
        ...(decoderConfig && { decoderConfig }),
      });
  }
  source.close();
  await addSound?.();
  await output.finalize();
  return new Blob([target.buffer!], { type: output.format.mimeType });
}

/** Adds a track for a part of a clip's sound; gives what fills it once the output has begun. Undefined where there is none that can be read. */
async function soundTrack(output: Output, { blob, from, seconds }: SoundPart): Promise<(() => Promise<void>) | undefined> {
  const track = await new Input({ formats: ALL_FORMATS, source: new BlobSource(blob) }).getPrimaryAudioTrack();
  const codec = await track?.getCodec();
  if (!track || !codec) return undefined;
  const to = from + seconds;
  if (output.format.getSupportedAudioCodecs().includes(codec)) {
    const source = new EncodedAudioPacketSource(codec);
    output.addAudioTrack(source);
    return async () => {
      const decoderConfig = await track.getDecoderConfig();
      for await (const packet of new EncodedPacketSink(track).packets()) {
        if (packet.timestamp + packet.duration <= from) continue;
        if (packet.timestamp >= to) break;
        await source.add(packet.clone({ timestamp: Math.max(0, packet.timestamp - from) }), { ...(decoderConfig && { decoderConfig }) });
      }
      source.close();
    };
  }
  if (!(await track.canDecode())) return undefined;
  const source = new AudioSampleSource({ codec: 'opus', bitrate: 128e3 });
  output.addAudioTrack(source);
  return async () => {
    for await (const sample of new AudioSampleSink(track).samples(from, to)) {
      sample.setTimestamp(Math.max(0, sample.timestamp - from));
      await source.add(sample);
      sample.close();
    }
    source.close();
  };
}
