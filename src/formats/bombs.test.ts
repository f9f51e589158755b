import { strToU8, zlibSync } from 'fflate';
import { crc32, deflateRawSync, deflateSync } from 'node:zlib';
import { describe, expect, test } from '@jest/globals';
import sharp from 'sharp';
import { decodeStill } from '../../headless/stills';
import { OmbrageError } from '../core/error';
import { newProject, newShot } from '../core/document/defaults';
import { encodeExr } from './exr/exr';
import { inflateUpTo, TooMuch } from './bytes/inflate';
import { readMapFile } from './maps/mapFile';
import { readPng } from './png/png';
import { packProject, unpackProject } from './project/projectFile';
import { sha256 } from './bytes/sha256';
import { unpackLzw } from './tiff/tiffDecoders';

const refusal = async (work: Promise<unknown>): Promise<OmbrageError> => {
  const error = await work.then(
    () => null,
    (e: unknown) => e,
  );
  expect(error).toBeInstanceOf(OmbrageError);
  expect((error as OmbrageError).hint).not.toBe('');
  return error as OmbrageError;
};
const readMap = (bytes: Uint8Array, name: string) => readMapFile(bytes, name, null, (b, n) => decodeStill(b, n, false));
/** Zeros compressed: a thousandth of their size. */
const zeros = (bytes: number): Uint8Array => new Uint8Array(deflateSync(new Uint8Array(bytes)));

/** The most memory that was in use while something ran, bytes above what was before. */
async function peak(work: () => Promise<unknown>): Promise<number> {
  const before = process.memoryUsage().rss;
  let most = before;
  const timer = setInterval(() => (most = Math.max(most, process.memoryUsage().rss)), 5);
  await work();
  clearInterval(timer);
  return Math.max(most, process.memoryUsage().rss) - before;
}

