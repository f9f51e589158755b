import { ALL_FORMATS, BlobSource, EncodedPacketSink, Input, type InputVideoTrack, type VideoSample } from 'mediabunny';
import { OmbrageError } from '../core/error';
import type { Raster } from '../core/picture';
import { EVEN, unfoldGrey } from './yuv';
import { MOST_FRAMES, turned, type ClipFacts, type ClipReader } from './clip';
import { checkClaims } from './claims';
import { isInterlaced } from './interlaced';
import { FrameFeed } from './frameFeed';
import { rateOf, shownTimes, type FrameTimes } from './frameTimes';

const CONVERT = 'Convert it to MP4 (H.264) or WebM (VP9, AV1) and choose that.';
const CODECS: Readonly<Record<string, string>> = { avc: 'H.264', hevc: 'HEVC', vp8: 'VP8', vp9: 'VP9', av1: 'AV1', prores: 'ProRes' };
/** A frame so far ahead of the last one is reached by decoding on; from farther on the decoder begins at a key frame. */
const DECODE_ON = 24;

/** Where decoding begins once more when it failed: at the key frame, at the one before, at the first frame of all. */
const EARLIER = [0, 1, Infinity];

/** When each frame is shown, from the packets: never from a rate. */
async function framesOf(track: InputVideoTrack): Promise<FrameTimes> {
  const times: number[] = [];
  for await (const packet of new EncodedPacketSink(track).packets(undefined, undefined, { metadataOnly: true })) {
    times.push(packet.timestamp);
    if (times.length > MOST_FRAMES)
      throw new OmbrageError('too-many-frames', `It has more than ${MOST_FRAMES} frames.`, 'Cut out the part that is needed and choose that.');
  }
  return shownTimes(times);
}

const failure = (name: string, what: string, hint = CONVERT): OmbrageError => new OmbrageError('bad-clip', `${name} ${what}`, hint);

/** Opens a clip in a container (MP4, MOV, MKV, WebM). `name` is used in messages. Throws OmbrageError. */
export async function openContainer(blob: Blob, name: string): Promise<ClipReader> {
  await checkClaims(blob, name);
  const input = new Input({ formats: ALL_FORMATS, source: new BlobSource(blob) });
  const close = (): void => input.dispose();
  try {
    if (!(await input.canRead())) throw failure(name, 'is in a container that is not read here.');
    const track = await input.getPrimaryVideoTrack();
    if (!track) throw failure(name, 'has no video track that can be read.', 'Choose another file, or an undamaged copy.');
    const codec = await track.getCodec();
    const said = (codec && CODECS[codec]) ?? codec ?? String((await track.getInternalCodecId()) ?? 'an unknown codec');
    if (!(await track.canDecode())) throw failure(name, `is encoded as ${said}, which this browser cannot decode.`);
    const { times, origin } = await framesOf(track);
    if (times.length === 0) throw failure(name, 'has no frames.', 'Choose another file.');
    const decoder = new Decoder(track, times, origin, name);
    const facts = await factsOf(input, track, said, times, await decoder.open());
    return {
      facts,
      ...(facts.uneven && { times }),
      frame: (index) => decoder.frame(index),
      glance: (index, use) => decoder.glance(index, use),
      rest: () => decoder.stop(),
      close: () => {
        decoder.stop();
        close();
      },
    };
  } catch (error) {
    close();
    if (error instanceof OmbrageError)
      throw error.message.startsWith(name) ? error : new OmbrageError(error.code, `${name}: ${error.message}`, error.hint);
    throw failure(name, 'is damaged: it cannot be decoded.', 'Choose an undamaged copy.');
  }
}

async function factsOf(input: Input, track: InputVideoTrack, codec: string, times: readonly number[], first: FirstFrame): Promise<ClipFacts> {
  const { fps, even } = rateOf(times);
  const hdr = await track.hasHighDynamicRange();
  const remarks: string[] = [];
  if (!even)
    remarks.push(
      'Its frame rate varies: every frame is kept. It plays at the mean rate; exported from its first to its last frame it keeps its own times.',
    );
  if (await inFields(track)) remarks.push('It is interlaced: its fields are taken as they are, and show as combs where something moves.');
  if (hdr) remarks.push('It is in high dynamic range: its tones are taken as they are.');
  if (first.bits > 8) remarks.push(`It has ${first.bits} bits a channel: 8 are used.`);
  return {
    format: (await input.getFormat()).name,
    codec,
    width: await track.getDisplayWidth(),
    height: await track.getDisplayHeight(),
    frames: times.length,
    fps,
    rotation: (await track.getRotation()) / 90,
    bits: first.bits,
    alpha: first.alpha,
    sound: (await input.getPrimaryAudioTrack()) !== null,
    remarks,
    ...(!even && { uneven: true }),
  };
}

/** Whether a track holds fields; only H.264 of what is read here can. */
async function inFields(track: InputVideoTrack): Promise<boolean> {
  if ((await track.getCodec()) !== 'avc') return false;
  const description = (await track.getDecoderConfig())?.description;
  if (!description) return false;
  return isInterlaced(
    ArrayBuffer.isView(description)
      ? new Uint8Array(description.buffer, description.byteOffset, description.byteLength)
      : new Uint8Array(description),
  );
}

