import { afterEach, expect, test } from '@jest/globals';
import { readFileSync } from 'node:fs';
import { ALL_FORMATS, BufferSource, EncodedPacketSink, Input, VideoSampleSink, type VideoSample } from 'mediabunny';
import type { Decoding } from './frameFeed';

// `FrameFeed` drives the decoder that the library makes for itself, which its types do not tell of: where a newer library makes it otherwise, this fails.

const decoded: number[] = [];
let closed = 0;

class Decoder {
  static isConfigSupported = (config: object) => Promise.resolve({ supported: true, config });
  state = 'configured';
  decodeQueueSize = 0;
  configure(): void {}
  addEventListener(): void {}
  removeEventListener(): void {}
  decode(chunk: { readonly timestamp: number }): void {
    decoded.push(chunk.timestamp);
  }
  flush = () => Promise.resolve();
  close(): void {
    closed++;
  }
}

class Chunk {
  readonly timestamp: number;
  constructor(init: { readonly timestamp: number }) {
    this.timestamp = init.timestamp;
  }
}

Object.assign(globalThis, { VideoDecoder: Decoder, EncodedVideoChunk: Chunk });
afterEach(() => {
  for (const name of ['VideoDecoder', 'EncodedVideoChunk']) Reflect.deleteProperty(globalThis, name);
});

test('the library makes a decoder of packets, which takes them, tells how many wait, flushes and closes', async () => {
  const input = new Input({ source: new BufferSource(readFileSync('public/demo/crossing.webm')), formats: ALL_FORMATS });
  const track = (await input.getPrimaryVideoTrack())!;
  const sink = new VideoSampleSink(track) as unknown as {
    _createDecoder(onFrame: (frame: VideoSample) => void, onError: (error: unknown) => void): Promise<Decoding>;
  };
  const failures: unknown[] = [];
  const decoding = await sink._createDecoder(
    () => undefined,
    (error) => failures.push(error),
  );
  const packets = new EncodedPacketSink(track);
  const first = (await packets.getFirstPacket())!;
  decoding.decode(first);
  decoding.decode((await packets.getNextPacket(first))!);
  expect(decoding.getDecodeQueueSize()).toBeGreaterThanOrEqual(0);
  await decoding.flush();
  decoding.close();
  expect(decoded).toHaveLength(2);
  expect(decoded[1]! - decoded[0]!).toBeCloseTo(1e6 / 24, -4);
  expect([failures, closed]).toEqual([[], 1]);
});
