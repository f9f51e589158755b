import { describe, expect, test } from '@jest/globals';
import sharp from 'sharp';
import { seededRandom } from '../../core/random';
import { newPlane, type Plane } from '../../core/picture';
import { decodeStill } from '../../../headless/stills';
import { embedDepth, furtherPictures, xmpDepth } from '../jpeg/depthPhoto';
import { decodeExr, encodeExr, likelyChannel } from '../exr/exr';
import { mapAsNearness, readMapFile } from './mapFile';
import { decodeNpy } from '../npy/npy';
import { encodePlanePfm } from '../pfm/pfm';
import { encodeDepthPng } from '../png/png';
import { decodeTiff, encodeTiff } from '../tiff/tiff';

const [W, H] = [37, 21];
const planeOf = (f: (x: number, y: number) => number): Plane => {
  const plane = newPlane(W, H);
  for (let i = 0; i < plane.data.length; i++) plane.data[i] = f(i % W, Math.floor(i / W));
  return plane;
};
/** metres: a slope with a near block in it and no sky */
const distances = planeOf((x, y) => (x > 10 && x < 18 && y > 8 ? 1.25 : 2 + x * 0.5 + y * 0.01));
const decode = (bytes: Uint8Array, name: string) => decodeStill(bytes, name, false);
const read = (bytes: Uint8Array, name: string, channel: string | null = null) => readMapFile(bytes, name, channel, decode);
const random = seededRandom(3);
const greyPng = async (
  f: (x: number, y: number) => number,
  channels: 1 | 4 = 1,
  alpha: (x: number, y: number) => number = () => 255,
): Promise<Uint8Array> => {
  const data = Uint8Array.from({ length: W * H * channels }, (_, i) => {
    const p = Math.floor(i / channels);
    return channels === 4 && i % 4 === 3 ? alpha(p % W, Math.floor(p / W)) : channels === 4 ? 60 + ((i * 53) % 160) : f(p % W, Math.floor(p / W));
  });
  return new Uint8Array(
    await sharp(data, { raw: { width: W, height: H, channels } })
      .png()
      .toBuffer(),
  );
};

/** An array as the format's own documents lay it out. */
function npyBytes(descr: string, shape: string, fortran: boolean, body: Uint8Array): Uint8Array {
  const dict = `{'descr': '${descr}', 'fortran_order': ${fortran ? 'True' : 'False'}, 'shape': ${shape}, }`;
  const head = dict.padEnd(128 - 10 - 1) + '\n';
  const out = new Uint8Array(10 + head.length + body.length);
  out.set([0x93, ...new TextEncoder().encode('NUMPY'), 1, 0, head.length & 255, head.length >> 8]);
  out.set(new TextEncoder().encode(head), 10);
  out.set(body, 10 + head.length);
  return out;
}

describe('numbers survive', () => {
  test('a TIFF of floats', async () => {
    const back = await decodeTiff(encodeTiff(distances));
    expect([back.width, back.height, back.bits, back.float]).toEqual([W, H, 32, true]);
    expect(back.planes[0]!.data).toEqual(distances.data);
  });
  test('an OpenEXR, whatever its channel is called', async () => {
    for (const name of ['Z', 'depth.Z', 'V']) {
      const back = await decodeExr(encodeExr({ [name]: distances }), null);
      expect(back.channel).toBe(name);
      expect(back.plane.data).toEqual(distances.data);
    }
  });
  test('an NPY in either order, as floats, doubles and 16-bit greys', () => {
    const rows = npyBytes('<f4', `(${H}, ${W})`, false, new Uint8Array(distances.data.slice().buffer));
    expect(decodeNpy(rows).plane.data).toEqual(distances.data);
    const turned = new Float64Array(W * H);
    for (let y = 0; y < H; y++) for (let x = 0; x < W; x++) turned[x * H + y] = distances.data[y * W + x]!;
    expect(decodeNpy(npyBytes('<f8', `(${H}, ${W})`, true, new Uint8Array(turned.buffer))).plane.data).toEqual(distances.data);
    const greys = Uint16Array.from({ length: W * H }, (_, i) => i * 50);
    const found = decodeNpy(npyBytes('<u2', `(1, ${H}, ${W})`, false, new Uint8Array(greys.buffer)));
    expect([found.bits, found.float, found.plane.data[100]]).toEqual([16, false, 5000]);
  });
});