describe('PNG', () => {
  const crcTable = Uint32Array.from({ length: 256 }, (_, n) => {
    let c = n;
    for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
    return c >>> 0;
  });
  const chunk = (type: string, body: Uint8Array): Uint8Array => {
    const out = new Uint8Array(12 + body.length);
    const words = new DataView(out.buffer);
    words.setUint32(0, body.length);
    out.set(strToU8(type), 4);
    out.set(body, 8);
    let crc = 0xffffffff;
    for (const b of out.subarray(4, 8 + body.length)) crc = crcTable[(crc ^ b) & 255]! ^ (crc >>> 8);
    words.setUint32(8 + body.length, (crc ^ 0xffffffff) >>> 0);
    return out;
  };
  const png = (size: number, colour: number, ...chunks: [string, Uint8Array][]): Uint8Array => {
    const head = new Uint8Array(13);
    new DataView(head.buffer).setUint32(0, size);
    new DataView(head.buffer).setUint32(4, size);
    head.set([16, colour, 0, 0, 0], 8);
    const parts = [Uint8Array.of(0x89, 80, 78, 71, 13, 10, 26, 10), chunk('IHDR', head)];
    for (const [type, body] of chunks) parts.push(chunk(type, body));
    parts.push(chunk('IEND', new Uint8Array(0)));
    return new Uint8Array(Buffer.concat(parts));
  };
  const rows = (size: number, channels: number, value: (i: number) => number): Uint8Array => {
    const out = new Uint8Array(size * (1 + size * channels * 2));
    for (let i = 0; i < size * size * channels; i++) {
      const [row, at] = [Math.floor(i / (size * channels)), i % (size * channels)];
      const v = value(i);
      out.set([v >> 8, v & 255], row * (1 + size * channels * 2) + 1 + at * 2);
    }
    return out;
  };

  test('whose pixels unpack to far more than its size is refused before room is made for them', async () => {
    const bomb = png(64, 0, ['IDAT', zeros(300e6)]);
    let error: OmbrageError | null = null;
    expect(await peak(async () => (error = await refusal(readMap(bomb, 'bomb.png'))))).toBeLessThan(150e6);
    expect(error!.message).toBe('bomb.png: The PNG holds far more than the size it gives.');
  });

  test('whose colour profile is one opens without it', async () => {
    const profile = new Uint8Array([...strToU8('big'), 0, 0, ...zeros(100e6)]);
    const bytes = png(16, 2, ['iCCP', profile], ['IDAT', zlibSync(rows(16, 3, (i) => i * 80))]);
    const raster = await readPng(bytes, 'plate');
    expect([raster.width, raster.data[5]]).toEqual([16, 400]);
  });

  test('with one byte of its pixels changed, or cut short, is refused', async () => {
    const good = png(24, 0, ['IDAT', zlibSync(rows(24, 1, (i) => i * 100))]);
    expect((await readPng(good, 'map')).data[7]).toBe(700);
    const changed = good.slice();
    changed[good.length - 40]! ^= 1;
    await refusal(readPng(changed, 'map'));
    await refusal(readPng(good.subarray(0, good.length - 20), 'map'));
    await refusal(readPng(png(24, 0, ['IDAT', zlibSync(rows(24, 1, () => 0).subarray(0, 600))]), 'map'));
  });

  describe('of 16 bits with a colour profile', () => {
    const text = (s: string): number[] => [...strToU8(s)];
    const word = (v: number): number[] => [(v >>> 24) & 255, (v >>> 16) & 255, (v >>> 8) & 255, v & 255];
    const fixed = (v: number): number[] => word(Math.round(v * 65536));
    /** A matrix profile: columns in XYZ under D50, one curve. */
    const profileOf = (columns: readonly number[][], curve: number[]): Uint8Array => {
      const tags: [string, number[]][] = [
        ...(['rXYZ', 'gXYZ', 'bXYZ'] as const).map((n, k): [string, number[]] => [n, [...text('XYZ '), ...word(0), ...columns[k]!.flatMap(fixed)]]),
        ...(['rTRC', 'gTRC', 'bTRC'] as const).map((n): [string, number[]] => [n, curve]),
      ];
      const head = new Array<number>(128).fill(0);
      head.splice(16, 8, ...text('RGB XYZ '));
      head.splice(36, 4, ...text('acsp'));
      let at = 132 + 12 * tags.length;
      const table: number[] = [];
      const bodies: number[] = [];
      for (const [name, body] of tags) {
        table.push(...text(name), ...word(at), ...word(body.length));
        bodies.push(...body);
        at += body.length;
      }
      return Uint8Array.from([...head, ...word(tags.length), ...table, ...bodies]);
    };
    const srgbCurve = [...text('para'), ...word(0), 0, 3, 0, 0, ...[2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045].flatMap(fixed)];
    const srgb = [
      [0.4360747, 0.2225045, 0.0139322],
      [0.3850649, 0.7168786, 0.0971045],
      [0.1430804, 0.0606169, 0.7141733],
    ];
    /** primaries of DCI-P3 with a D65 white and the sRGB curve */
    const p3 = [
      [0.51512, 0.2412, -0.00105],
      [0.29198, 0.69225, 0.04189],
      [0.1571, 0.06657, 0.78407],
    ];
    const openWith = async (profile: Uint8Array, use: 'plate' | 'map', rgb: readonly number[]): Promise<number[]> => {
      const body = new Uint8Array([...text('p'), 0, 0, ...zlibSync(profile)]);
      const bytes = png(16, 2, ['iCCP', body], ['IDAT', zlibSync(rows(16, 3, (i) => rgb[i % 3]! * 257))]);
      return [...(await readPng(bytes, use)).data.slice(0, 3)].map((v) => v / 257);
    };

    test('shows the colours that the profile means: a picture that other software turned to P3 is as it was', async () => {
      const colours = [184, 71, 65, 20, 200, 90, 240, 240, 250, 12, 9, 30];
      const picture = await sharp(Uint8Array.from(colours), { raw: { width: 2, height: 2, channels: 3 } })
        .resize(32, 32, { kernel: 'nearest' })
        .toColourspace('rgb16')
        .withIccProfile('p3')
        .png()
        .toBuffer();
      const raster = await readPng(new Uint8Array(picture), 'plate');
      const stored = await readPng(new Uint8Array(picture), 'map');
      expect(raster.data).toBeInstanceOf(Uint16Array);
      const at = (data: ArrayLike<number>, x: number, y: number, k: number): number => data[(y * 32 + x) * raster.channels + k]! / 257;
      [0, 1, 2, 3].forEach((corner) => {
        const [x, y] = [corner % 2 ? 30 : 1, corner > 1 ? 30 : 1];
        for (let k = 0; k < 3; k++) expect(Math.abs(at(raster.data, x, y, k) - colours[corner * 3 + k]!)).toBeLessThanOrEqual(1);
      });
      expect(Math.abs(at(stored.data, 1, 1, 0) - 184)).toBeGreaterThan(5);
    });
    test('that is sRGB is left as it is, and so are the greys of a map', async () => {
      const same = await openWith(profileOf(srgb, srgbCurve), 'plate', [200, 60, 120]);
      [200, 60, 120].forEach((v, k) => expect(same[k]!).toBeCloseTo(v, 1));
      expect(await openWith(profileOf(p3, srgbCurve), 'map', [200, 60, 60])).toEqual([200, 60, 60]);
    });
    test('of one gamma brightens as that gamma says', async () => {
      const gamma = [...text('curv'), ...word(0), ...word(1), 1, 0];
      const [r] = await openWith(profileOf(srgb, gamma), 'plate', [55, 55, 55]);
      // linear light of 55/255, encoded
      expect(r! / 255).toBeCloseTo(1.055 * (55 / 255) ** (1 / 2.4) - 0.055, 2);
    });
  });
});

