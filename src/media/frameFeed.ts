import { encoderNote, lengthSizeOf, withNote } from './encoderNote';
import { EncodedPacketSink, VideoSampleSink, type EncodedPacket, type InputVideoTrack, type VideoSample } from 'mediabunny';

/** So many frames at once are in the decoder, or decoded and not yet asked for. */
const AHEAD = 3;
/** So long one waits for a frame before looking whether the decoder takes another packet, ms. */
const LOOK_MS = 2;
/** Times closer than this are the same, seconds. */
const SAME = 1e-6;

/** Key packets are what they say: some containers call others so. */
const TRUSTED = { verifyKeyPackets: true };

/** The part of the library that mends what browsers get wrong about packets and configurations. */
export interface Decoding {
  decode(packet: EncodedPacket): void;
  getDecodeQueueSize(): number;
  flush(): Promise<void>;
  close(): void;
}
interface MakesDecoding {
  _createDecoder(onFrame: (frame: VideoSample) => void, onError: (error: unknown) => void): Promise<Decoding>;
}

/** What frames are decoded by, and of. */
export interface FeedParts {
  decoding(onFrame: (frame: VideoSample) => void, onError: (error: unknown) => void): Promise<Decoding>;
  /** the packets from the key frame on that a time's frame needs, or from one so many key frames earlier, in the order in which they are decoded */
  packets(from: number, earlier: number): Promise<AsyncGenerator<EncodedPacket, void>>;
}

const partsOf = (track: InputVideoTrack): FeedParts => ({
  decoding: (onFrame, onError) => (new VideoSampleSink(track) as VideoSampleSink & MakesDecoding)._createDecoder(onFrame, onError),
  packets: async (from, earlier) => {
    const sink = new EncodedPacketSink(track);
    const key = await keyBefore(sink, from, earlier);
    const packets = sink.packets(key ?? undefined, undefined, TRUSTED) as AsyncGenerator<EncodedPacket, void>;
    return (await track.getCodec()) === 'avc' ? fromItsEncoder(packets, sink, track) : packets;
  },
});

/** The key packet at which decoding of a time begins, or one so many key packets earlier; the first packet of all where there are fewer. */
async function keyBefore(sink: EncodedPacketSink, from: number, earlier: number): Promise<EncodedPacket | null> {
  let key = Number.isFinite(earlier) ? await sink.getKeyPacket(from, TRUSTED) : null;
  for (let k = 0; key && k < earlier; k++) key = await sink.getKeyPacket(key.timestamp - SAME, TRUSTED);
  return key ?? (await sink.getFirstPacket(TRUSTED));
}

/** H.264: a decoder that begins anew is told by which encoder the packets are, as it is where it begins with the first one. */
async function* fromItsEncoder(
  packets: AsyncGenerator<EncodedPacket, void>,
  sink: EncodedPacketSink,
  track: InputVideoTrack,
): AsyncGenerator<EncodedPacket, void> {
  try {
    const begin = await packets.next();
    if (begin.done) return;
    const size = lengthSizeOf((await track.getDecoderConfig())?.description);
    const first = await sink.getFirstPacket();
    const note = first ? encoderNote(first.data, size) : new Uint8Array(0);
    const { value } = begin;
    yield value.clone({ data: withNote(value.data, note, size) });
    yield* packets;
  } finally {
    await packets.return();
  }
}

/**
 * The frames of a track from a time on, in the order in which they are shown, decoded as they are asked for. The library's own loop drives the
 * same decoder up to 40 frames ahead, which are 500 MB of a clip at 4K; here it is a few, whatever the clip.
 */
export class FrameFeed {
  private readonly decoding: Promise<Decoding>;
  private packets: AsyncGenerator<EncodedPacket, void> | null = null;
  private readonly ready: VideoSample[] = [];
  private failure: { readonly error: unknown } | null = null;
  /** every packet has been decoded */
  private through = false;
  private stopped = false;
  private wake: () => void = () => undefined;

  /** `from`: the time of the first frame that is wanted, seconds; `earlier`: decoding begins so many key frames earlier than it has to. */
  constructor(
    track: InputVideoTrack,
    private readonly from: number,
    private readonly parts: FeedParts = partsOf(track),
    private readonly earlier = 0,
  ) {
    this.decoding = parts.decoding(
      (frame) => this.take(frame),
      (error) => {
        this.failure ??= { error };
        this.wake();
      },
    );
    this.decoding.catch(() => undefined);
  }

  private take(frame: VideoSample): void {
    // those before it were decoded for its sake
    if (this.stopped || frame.timestamp < this.from - SAME) frame.close();
    else this.ready.push(frame);
    this.wake();
  }

  /** The next frame, to be closed by whoever asked; null after the last one. Rejects where a packet cannot be decoded. */
  async next(): Promise<VideoSample | null> {
    const decoding = await this.decoding;
    for (;;) {
      if (this.failure) throw this.failure.error;
      const frame = this.ready.shift();
      if (frame) {
        // the decoder goes on while this one is worked with
        if (this.ready.length + decoding.getDecodeQueueSize() < AHEAD)
          await this.feed(decoding).catch((error: unknown) => (this.failure = { error }));
        return frame;
      }
      if (this.through || this.stopped) return null;
      if (decoding.getDecodeQueueSize() < AHEAD) await this.feed(decoding);
      else await this.more();
    }
  }

  /** Until there is a frame, or a moment has passed: a decoder may want more packets before it gives one. */
  private more(): Promise<void> {
    return new Promise((done) => {
      const timer = setTimeout(done, LOOK_MS);
      this.wake = () => {
        clearTimeout(timer);
        done();
      };
    });
  }

  private async feed(decoding: Decoding): Promise<void> {
    if (this.through) return;
    this.packets ??= await this.parts.packets(this.from, this.earlier);
    const packet = await this.packets.next();
    if (this.stopped) {
      void this.packets.return();
      return;
    }
    if (!packet.done) {
      decoding.decode(packet.value);
      return;
    }
    await decoding.flush();
    this.through = true;
  }

  /** Lets go of the decoder and of what it decoded. */
  stop(): void {
    this.stopped = true;
    for (const frame of this.ready.splice(0)) frame.close();
    void this.packets?.return();
    this.decoding.then((decoding) => decoding.close()).catch(() => undefined);
    this.wake();
  }
}
