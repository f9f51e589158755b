import { afterEach, describe, expect, test } from '@jest/globals';
import { readFileSync } from 'node:fs';
import { ALL_FORMATS, BlobSource, EncodedPacketSink, Input } from 'mediabunny';
import { joinPieces, writePiece, type PieceFrame } from './writeClip';

/** When the frames of a clip are shown, seconds, in order. */
async function timesIn(blob: Blob): Promise<number[]> {
  const track = await new Input({ formats: ALL_FORMATS, source: new BlobSource(blob) }).getPrimaryVideoTrack();
  const times: number[] = [];
  for await (const packet of new EncodedPacketSink(track!).packets()) times.push(packet.timestamp);
  return times.sort((a, b) => a - b);
}

test('pieces are joined at a rate, or each frame at a time of its own', async () => {
  const piece = new Blob([readFileSync('public/demo/crossing.webm')]);
  const count = (await timesIn(piece)).length;
  const even = await timesIn(await joinPieces('vp9', [piece, piece], [0, count], 24));
  expect(even).toHaveLength(2 * count);
  even.forEach((t, k) => expect(Math.abs(t - k / 24)).toBeLessThan(0.002));
  // hundredths that no rate has
  const own = Array.from({ length: count + 1 }, (_, k) => k / 24 + 0.013 * (k % 3));
  const uneven = await timesIn(await joinPieces('vp9', [piece], [0], 24, undefined, own));
  expect(uneven).toHaveLength(count);
  uneven.forEach((t, k) => expect(Math.abs(t - own[k]!)).toBeLessThan(0.002));
});

describe('an encoder', () => {
  /** Takes frames and gives nothing back; fails at the third where it is told to. */
  class SilentEncoder extends EventTarget {
    static readonly made: SilentEncoder[] = [];
    static readonly isConfigSupported = () => Promise.resolve({ supported: true });
    static fails = false;
    state = 'unconfigured';
    encodeQueueSize = 0;

    constructor(private readonly told: { error(error: unknown): void }) {
      super();
      SilentEncoder.made.push(this);
    }

    configure(): void {
      this.state = 'configured';
    }

    encode(): void {
      this.encodeQueueSize++;
      if (SilentEncoder.fails && this.encodeQueueSize === 3)
        queueMicrotask(() => {
          this.state = 'closed';
          this.told.error(new Error('the encoder failed'));
        });
      if (!SilentEncoder.fails)
        queueMicrotask(() => {
          this.encodeQueueSize--;
          this.dispatchEvent(new Event('dequeue'));
        });
    }

    close(): void {
      this.state = 'closed';
    }
  }
  const frameOf = { grey16: new Uint16Array(4) };
  const write = (frames: AsyncIterable<PieceFrame>): Promise<Blob> =>
    writePiece({ codec: 'vp9-exact', width: 2, height: 2, fps: 24, bitrate: 1e6 }, frames);

  const browser = globalThis as unknown as Record<string, unknown>;
  afterEach(() => {
    for (const name of ['VideoEncoder', 'VideoFrame']) delete browser[name];
    SilentEncoder.made.length = 0;
  });
  const begin = (fails: boolean): void => {
    SilentEncoder.fails = fails;
    Object.assign(browser, {
      VideoEncoder: SilentEncoder,
      VideoFrame: class {
        close = (): void => undefined;
      },
    });
  };

  test('of a piece that is stopped is closed', async () => {
    begin(false);
    async function* frames(): AsyncGenerator<PieceFrame> {
      for (let k = 0; k < 8; k++) yield await Promise.resolve(frameOf);
      throw new Error('stopped');
    }
    await expect(write(frames())).rejects.toThrow('stopped');
    expect(SilentEncoder.made.map((e) => e.state)).toEqual(['closed']);
  });

  test('that fails with frames in its queue is told, not waited for', async () => {
    begin(true);
    async function* frames(): AsyncGenerator<PieceFrame> {
      for (;;) yield await Promise.resolve(frameOf);
    }
    await expect(write(frames())).rejects.toThrow('the encoder failed');
    expect(SilentEncoder.made.map((e) => e.state)).toEqual(['closed']);
  });
});