describe('TIFF', () => {
  /** One strip of 16-bit greys, compressed in a way. */
  const tiff = (width: number, height: number, compression: number, strip: Uint8Array): Uint8Array => {
    const entries = [
      [256, 4, width],
      [257, 4, height],
      [258, 3, 16],
      [259, 3, compression],
      [262, 3, 1],
      [273, 4, 8 + 2 + 9 * 12 + 4],
      [277, 3, 1],
      [278, 4, height],
      [279, 4, strip.length],
    ];
    const out = new Uint8Array(8 + 2 + entries.length * 12 + 4 + strip.length);
    const words = new DataView(out.buffer);
    out.set([0x49, 0x49, 42, 0, 8, 0, 0, 0, entries.length, 0]);
    entries.forEach(([tag, type, value], i) => {
      words.setUint16(10 + i * 12, tag!, true);
      words.setUint16(12 + i * 12, type!, true);
      words.setUint32(14 + i * 12, 1, true);
      if (type === 3) words.setUint16(18 + i * 12, value!, true);
      else words.setUint32(18 + i * 12, value!, true);
    });
    out.set(strip, out.length - strip.length);
    return out;
  };
  /** LZW with codes of 9 bits and a clear before they would grow. */
  const lzw = (bytes: Uint8Array): Uint8Array => {
    const out: number[] = [];
    let [held, have] = [0, 0];
    const put = (code: number): void => {
      held = (held << 9) | code;
      have += 9;
      for (; have >= 8; have -= 8) out.push((held >> (have - 8)) & 255);
      held &= (1 << have) - 1;
    };
    bytes.forEach((b, i) => {
      if (i % 200 === 0) put(256);
      put(b);
    });
    put(257);
    if (have > 0) out.push((held << (8 - have)) & 255);
    return Uint8Array.from(out);
  };
  const greys = new Uint8Array(Uint16Array.from({ length: 40 * 30 }, (_, i) => 1000 + i * 40).buffer);

  test('compressed by Deflate or LZW is read', async () => {
    for (const bytes of [tiff(40, 30, 8, zlibSync(greys)), tiff(40, 30, 5, lzw(greys))]) {
      const map = await readMap(bytes, 'm.tif');
      expect(map.plane.data[39]).toBeCloseTo((1000 + 39 * 40) / 65535, 5);
    }
  });
  test('whose strip unpacks to far more than its rows is refused at once', async () => {
    const bomb = tiff(40, 30, 8, zeros(300e6));
    let error: OmbrageError | null = null;
    expect(await peak(async () => (error = await refusal(readMap(bomb, 'bomb.tif'))))).toBeLessThan(150e6);
    expect(error!.message).toContain('far more than the size it gives');
  });
  test('whose LZW had any one byte changed gives pixels or an error, and never more than its size', async () => {
    const strip = lzw(greys);
    for (let at = 0; at < strip.length; at += 7) {
      const changed = strip.slice();
      changed[at]! ^= 0x55;
      try {
        expect(unpackLzw(changed, greys.length + 4096).length).toBeLessThanOrEqual(greys.length + 4096);
      } catch (error) {
        expect(error).toBeInstanceOf(Error);
      }
      await readMap(tiff(40, 30, 5, changed), 'm.tif').catch((e: unknown) => expect(e).toBeInstanceOf(OmbrageError));
    }
  });
  test('LZW grows its codes and repeats what it has just written', () => {
    // a run: each code is the one that is being made
    const run = new Uint8Array(3000).fill(7);
    const out: number[] = [];
    let [held, have, bits, next] = [0, 0, 9, 258];
    const put = (code: number): void => {
      held = (held << bits) | code;
      have += bits;
      for (; have >= 8; have -= 8) out.push((held >> (have - 8)) & 255);
      held &= (1 << have) - 1;
    };
    put(256);
    put(7);
    for (let length = 2, done = 1; done < run.length; length++) {
      const count = Math.min(length, run.length - done);
      put(count === 1 ? 7 : 258 + count - 2);
      if (next < 4096) next++;
      if (next + 1 >= 1 << bits && bits < 12) bits++;
      done += count;
    }
    put(257);
    out.push((held << (8 - have)) & 255);
    expect(unpackLzw(Uint8Array.from(out), 5000)).toEqual(run);
  });
});