describe('what a file is', () => {
  test('greys: bits, range, no ends', async () => {
    const { facts, plane } = await read(await greyPng((x) => 20 + x * 5), 'm.png');
    expect(facts).toMatchObject({
      format: 'PNG',
      width: W,
      height: H,
      float: false,
      reading: 'grey',
      ends: null,
      smallIsNear: null,
      colourful: false,
      holes: 0,
    });
    expect(plane.data[0]).toBeCloseTo(20 / 255, 6);
    const deep = await read(encodeDepthPng(planeOf((x) => x / W)), 'm.png');
    expect(deep.facts.bits).toBe(16);
    expect(deep.plane.data[5]).toBeCloseTo(5 / W, 4);
  });
  test('distances in a Z channel are read as such, and come back through perspective spacing between their ends', async () => {
    const map = await read(encodeExr(distances), 'z.exr');
    expect(map.facts).toMatchObject({ reading: 'distance', smallIsNear: true, channel: 'Z', float: true });
    const { plane, ends } = mapAsNearness(map, 'distance');
    expect(ends!.near).toBeCloseTo(1.25, 3);
    for (let i = 0; i < plane.data.length; i++) {
      const z = 1 / (plane.data[i]! / ends!.near + (1 - plane.data[i]!) / ends!.far);
      expect(Math.abs(z / distances.data[i]! - 1)).toBeLessThan(0.002);
    }
  });
  test('a float plane of 0..1 stays grey; infinity is the farthest, what is no number is a hole', async () => {
    const plane = planeOf((x, y) => (y === 0 ? NaN : x / W));
    const map = await read(encodePlanePfm(plane), 'm.pfm');
    expect(map.facts.holes).toBeCloseTo(1 / H, 6);
    const { plane: near } = mapAsNearness(map, map.facts.reading);
    expect(near.data[0]).toBeNaN();
    expect(near.data[W + 10]).toBeCloseTo(10 / W, 6);
    const far = await read(encodePlanePfm(planeOf((x) => (x < 5 ? Infinity : 3 + x))), 'd.pfm');
    const inverse = mapAsNearness(far, 'distance').plane;
    expect(inverse.data[2]).toBe(0);
    expect(inverse.data[5]).toBeGreaterThan(0.99);
  });
  test('a colour picture is noticed; depth in its alpha channel is found', async () => {
    const picture = await read(await greyPng(() => 0, 4), 'p.png');
    expect(picture.facts.colourful).toBe(true);
    const carrying = await read(
      await greyPng(
        () => 0,
        4,
        (x) => x * 6,
      ),
      'p.png',
    );
    expect(carrying.facts).toMatchObject({ channel: 'alpha', colourful: false });
    expect(carrying.plane.data[10]).toBeCloseTo(60 / 255, 6);
    const cutOut = await read(
      await greyPng(
        () => 0,
        4,
        (x) => (x < 20 ? 0 : 255),
      ),
      'p.png',
    );
    expect(cutOut.facts.channel).toBe('brightness');
  });
  test('the likeliest channel is found by its name', () => {
    expect(likelyChannel(['A', 'B', 'G', 'R', 'Z'])).toBe('Z');
    expect(likelyChannel(['Combined.R', 'Depth.V', 'Alpha.A'])).toBe('Depth.V');
    expect(likelyChannel(['q'])).toBe('q');
  });
  test('a position pass gives its third axis, turned where the camera looks along its negative, or its length where asked', async () => {
    const axes = { X: planeOf((x) => x - 18), Y: planeOf((_, y) => y - 10), Z: planeOf((x) => -4 - x) };
    const map = await read(encodeExr(axes), 'position.exr');
    expect(map.facts.channels).toEqual(['X', 'Y', 'Z', 'length of position']);
    expect([map.facts.channel, map.plane.data[5]]).toEqual(['Z', 9]);
    const length = await read(encodeExr(axes), 'position.exr', 'length of position');
    expect(length.plane.data[0]).toBeCloseTo(Math.hypot(18, 10, 4), 5);
    expect((await read(encodeExr(axes), 'position.exr', 'Y')).plane.data[0]).toBe(-10);
  });
});

