/** @jest-environment node */
import { describe, expect, test } from '@jest/globals';
import sharp from 'sharp';
import { photoFacts } from './exif';
import { xmpValues } from './xmp';
import { XMP, XMP_MORE } from './xmpMarks';

const solid = sharp({ create: { width: 24, height: 16, channels: 3, background: '#446688' } });
const exif = { IFD0: { Software: 'tests' }, IFD2: { FocalLengthIn35mmFilm: '28' } };

describe('what a camera wrote', () => {
  test.each(['jpeg', 'png', 'webp', 'avif'] as const)('is read from %s', async (format) => {
    const bytes = await solid.clone().withExif(exif).withMetadata({ orientation: 6 }).toFormat(format).toBuffer();
    expect(photoFacts(new Uint8Array(bytes)).focalLength).toBe(28);
    // AVIF turns its pictures by properties of its own
    if (format !== 'avif') expect(photoFacts(new Uint8Array(bytes)).orientation).toBe(6);
  });
  test('is nothing where there is nothing, and where it is cut off at any place', async () => {
    expect(photoFacts(new Uint8Array(await solid.clone().jpeg().toBuffer()))).toEqual({});
    const bytes = new Uint8Array(await solid.clone().withExif(exif).jpeg().toBuffer());
    for (let n = 0; n < 260; n++) expect([undefined, 28]).toContain(photoFacts(bytes.subarray(0, n)).focalLength);
  });
  test('wrong values count as not there', async () => {
    const bytes = new Uint8Array(
      await solid
        .clone()
        .withExif({ IFD2: { FocalLengthIn35mmFilm: '65000' } })
        .jpeg()
        .toBuffer(),
    );
    expect(photoFacts(bytes).focalLength).toBeUndefined();
  });
});

const bytesOf = (text: string): Uint8Array => new TextEncoder().encode(text);
const segment = (...parts: readonly Uint8Array[]): number[] => {
  const body = parts.flatMap((p) => [...p]);
  return [0xff, 0xe1, (body.length + 2) >> 8, (body.length + 2) & 255, ...body];
};
const description = (inside: string, attributes = ''): string =>
  `<x:xmpmeta xmlns:x="m"><rdf:RDF xmlns:rdf="r"><rdf:Description ${attributes}>${inside}</rdf:Description></rdf:RDF></x:xmpmeta>`;
const word = (v: number): Uint8Array => Uint8Array.from([v >>> 24, (v >> 16) & 255, (v >> 8) & 255, v & 255]);

describe('a metadata packet', () => {
  test('may write its values as attributes or as elements', () => {
    const text = description('<GDepth:Near>0.5</GDepth:Near>', 'xmlns:GDepth="d" GDepth:Far="12"');
    const jpeg = Uint8Array.from([0xff, 0xd8, ...segment(bytesOf(XMP), bytesOf(text)), 0xff, 0xda]);
    expect(xmpValues(jpeg)).toEqual({ 'GDepth:Far': '12', 'GDepth:Near': '0.5' });
  });
  test('is put together from parts in any order', () => {
    const whole = bytesOf(description('', `GDepth:Data="${'QUJD'.repeat(50)}"`));
    const name = bytesOf('0123456789ABCDEF'.repeat(2));
    const part = (from: number, to: number): number[] => segment(bytesOf(XMP_MORE), name, word(whole.length), word(from), whole.subarray(from, to));
    const jpeg = Uint8Array.from([0xff, 0xd8, ...part(100, whole.length), ...part(0, 100), 0xff, 0xda]);
    expect(xmpValues(jpeg)['GDepth:Data']).toBe('QUJD'.repeat(50));
  });
  test('that claims to be larger than its file, or is broken, is left out', () => {
    const name = bytesOf('0'.repeat(32));
    const claims = segment(bytesOf(XMP_MORE), name, word(4e9), word(0), bytesOf('x'));
    const broken = segment(bytesOf(XMP), bytesOf('<a><b'));
    expect(xmpValues(Uint8Array.from([0xff, 0xd8, ...claims, ...broken, 0xff, 0xda]))).toEqual({});
  });
});