test('an EXR whose header names another compression than was used is refused, and so is a chunk that unpacks to too much', async () => {
  const [w, h] = [40, 24];
  const plane = { width: w, height: h, data: Float32Array.from({ length: w * h }, (_, i) => 1 + Math.floor(i / 7) * 0.25) };
  const bytes = encodeExr(plane);
  expect((await readMap(bytes, 'm.exr')).plane.data[100]).toBe(plane.data[100]);
  const at = Buffer.from(bytes).indexOf('compression\0compression\0') + 28;
  expect(bytes[at]).toBe(3);
  for (let other = 0; other < 10; other++) {
    if (other === 3) continue;
    const changed = bytes.slice();
    changed[at] = other;
    expect((await refusal(readMap(changed, 'm.exr'))).message).toContain('m.exr');
  }
  // one chunk of sixteen rows, 2560 bytes, that unpacks to a million
  const single = encodeExr({ width: w, height: 16, data: plane.data.slice(0, w * 16) });
  const table = Buffer.from(single).indexOf('screenWindowWidth\0float\0') + 24 + 8 + 1;
  const start = Number(new DataView(single.buffer).getBigUint64(table, true)) + 8;
  const body = zeros(1e6);
  expect(body.length).toBeLessThan(2560);
  const bomb = new Uint8Array([...single.subarray(0, start), ...body]);
  new DataView(bomb.buffer).setInt32(start - 4, body.length, true);
  expect((await refusal(readMap(bomb, 'bomb.exr'))).message).toContain('not compressed as its header says');
});

