import { expect, test } from '@jest/globals';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { zipSync } from 'fflate';
import { checkClaims, entriesOf } from './claims';
import { openPictures } from './pictureSequence';

const fixture = (): Uint8Array<ArrayBuffer> => new Uint8Array(readFileSync(join(process.cwd(), 'e2e/fixtures/openGroups.mp4')));
const place = (bytes: Uint8Array, text: string): number => Buffer.from(bytes).indexOf(text, 0, 'latin1');
const blobOf = (bytes: Uint8Array): Blob => new Blob([bytes as Uint8Array<ArrayBuffer>]);

test.each([
  ['stts', 12],
  ['ctts', 12],
  ['stsz', 12],
  ['stss', 8],
  ['stco', 8],
])('an MP4 whose %s claims a thousand million samples is refused at once', async (box, at) => {
  const bytes = fixture();
  await expect(checkClaims(blobOf(bytes), 'c.mp4')).resolves.toBeUndefined();
  new DataView(bytes.buffer).setUint32(place(bytes, box) + at, 1e9);
  const began = performance.now();
  await expect(checkClaims(blobOf(bytes), 'c.mp4')).rejects.toThrow('c.mp4 is damaged: it claims more frames than its bytes can hold.');
  expect(performance.now() - began).toBeLessThan(500);
});

test('other files, and ones cut anywhere, pass: whoever reads them says what is wrong', async () => {
  const bytes = fixture();
  for (let end = 0; end < bytes.length; end += 97) await checkClaims(blobOf(bytes.subarray(0, end)), 'c.mp4');
  await checkClaims(blobOf(new TextEncoder().encode('nothing of the sort')), 'x');
});

const files = (count: number): Record<string, Uint8Array> =>
  Object.fromEntries(Array.from({ length: count }, (_, k) => [`f${k}.png`, new Uint8Array(1)]));

test('how many files a zip has stands at its end, whatever comes before', async () => {
  expect(await entriesOf(blobOf(zipSync(files(12))))).toBe(12);
  expect(await entriesOf(blobOf(new Uint8Array(100)))).toBeNull();
  const many = zipSync(files(3));
  new DataView(many.buffer, many.byteOffset).setUint16(many.length - 12, 0xffff, true);
  expect(await entriesOf(blobOf(many))).toBe(0xffff);
});

test('a zip of more pictures than a clip may have, and one whose pictures unpack beyond all measure, are refused at once', async () => {
  const many = zipSync(files(65_500), { level: 0 });
  const began = performance.now();
  await expect(openPictures(blobOf(many), 'many.zip', () => Promise.reject(new Error('not asked')))).rejects.toThrow(
    'many.zip holds more than 60000 pictures.',
  );
  expect(performance.now() - began).toBeLessThan(1000);
  const bomb = zipSync({ '1.png': new Uint8Array(60e6), '2.png': new Uint8Array(60e6) });
  expect(bomb.length).toBeLessThan(1e6);
  await expect(openPictures(blobOf(bomb), 'bomb.zip', () => Promise.reject(new Error('not asked')))).rejects.toThrow(
    '1.png unpacks to far more than a picture does.',
  );
  // its sizes are told small
  const lying = bomb.slice();
  const view = new DataView(lying.buffer, lying.byteOffset);
  for (let at = 0; at + 46 < lying.length; at++) if (view.getUint32(at, true) === 0x02014b50) view.setUint32(at + 24, 1000, true);
  await expect(openPictures(blobOf(lying), 'lying.zip', () => Promise.reject(new Error('not asked')))).rejects.toThrow('is damaged in 1.png');
});