describe('photographs that carry depth', () => {
  const photo = async (width = 64, height = 48): Promise<Uint8Array> =>
    new Uint8Array(
      await sharp(
        Uint8Array.from({ length: width * height * 3 }, () => Math.floor(256 * random())),
        { raw: { width, height, channels: 3 } },
      )
        .jpeg()
        .toBuffer(),
    );
  test('what is embedded is read back with its ends, black near as the standard has it', async () => {
    const map = encodeDepthPng(planeOf((x) => 1 - x / (W - 1)));
    const bytes = await embedDepth(await photo(), map, 'image/png', { near: 0.8, far: 24 });
    const xmp = (await xmpDepth(bytes))!;
    expect(xmp.bytes).toEqual(map);
    const { facts, plane } = await read(bytes, 'phone.jpg');
    expect(facts).toMatchObject({ channel: 'XMP depth map', ends: { near: 0.8, far: 24 }, smallIsNear: true, width: W, height: H });
    expect(plane.data[0]).toBeCloseTo(1, 3);
    // the picture itself is whole
    expect((await sharp(bytes).metadata()).width).toBe(64);
  });
  test('a map too large for one segment is cut and joined again', async () => {
    const big = newPlane(400, 300);
    for (let i = 0; i < big.data.length; i++) big.data[i] = random();
    const map = encodeDepthPng(big);
    expect(map.length).toBeGreaterThan(150000);
    expect((await xmpDepth(await embedDepth(await photo(), map, 'image/png', { near: 1, far: 9 })))!.bytes).toEqual(map);
  });
  test('a further grey picture is found by the multi-picture directory', async () => {
    const first = await photo();
    const second = new Uint8Array(
      await sharp(Buffer.from(await greyPng((x) => x * 6)))
        .toColourspace('b-w')
        .jpeg({ quality: 98 })
        .toBuffer(),
    );
    // MPF segment after the start mark: little-endian directory with one entry that lists two pictures
    const body = new Uint8Array(4 + 8 + 2 + 12 + 4 + 32);
    const words = new DataView(body.buffer);
    body.set(new TextEncoder().encode('MPF\0'));
    body.set([0x49, 0x49, 42, 0], 4);
    words.setUint32(8, 8, true);
    words.setUint16(12, 1, true);
    words.setUint16(14, 0xb002, true);
    words.setUint16(16, 7, true);
    words.setUint32(18, 32, true);
    words.setUint32(22, 8 + 2 + 12 + 4, true);
    const total = first.length + body.length + 4;
    words.setUint32(30 + 4, total, true);
    words.setUint32(46 + 4, second.length, true);
    words.setUint32(46 + 8, total - 10, true);
    const out = new Uint8Array(total + second.length);
    out.set([0xff, 0xd8, 0xff, 0xe2, 0, body.length + 2]);
    out.set(body, 6);
    out.set(first.subarray(2), 6 + body.length);
    out.set(second, total);
    expect(furtherPictures(out)).toHaveLength(1);
    const { facts, plane } = await read(out, 'phone.jpg');
    expect(facts).toMatchObject({ channel: 'further picture 1', width: W, height: H });
    expect(plane.data[10 * W + 20]).toBeCloseTo((20 * 6) / 255, 1);
    expect((await read(out, 'phone.jpg', 'brightness')).facts.width).toBe(64);
  });
});

describe('random damage', () => {
  const seeds: [string, () => Promise<Uint8Array>][] = [
    ['m.exr', async () => encodeExr(distances)],
    ['m.tif', async () => encodeTiff(distances)],
    ['m.pfm', async () => encodePlanePfm(distances)],
    ['m.npy', async () => npyBytes('<f4', `(${H}, ${W})`, false, new Uint8Array(distances.data.slice().buffer))],
    ['m.png', () => greyPng((x) => x * 5)],
    [
      'm.jpg',
      async () =>
        new Uint8Array(
          await sharp(Buffer.from(await greyPng((x) => x * 5)))
            .jpeg()
            .toBuffer(),
        ),
    ],
    [
      'm.webp',
      async () =>
        new Uint8Array(
          await sharp(Buffer.from(await greyPng((x) => x * 5)))
            .webp()
            .toBuffer(),
        ),
    ],
    [
      'd.jpg',
      async () =>
        embedDepth(
          new Uint8Array(
            await sharp(Buffer.from(await greyPng((x) => x * 5)))
              .jpeg()
              .toBuffer(),
          ),
          encodeDepthPng(distances),
          'image/png',
          { near: 1, far: 9 },
        ),
    ],
  ];
  // npm run fuzz sets 2000
  const rounds = Number(process.env.FUZZ_ROUNDS ?? 120);
  test.each(seeds)(
    '%s gives a map or a clear error, never hangs',
    async (name, make) => {
      const whole = await make();
      const dice = seededRandom(whole.length);
      const slowest = { ms: 0 };
      for (let k = 0; k < rounds; k++) {
        const bytes = whole.slice(0, dice() < 0.25 ? Math.floor(whole.length * dice()) : whole.length);
        // most damage strikes the header, where it does most
        const reach = dice() < 0.7 ? Math.min(bytes.length, 400) : bytes.length;
        for (let n = 1 + Math.floor(6 * dice()); n > 0; n--) bytes[Math.floor(reach * dice())] = Math.floor(256 * dice());
        const started = performance.now();
        try {
          const map = await read(bytes, name);
          expect(map.plane.data.length).toBe(map.facts.width * map.facts.height);
        } catch (error) {
          expect((error as { code?: string }).code).toMatch(/^[a-z-]+$/);
          expect((error as Error).message).toContain(name);
          expect((error as { hint: string }).hint).not.toBe('');
        }
        slowest.ms = Math.max(slowest.ms, performance.now() - started);
      }
      expect(slowest.ms).toBeLessThan(4000);
    },
    600000,
  );
});