interface FirstFrame {
  readonly bits: number;
  readonly alpha: boolean;
}

/** Greys of 16 bits in a frame of lossless 4:4:4 (high byte in Y, folded low byte in U, V even); null where it is an ordinary picture. */
async function exactGrey(sample: VideoSample): Promise<Raster | null> {
  const bytes = new Uint8Array(sample.allocationSize());
  const [y, u, v] = await sample.copyTo(bytes);
  if (!y || !u || !v) return null;
  const { codedWidth: width, codedHeight: height } = sample;
  const data = new Uint16Array(width * height);
  for (let row = 0, i = 0; row < height; row++)
    for (let x = 0; x < width; x++, i++) {
      if (bytes[v.offset + row * v.stride + x] !== EVEN) return null;
      data[i] = unfoldGrey(bytes[y.offset + row * y.stride + x]!, bytes[u.offset + row * u.stride + x]!);
    }
  return { width, height, channels: 1, data };
}

/** Decodes frames one after another: asked for in order, each packet is decoded once. */
class Decoder {
  private feed: FrameFeed | null = null;
  /** the first frame, which was looked at already */
  private first: VideoSample | null = null;
  private next = 0;
  /** pixels of a frame that nobody keeps */
  private passing: Uint8Array | null = null;
  private turn: Promise<unknown> = Promise.resolve();
  /** frames that could not be decoded from anywhere */
  private readonly damaged = new Set<number>();

  constructor(
    private readonly track: InputVideoTrack,
    private readonly times: readonly number[],
    private readonly origin: number,
    private readonly name: string,
  ) {}

  async open(): Promise<FirstFrame> {
    this.begin(0);
    const sample = await this.feed!.next();
    if (!sample) throw failure(this.name, 'is damaged: its first frame cannot be decoded.', 'Choose an undamaged copy.');
    this.first = sample;
    const format = sample.format ?? '';
    return { bits: format.includes('P12') ? 12 : format.includes('P10') ? 10 : 8, alpha: format.includes('A') };
  }

  stop(): void {
    this.first?.close();
    this.first = null;
    this.feed?.stop();
    this.feed = null;
    this.passing = null;
  }

  private begin(index: number, earlier = 0): void {
    this.stop();
    this.feed = new FrameFeed(this.track, this.origin + this.times[index]!, undefined, earlier);
    this.next = index;
  }

  private nextSample(): Promise<VideoSample | null> {
    const { first } = this;
    this.first = null;
    return first ? Promise.resolve(first) : this.feed!.next();
  }

  frame(index: number): Promise<Raster> {
    return this.inTurn(() => this.decode(index));
  }

  /** A frame that nobody keeps lies where the one before it lay. */
  glance<T>(index: number, use: (raster: Raster) => T): Promise<T> {
    return this.inTurn(async () => use(await this.decode(index, true)));
  }

  /** One at a time: they share a decoder. */
  private inTurn<T>(work: () => Promise<T>): Promise<T> {
    const mine = this.turn.then(work);
    // what was decoded is not held on to
    this.turn = mine.then(
      () => undefined,
      () => undefined,
    );
    return mine;
  }

  private async decode(index: number, passing = false): Promise<Raster> {
    if (!this.feed || index < this.next || index > this.next + DECODE_ON) this.begin(index);
    // a key frame may not be enough to begin with: only what cannot be decoded from the first frame on either is damaged
    for (const earlier of this.damaged.has(index) ? [] : EARLIER) {
      try {
        return await this.seekTo(index, passing);
      } catch {
        this.begin(index, earlier);
      }
    }
    try {
      return await this.seekTo(index, passing);
    } catch {
      this.stop();
      this.damaged.add(index);
      throw failure(this.name, `is damaged: frame ${index} cannot be decoded.`, 'Choose an undamaged copy.');
    }
  }

  /** The pixels of a frame that the feed will come to. Throws where it does not. */
  private async seekTo(index: number, passing: boolean): Promise<Raster> {
    for (;;) {
      const sample = await this.nextSample();
      if (!sample) throw new Error('no more frames');
      try {
        if (this.next++ === index) return await this.pixels(sample, passing);
      } finally {
        sample.close();
      }
    }
  }

  private async pixels(sample: VideoSample, passing: boolean): Promise<Raster> {
    if (sample.format === 'I444') {
      const grey = await exactGrey(sample);
      if (grey) return grey;
    }
    const length = sample.allocationSize({ format: 'RGBA' });
    if (passing && this.passing?.length !== length) this.passing = new Uint8Array(length);
    const data = (passing && this.passing) || new Uint8Array(length);
    await sample.copyTo(data, { format: 'RGBA' });
    const raster: Raster = { width: sample.codedWidth, height: sample.codedHeight, channels: 4, data };
    return turned(raster, (await this.track.getRotation()) / 90);
  }
}
