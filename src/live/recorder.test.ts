import { beforeEach, expect, test } from '@jest/globals';
import { decode } from 'fast-png';
import { IDBFactory, IDBKeyRange } from 'fake-indexeddb';
import { seededRandom } from '../core/random';
import { RecordingStore, type RecordingRow } from '../media/recordingStore';
import type { Arrival } from './arrival';
import { recordedClip, Recorder } from './recorder';

const SIZE = { width: 24, height: 14 };
const row: RecordingRow = { id: 'r', project: 'p', shot: 's', name: 'Take', ...SIZE, fps: 30, begunAt: 0 };
let store: RecordingStore;
beforeEach(() => {
  store = new RecordingStore({ indexedDB: new IDBFactory(), IDBKeyRange });
});

const random = seededRandom(9);
const arrival = (number: number, channels: Record<string, number> = {}, size = SIZE): Arrival => ({
  number,
  at: number * 33,
  raster: { ...size, channels: 4, data: Uint8Array.from({ length: 4 * size.width * size.height }, () => 256 * random()) },
  channels,
});

async function picturesOf(zip: Blob): Promise<Uint8Array[]> {
  const { BlobReader, Uint8ArrayWriter, ZipReader } = await import('@zip.js/zip.js');
  const entries = await new ZipReader(new BlobReader(zip), { useWebWorkers: false }).getEntries();
  return Promise.all(
    entries.map(async (e) => Uint8Array.from(decode(await (e as { getData(w: unknown): Promise<Uint8Array> }).getData(new Uint8ArrayWriter())).data)),
  );
}

test('what is recorded comes back: the same pictures, depth in their alpha, and channels', async () => {
  const recorder = await Recorder.begin(store, row);
  const sent = Array.from({ length: 130 }, (_, k) => arrival(k + 5, { blink: k / 130, ...(k > 3 && { late: k }) }));
  for (const frame of sent) expect(await recorder.add(frame)).toBe(true);
  await recorder.flush();
  const shares: number[] = [];
  const clip = (await recordedClip(store, 'r', (share) => shares.push(share) > 0))!;
  expect([clip.frames, clip.fps, clip.width, clip.height, clip.stoodFor, clip.damaged]).toEqual([130, 30, 24, 14, 0, 0]);
  const pictures = await picturesOf(clip.blob);
  for (const [k, picture] of pictures.entries()) expect([...picture]).toEqual([...sent[k]!.raster.data]);
  expect(clip.channels.blink).toEqual(sent.map((f) => f.channels.blink));
  expect(clip.channels.late!.slice(0, 6)).toEqual([4, 4, 4, 4, 4, 5]);
  expect(shares).toEqual([...shares].sort((a, b) => a - b));
});

test('memory that is written again after a picture was taken changes nothing of it', async () => {
  const recorder = await Recorder.begin(store, row);
  const one = arrival(0);
  const kept = Uint8Array.from(one.raster.data);
  await recorder.add(one);
  one.raster.data.fill(3);
  await recorder.add({ ...one, number: 1 });
  await recorder.flush();
  const [first, second] = await picturesOf((await recordedClip(store, 'r', () => true))!.blob);
  expect([...first!]).toEqual([...kept]);
  expect(second!.every((v) => v === 3)).toBe(true);
});

test('pictures that never arrived are stood for by those before them, so that time is kept', async () => {
  const recorder = await Recorder.begin(store, row);
  const sent = [arrival(10), arrival(11), arrival(15), arrival(16)];
  for (const frame of sent) await recorder.add(frame);
  await recorder.flush();
  const clip = (await recordedClip(store, 'r', () => true))!;
  expect([clip.frames, clip.stoodFor]).toEqual([7, 3]);
  const pictures = await picturesOf(clip.blob);
  expect(pictures.map((p) => sent.findIndex((s) => s.raster.data.every((v, i) => v === p[i])))).toEqual([0, 1, 1, 1, 1, 2, 3]);
});

test('a source that begins anew, or stands for long, leaves no hole: what is missing is stood for up to ten seconds', async () => {
  const recorder = await Recorder.begin(store, row);
  const sent = [arrival(100), arrival(101), arrival(3), arrival(5), arrival(4_000_000_000), arrival(4_000_000_002), arrival(4_000_000_002)];
  for (const frame of sent) await recorder.add(frame);
  await recorder.flush();
  const clip = (await recordedClip(store, 'r', () => true))!;
  const pictures = await picturesOf(clip.blob);
  const which = pictures.map((p) => sent.findIndex((s) => s.raster.data.every((v, i) => v === p[i])));
  expect(which).toEqual([0, 1, 2, 2, 3, 4, 4, 5, 6]);
  expect([clip.frames, clip.stoodFor]).toEqual([9, 2]);
});

test('what ends in the middle is there up to what was written last', async () => {
  const recorder = await Recorder.begin(store, row);
  for (let k = 0; k < 70; k++) await recorder.add(arrival(k));
  // nobody flushes: the page is gone
  expect((await store.left('s')).map((r) => r.id)).toEqual(['r']);
  const clip = (await recordedClip(store, 'r', () => true))!;
  expect(clip.frames).toBeGreaterThanOrEqual(60);
  await store.forget('r');
  expect(await store.left('s')).toEqual([]);
  expect(await recordedClip(store, 'r', () => true)).toBeNull();
});

test('a picture of another size is left out, damage ends it where it is, and it can be stopped', async () => {
  const recorder = await Recorder.begin(store, row);
  await recorder.add(arrival(0));
  expect(await recorder.add(arrival(1, {}, { width: 10, height: 10 }))).toBe(false);
  await recorder.add(arrival(1));
  await recorder.flush();
  expect(await recordedClip(store, 'r', () => false)).toBeNull();
  const piece = (await store.piece('r', 0))!;
  const bytes = piece.bytes.slice(0);
  new Uint32Array(bytes)[piece.frames[1]!.from / 4] = 0xffffffff;
  await store.keep({ ...piece, bytes });
  const clip = (await recordedClip(store, 'r', () => true))!;
  expect([clip.frames, clip.damaged]).toEqual([1, 1]);
});