test('a file that is no map at all is named, with every kind that can be chosen instead', async () => {
  await expect(read(new TextEncoder().encode('xxxx'), 'bad.exr')).rejects.toMatchObject({
    code: 'unknown-format',
    message: expect.stringContaining('bad.exr'),
    hint: expect.stringMatching(/TIFF, OpenEXR, PFM or NPY/),
  });
});

describe('plates of three-dimensional work', () => {
  const light = (k: number): Plane => planeOf((x, y) => (k + 1) * 0.002 * (x + y) * (x > 30 ? 20 : 1));
  const alpha = planeOf((x) => (x < 5 ? 0 : x < 10 ? 0.5 : 1));
  const times = (a: Plane, b: Plane): Plane => ({ ...a, data: a.data.map((v, i) => v * b.data[i]!) });
  const srgb = (v: number): number => Math.round(65535 * Math.min(1, v <= 0.0031308 ? v * 12.92 : 1.055 * v ** (1 / 2.4) - 0.055));

  test('an OpenEXR is linear light, cut off at white, with straight alpha; its Z is depth inside', async () => {
    const [R, G, B] = [0, 1, 2].map((k) => times(light(k), alpha)) as [Plane, Plane, Plane];
    const bytes = encodeExr({ R, G, B, A: alpha, Z: distances });
    const { facts, raster } = await decodeStill(bytes, 'beauty.exr');
    expect([facts.width, facts.height, raster.channels, facts.depthInside]).toEqual([W, H, 4, 'in a channel of its own']);
    for (const [x, y] of [
      [7, 3],
      [20, 11],
      [35, 18],
    ] as const) {
      const i = y * W + x;
      for (const k of [0, 1, 2]) expect(Math.abs(raster.data[i * 4 + k]! - srgb(light(k).data[i]!))).toBeLessThanOrEqual(1);
      expect(raster.data[i * 4 + 3]).toBe(Math.round(65535 * alpha.data[i]!));
    }
    const map = await read(bytes, 'beauty.exr');
    expect([map.facts.channel, map.plane.data[5 * W + 20]]).toEqual(['Z', distances.data[5 * W + 20]]);
  });

  test('a TIFF of 8 or 16 bits keeps its values, one of floats is linear light', async () => {
    const data = Uint8Array.from({ length: W * H * 3 }, (_, i) => (i * 37) % 256);
    const picture = sharp(data, { raw: { width: W, height: H, channels: 3 } });
    const eight = await decodeStill(new Uint8Array(await picture.clone().tiff({ compression: 'lzw' }).toBuffer()), 'a.tif');
    expect(eight.raster.channels).toBe(3);
    for (let i = 0; i < data.length; i += 101) expect(eight.raster.data[i]).toBe(data[i]! * 257);
    await expect(decodeStill(encodeTiff(distances), 'depth.tif')).rejects.toThrow('read as a depth map only');
    const inks = await picture.clone().toColourspace('cmyk').tiff().toBuffer();
    await expect(decodeStill(new Uint8Array(inks), 'print.tif')).rejects.toThrow(/print\.tif.*RGB|neither greys nor RGB/);
  });
});