describe('project file', () => {
  const plate = strToU8('pixels');
  const projectOf = async () => ({
    ...newProject('Coast'),
    shots: [newShot({ sha256: await sha256(plate), name: 'p.png', width: 40, height: 30, bits: 8, hfovFromFile: null })],
  });

  /** A zip written by hand, so that what it says of its sizes is for the test to choose. */
  const zipOf = (files: Record<string, Uint8Array>, sizeSaid = (bytes: Uint8Array): number => bytes.length): Blob => {
    const [locals, list]: [Uint8Array[], Uint8Array[]] = [[], []];
    let at = 0;
    for (const [name, bytes] of Object.entries(files)) {
      const packed = new Uint8Array(deflateRawSync(bytes));
      const head = (signature: number, size: number): [Uint8Array, DataView, number] => {
        const out = new Uint8Array(size + name.length);
        const words = new DataView(out.buffer);
        const shift = size === 46 ? 2 : 0;
        words.setUint32(0, signature, true);
        words.setUint16(4 + shift, 20, true);
        words.setUint16(8 + shift, 8, true);
        words.setUint32(14 + shift, crc32(bytes), true);
        words.setUint32(18 + shift, packed.length, true);
        words.setUint32(22 + shift, sizeSaid(bytes), true);
        words.setUint16(26 + shift, name.length, true);
        out.set(strToU8(name), size);
        return [out, words, shift];
      };
      const [local] = head(0x04034b50, 30);
      const [entry, words] = head(0x02014b50, 46);
      words.setUint32(42, at, true);
      locals.push(local, packed);
      list.push(entry);
      at += local.length + packed.length;
    }
    const end = new DataView(new ArrayBuffer(22));
    end.setUint32(0, 0x06054b50, true);
    for (const place of [8, 10]) end.setUint16(place, Object.keys(files).length, true);
    end.setUint32(
      12,
      list.reduce((sum, entry) => sum + entry.length, 0),
      true,
    );
    end.setUint32(16, at, true);
    return new Blob([...locals, ...list, end.buffer] as BlobPart[]);
  };

  test('that unpacks to far more than itself is refused as soon as that shows, whichever entry does it, whatever it says of its sizes', async () => {
    const project = await projectOf();
    const media = `media/${await sha256(plate)}`;
    const json = strToU8(JSON.stringify(project));
    // the writer of these zips is right
    expect((await unpackProject(zipOf({ 'project.json': json, [media]: plate }), 'good.ombrage')).project).toEqual(project);
    const large = new Uint8Array(400e6);
    for (const [bomb, code] of [
      [zipOf({ 'project.json': json, [media]: large }), 'too-large-inside'],
      [zipOf({ 'project.json': large, [media]: plate }), 'too-large-inside'],
      // one that says less than it holds is found out at the first byte that is too many
      [zipOf({ 'project.json': json, [media]: large }, () => 10), 'damaged-file'],
    ] as const) {
      let error: OmbrageError | null = null;
      const started = performance.now();
      const used = await peak(async () => (error = await refusal(unpackProject(bomb, 'bomb.ombrage'))));
      expect(error!).toMatchObject({ code });
      expect(used).toBeLessThan(400e6);
      expect(performance.now() - started).toBeLessThan(10000);
    }
  }, 60000);

  test('whose document was changed within its file is refused, even where it is still a document', async () => {
    const project = await projectOf();
    const packed = new Uint8Array(await (await packProject({ ...project, name: 'Harbour' }, new Map([[await sha256(plate), plate]]))).arrayBuffer());
    const stored = zipOf({ 'project.json': strToU8(JSON.stringify({ ...project, name: 'Harbour' })), [`media/${await sha256(plate)}`]: plate });
    expect((await unpackProject(new Blob([packed]), 'good.ombrage')).project.name).toBe('Harbour');
    // the sum that is kept is that of another document
    for (const bytes of [packed, new Uint8Array(await stored.arrayBuffer())]) {
      const changed = bytes.slice();
      // in the list at its end, that of the first entry
      changed[Buffer.from(bytes).indexOf('PK\x01\x02') + 16]! ^= 1;
      expect(await refusal(unpackProject(new Blob([changed]), 'x.ombrage'))).toMatchObject({
        code: 'damaged-file',
        message: 'x.ombrage is damaged in project.json.',
      });
    }
  });

  test('that is cut short or damaged within is refused in words', async () => {
    const packed = new Uint8Array(await (await packProject(await projectOf(), new Map([[await sha256(plate), plate]]))).arrayBuffer());
    const media = Buffer.from(packed).indexOf('pixels');
    for (let end = 4; end < media; end += 37) await refusal(unpackProject(new Blob([packed.slice(0, end)]), 'short.ombrage'));
    for (let at = 30; at < packed.length - 200; at += 41) {
      const changed = packed.slice();
      changed[at]! ^= 0xff;
      await unpackProject(new Blob([changed]), 'x.ombrage').catch((e: unknown) => expect(e).toBeInstanceOf(OmbrageError));
    }
  });
});

test('inflating stops at what is allowed, and padding after the end is no fault', async () => {
  await expect(inflateUpTo([zeros(5000)], 4999)).rejects.toBeInstanceOf(TooMuch);
  const padded = new Uint8Array([...zlibSync(Uint8Array.of(1, 2, 3)), 0, 0, 0, 0]);
  expect([...(await inflateUpTo([padded], 3))]).toEqual([1, 2, 3]);
  await expect(inflateUpTo([Uint8Array.of(9, 9, 9, 9)], 100)).rejects.toThrow();
});
