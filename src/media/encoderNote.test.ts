import { expect, test } from '@jest/globals';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { ALL_FORMATS, BufferSource, EncodedPacketSink, Input } from 'mediabunny';
import { encoderNote, lengthSizeOf, withNote } from './encoderNote';

const file = (name: string): Uint8Array<ArrayBuffer> => new Uint8Array(readFileSync(join(process.cwd(), 'e2e/fixtures', name)));
const text = (bytes: Uint8Array): string => Buffer.from(bytes).toString('latin1');

test('the encoder’s note stands in the first packet alone, and is put before a key packet that has none', async () => {
  const input = new Input({ formats: ALL_FORMATS, source: new BufferSource(file('noteInFirstPacket.mp4')) });
  const track = (await input.getPrimaryVideoTrack())!;
  const size = lengthSizeOf((await track.getDecoderConfig())!.description);
  expect(size).toBe(4);
  const sink = new EncodedPacketSink(track);
  const first = (await sink.getFirstPacket())!;
  const second = (await sink.getNextKeyPacket(first))!;
  const note = encoderNote(first.data, size);
  expect(text(note)).toContain('x264 - core');
  expect(encoderNote(second.data, size)).toHaveLength(0);
  const told = withNote(second.data, note, size);
  expect(told).toHaveLength(second.data.length + note.length);
  expect(encoderNote(told, size)).toEqual(note);
  expect(told.subarray(note.length)).toEqual(second.data);
  // one that has a note of its own keeps it, and nothing is put before where there is none
  expect(withNote(first.data, note, size)).toBe(first.data);
  expect(withNote(second.data, new Uint8Array(0), size)).toBe(second.data);
  input.dispose();
});

test('units with start codes are read as well; what is cut off is no unit', () => {
  const note = [0, 0, 1, 6, 5, 3, 97, 98, 99];
  const slice = [0, 0, 1, 0x65, 1, 2, 3];
  expect([...encoderNote(Uint8Array.from([0, 0, 1, 0x67, 9, ...note, ...slice]), null)]).toEqual(note);
  expect([...encoderNote(Uint8Array.from([0, 0, 0, 99, 6, 5, 1]), 4)]).toEqual([]);
  expect([...encoderNote(Uint8Array.from([0, 0, 0, 3, 6, 5, 1, 0, 0, 0, 2, 0x65, 1]), 4)]).toEqual([0, 0, 0, 3, 6, 5, 1]);
  expect([...encoderNote(Uint8Array.from([]), 2)]).toEqual([]);
  // a recovery point is no note of an encoder
  expect([...encoderNote(Uint8Array.from([0, 0, 0, 3, 6, 6, 1]), 4)]).toEqual([]);
  expect([lengthSizeOf(undefined), lengthSizeOf(Uint8Array.from([1, 100, 0, 31, 0xfd]))]).toEqual([null, 2]);
});
