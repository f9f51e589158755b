import { expect, test } from '@jest/globals';
import { readFileSync } from 'node:fs';
import { ALL_FORMATS, BlobSource, EncodedPacketSink, Input } from 'mediabunny';
import { joinPieces } from './writeClip';

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
