import './kernels';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import * as runtime from 'onnxruntime-web';
import sharp from 'sharp';
import { foundUse, guessedDepth } from '../src/core/estimate/own/guess';
import { answerTo, endsOfMetres, ownNearness } from '../src/core/estimate/own/own';
import { answer, provideNetwork } from '../src/core/estimate/network/network';
import { orderScore } from '../src/core/estimate/score';
import type { NetworkUse } from '../src/core/need/networkUse';
import type { Plane, Raster } from '../src/core/picture';
import { seededRandom } from '../src/core/random';
import { MOST_BYTES, checkNetworkSize, networkFacts } from '../src/formats/onnx/facts';
import { openNetwork } from '../src/formats/onnx/session';
import { decodePfm } from '../src/formats/pfm/pfm';
import { ourNetworkAsOnnx } from '../training/onnx';
import { GrowingGraph } from '../training/graph';
import { brightness, graphOf, transformer } from './fixtures/networks';
import { estimate } from './verbs';

const folder = mkdtempSync(join(tmpdir(), 'ombrage-network-'));
const at = (name: string): string => join(folder, name);
afterAll(() => rmSync(folder, { recursive: true }));

const sha256 = 'a'.repeat(64);
const found = (bytes: Uint8Array) => foundUse(networkFacts(bytes, 'n.onnx'), { sha256, name: 'n.onnx' });
const open = (bytes: Uint8Array) => openNetwork(runtime, bytes, 'n.onnx', ['wasm']);

/** A grey ramp from black on the left to white on the right, sRGB. */
const ramp = (width: number, height: number): Raster => ({
  width,
  height,
  channels: 3,
  data: Uint8Array.from({ length: width * height * 3 }, (_, i) => Math.round((255 * ((Math.floor(i / 3) % width) + 0.5)) / width)),
});

const own = readFileSync(new URL('../training/network.bin', import.meta.url));

test('our network, written as ONNX, answers as it does on our kernels', async () => {
  const bytes = ourNetworkAsOnnx(new Uint8Array(own));
  const { use, told } = found(bytes);
  expect(use).toMatchObject({ layout: 'planes', leading: 1, size: { multiple: 32 }, values: 'unit', gives: 'nearness' });
  expect(told).toEqual({ values: true, gives: true });
  provideNetwork(new Uint8Array(own));
  const random = seededRandom(3);
  const [width, height] = [160, 96];
  const data = Float32Array.from({ length: 3 * width * height }, (_, i) => 0.5 + 0.3 * Math.sin((i % width) / 9) + 0.2 * random());
  const network = await open(bytes);
  const theirs = await network.run({ input: use.input, output: use.output, type: 'float32', data: data.slice(), dims: [1, 3, height, width] });
  await network.close();
  const ours = answer({ channels: 3, width, height, data });
  expect(theirs.dims).toEqual([1, 1, ours.height, ours.width]);
  const apart = ours.data.reduce((most, v, i) => Math.max(most, Math.abs(v - theirs.data[i]!)), 0);
  expect(apart).toBeLessThan(1e-3);
  const map: Plane = { ...ours, data: theirs.data };
  expect(orderScore(map, { ...ours, data: ours.data.map((v) => 1 / (1e-3 + v)) })).toBeGreaterThan(0.999);
});

test('a network in the shape of today’s runs at its own size, and its answer is brought to the picture', async () => {
  const bytes = transformer(518);
  const { use, told } = found(bytes);
  expect(use).toMatchObject({ size: { width: 518, height: 518 }, gives: 'nearness' });
  expect(told.values).toBe(false);
  const network = await open(bytes);
  const before = process.memoryUsage().rss;
  const map = (await ownNearness(ramp(640, 360), use, network))!;
  await network.close();
  expect([map.width, map.height]).toEqual([576, 324]);
  expect(process.memoryUsage().rss - before).toBeLessThan(800e6);
  expect(map.data.every((v) => v >= 0 && v <= 1)).toBe(true);
}, 60_000);

describe('how a network is asked', () => {
  test.each(['planes', 'pixels'] as const)('is read from its sides: %s', async (layout) => {
    const bytes = brightness({ layout, sides: [96, 160] });
    const { use } = found(bytes);
    expect(use).toMatchObject({ layout, leading: 1, size: { width: 160, height: 96 } });
    const network = await open(bytes);
    const map = await answerTo(ramp(320, 200), { ...use, values: 'unit' }, network);
    expect([map.width, map.height]).toEqual([160, 96]);
    for (const x of [10, 80, 150]) expect(map.data[40 * 160 + x]).toBeCloseTo((x + 0.5) / 160, 1);
    await network.close();
  });

  test('is told by constants that a picture meets first, by the step of the first convolution, and by notes', () => {
    expect(found(brightness({ normalises: true }))).toMatchObject({ use: { values: 'unit' }, told: { values: true } });
    expect(found(brightness({ notes: { values: 'signed', gives: 'metres' } }))).toMatchObject({
      use: { values: 'signed', gives: 'metres' },
      told: { values: true, gives: true },
    });
    expect(found(brightness({ output: 'metric_depth' })).use.gives).toBe('metres');
    const g = new GrowingGraph();
    const conv = g.step('Conv', ['image', g.constant(new Float32Array(3 * 16 * 16), [1, 3, 16, 16])], { strides: [16, 16] });
    g.out(conv, 'depth');
    const patches = graphOf(g, { inputs: [{ name: 'image', dims: ['batch', 3, 'h', 'w'] }], outputs: [{ name: 'depth', dims: [1, 1, 'h', 'w'] }] });
    expect(found(patches).use.size).toEqual({ multiple: 16, side: 512 });
  });

  test('each scale of values reaches the network as it is called', async () => {
    const bytes = brightness({ sides: [32, 64] });
    const { use } = found(bytes);
    const network = await open(bytes);
    const white: Raster = { width: 64, height: 32, channels: 3, data: new Uint8Array(64 * 32 * 3).fill(255) };
    white.data.fill(0, 0, 3 * 64 * 16);
    const ends = async (values: NetworkUse['values']): Promise<readonly number[]> => {
      const { data } = await answerTo(white, { ...use, values }, network);
      return [data[0]!, data.at(-1)!].map((v) => Number(v.toFixed(3)));
    };
    expect(await ends('unit')).toEqual([0, 1]);
    expect(await ends('signed')).toEqual([-1, 1]);
    expect(await ends('bytes')).toEqual([0, 255]);
    // Deng et al. 2009, the mean of the three colours
    const [mean, spread] = [
      [0.485, 0.456, 0.406],
      [0.229, 0.224, 0.225],
    ];
    const imagenet = (v: number): number => mean.reduce((sum, m, c) => sum + (v - m) / spread[c]! / 3, 0);
    expect(await ends('imagenet')).toEqual([0, 1].map((v) => Number(imagenet(v).toFixed(3))));
    await network.close();
  });

  test('what it gives is told by another estimate of the picture', () => {
    const near: Plane = { width: 40, height: 20, data: Float32Array.from({ length: 800 }, (_, i) => (i % 40) / 40) };
    const far: Plane = { ...near, data: near.data.map((v) => 3 + 1 / (0.1 + v)) };
    expect(guessedDepth(near, near, 'nearness', false)).toEqual({ gives: 'nearness', fromZero: false, agreement: 1 });
    expect(guessedDepth(far, near, 'nearness', false)).toEqual({ gives: 'distance', fromZero: true, agreement: 1 });
    // distances that begin at nothing have no zero that is the camera's
    const shifted: Plane = { ...near, data: near.data.map((v) => 1 - v) };
    shifted.data[0] = 0;
    expect(guessedDepth(shifted, near, 'nearness', false)).toMatchObject({ gives: 'distance', fromZero: false });
    // what is known stays
    expect(guessedDepth(far, near, 'nearness', true)).toEqual({ gives: 'nearness', fromZero: false, agreement: -1 });
  });
});

test('metres become nearness between the ends that the picture calls for, linear in inverse distance', async () => {
  const metres = (g: GrowingGraph, bright: string): string => g.step('Add', [g.step('Mul', [bright, g.floats(8)]), g.floats(2)]);
  const bytes = brightness({ sides: [128, 256], answer: metres, notes: { values: 'unit', gives: 'metres' } });
  const network = await open(bytes);
  const { use } = found(bytes);
  const ends = endsOfMetres(await answerTo(ramp(512, 256), use, network));
  expect(ends.near).toBeCloseTo(2.04, 1);
  expect(ends.far).toBeCloseTo(9.96, 1);
  const map = (await ownNearness(ramp(512, 256), { ...use, ends }, network))!;
  for (const x of [0.2, 0.5, 0.8]) {
    const raw = map.data[Math.floor(map.height / 2) * map.width + Math.floor(x * map.width)]!;
    const inverse = raw * (1 / ends.near - 1 / ends.far) + 1 / ends.far;
    expect(Math.abs(1 / inverse / (2 + 8 * x) - 1)).toBeLessThan(0.03);
  }
  await network.close();
});

test('what distances become is told once, not by each picture: brightness 0 somewhere or nowhere, the rest is the same', async () => {
  const bytes = brightness({ sides: [32, 64], notes: { values: 'unit', gives: 'distance' } });
  const network = await open(bytes);
  const { use } = found(bytes);
  // two pictures that differ in one black column alone
  const [plain, holed] = [ramp(256, 128), ramp(256, 128)];
  for (const raster of [plain, holed]) for (let i = 0; i < raster.data.length; i++) raster.data[i] = 64 + raster.data[i]! / 2;
  for (let y = 0; y < 128; y++) holed.data.fill(0, y * 768, y * 768 + 12);
  for (const fromZero of [false, true]) {
    const [a, b] = [(await ownNearness(plain, { ...use, fromZero }, network))!, (await ownNearness(holed, { ...use, fromZero }, network))!];
    const middle = (map: Plane): number[] => [100, 150, 200].map((x) => map.data[64 * map.width + x]!);
    const ratio = ([p, q, r]: number[]): number => (p! - q!) / (q! - r!);
    // steps between the same places: even where less far is nearer, steeper near by where it is the inverse
    expect(Math.abs(ratio(middle(a)) / ratio(middle(b)) - 1)).toBeLessThan(0.05);
    expect(ratio(middle(a)) > 1.2).toBe(fromZero);
  }
  await network.close();
});

test('asked in parts at twice the size it tells what is too fine for its own', async () => {
  const bytes = brightness({ sides: [48, 64], notes: { values: 'unit', gives: 'nearness' } });
  const { use } = found(bytes);
  const [width, height] = [256, 192];
  // stripes of three px on a ramp: finer than a px of the network, coarser than one of a part
  const bright = (x: number): number => 0.25 + 0.5 * (x / width) + (Math.floor(x / 3) % 2 ? 0.12 : -0.12);
  const raster: Raster = {
    width,
    height,
    channels: 3,
    data: Uint8Array.from({ length: width * height * 3 }, (_, i) => 255 * bright(Math.floor(i / 3) % width)),
  };
  const detail = async (sharper: boolean): Promise<{ fine: number; runs: number; whole: number }> => {
    let runs = 0;
    const network = await open(bytes);
    const map = (await ownNearness(raster, { ...use, sharper }, { run: (asked) => (runs++, network.run(asked)) }))!;
    await network.close();
    const row = Math.floor(map.height / 2) * map.width;
    let fine = 0;
    for (let x = 20; x < map.width - 20; x++) fine += Math.abs(map.data[row + x]! - map.data[row + x - 1]!);
    return { fine, runs, whole: map.data[row + map.width - 20]! - map.data[row + 20]! };
  };
  const [plain, sharp] = [await detail(false), await detail(true)];
  expect([plain.runs, sharp.runs]).toEqual([1, 10]);
  expect(sharp.fine).toBeGreaterThan(1.5 * plain.fine);
  // the whole stays as it was
  expect(Math.abs(sharp.whole - plain.whole)).toBeLessThan(0.15);
});

test('it stops between parts', async () => {
  const bytes = brightness({ sides: [48, 64], notes: { values: 'unit', gives: 'nearness' } });
  const network = await open(bytes);
  let runs = 0;
  const map = await ownNearness(
    ramp(256, 192),
    { ...found(bytes).use, sharper: true },
    { run: (asked) => (runs++, network.run(asked)) },
    () => runs < 4,
  );
  expect(map).toBeNull();
  expect(runs).toBe(4);
  await network.close();
});

describe('a file that is no such network is refused by name', () => {
  const code = (bytes: Uint8Array): string => {
    try {
      found(bytes);
    } catch (error) {
      expect((error as Error).message).toMatch(/n\.onnx/);
      return (error as { code: string }).code;
    }
    return 'taken';
  };
  const plane = { name: 'depth', dims: [1, 1, 'h', 'w'] };
  const image = { name: 'image', dims: [1, 3, 'h', 'w'] };
  const adding = (inputs: Parameters<typeof graphOf>[1]['inputs'], outputs: Parameters<typeof graphOf>[1]['outputs']): Uint8Array => {
    const g = new GrowingGraph();
    g.out(inputs[0]!.name, outputs[0]!.name);
    return graphOf(g, { inputs, outputs });
  };

  test('none at all, empty, cut anywhere, and by chance', () => {
    expect(code(new Uint8Array(0))).toBe('not-a-network');
    expect(code(new TextEncoder().encode('this is a text and no network'.repeat(20)))).toBe('not-a-network');
    const whole = brightness();
    for (let k = 1; k < 20; k++) expect(code(whole.subarray(0, Math.floor((whole.length * k) / 20)))).toBe('not-a-network');
    const random = seededRandom(5);
    for (let k = 0; k < 500; k++) {
      const bytes = k % 2 ? whole.slice() : Uint8Array.from({ length: 200 }, () => 256 * random());
      for (let n = 0; n < 8; n++) bytes[Math.floor(random() * bytes.length)] = 256 * random();
      // whatever it says, it says it as we do
      try {
        found(bytes);
      } catch (error) {
        expect(error).toHaveProperty('code');
      }
    }
  });

  test('two inputs, a wrong rank, no colour picture, several at once, numbers of another type, no plane', () => {
    expect(code(adding([image, { name: 'mask', dims: [1, 1, 'h', 'w'] }], [plane]))).toBe('wrong-network');
    expect(code(adding([{ name: 'image', dims: [3, 'h'] }], [plane]))).toBe('wrong-network');
    expect(code(adding([{ name: 'image', dims: [1, 4, 64, 64] }], [plane]))).toBe('wrong-network');
    expect(code(adding([{ name: 'image', dims: [2, 3, 64, 64] }], [plane]))).toBe('wrong-network');
    expect(code(adding([{ name: 'image', type: 'int64', dims: [1, 3, 64, 64] }], [plane]))).toBe('wrong-network');
    expect(code(adding([image], [{ name: 'class', dims: [1, 1000] }]))).toBe('wrong-network');
    expect(code(adding([image], [plane]))).toBe('taken');
  });

  test('one that is too large, before it is read', () => {
    expect(() => checkNetworkSize('n.onnx', 4e9)).toThrow('n.onnx fills 4.0 GB');
    expect(() => checkNetworkSize('n.onnx', MOST_BYTES)).not.toThrow();
  });

  test('one with an operator that nobody knows', async () => {
    const g = new GrowingGraph();
    g.out(g.step('Guesswork', ['image']), 'depth');
    const refused = open(graphOf(g, { inputs: [image], outputs: [plane] }));
    await expect(refused).rejects.toMatchObject({ code: 'unknown-operator', message: expect.stringContaining('n.onnx uses Guesswork') });
  });

  test('and an answer that is no depth: not a number, the same everywhere, three planes', async () => {
    const answers = async (answer: NonNullable<Parameters<typeof brightness>[0]>['answer']): Promise<unknown> => {
      const bytes = brightness({ sides: [32, 48], answer: answer! });
      const network = await open(bytes);
      return answerTo(ramp(96, 64), found(bytes).use, network).finally(() => network.close());
    };
    const wrong = (what: string) => ({ code: 'wrong-answer', message: expect.stringContaining(what) });
    await expect(answers((g, b) => g.step('Log', [g.step('Sub', [g.step('Mul', [b, g.floats(0)]), g.floats(1)])]))).rejects.toMatchObject(
      wrong('no number'),
    );
    await expect(answers((g, b) => g.step('Mul', [b, g.floats(0)]))).rejects.toMatchObject(wrong('everywhere'));
    await expect(answers((g, b) => g.step('Concat', [b, b, b], { axis: 1 }))).rejects.toMatchObject(wrong('3 planes'));
  });
});

test('the command line asks a network, says how, and refuses what is none by name', async () => {
  const picture = ramp(320, 200);
  await sharp(picture.data, { raw: { width: 320, height: 200, channels: 3 } })
    .png()
    .toFile(at('p.png'));
  writeFileSync(at('bright.onnx'), brightness({ notes: { values: 'unit', gives: 'nearness' } }));
  const said = await estimate(at('p.png'), { quality: 'fine', network: at('bright.onnx'), out: at('o.pfm') });
  expect(said).toContain('bright.onnx: values unit (as its file says); gives nearness (as its file says)');
  const map = decodePfm(new Uint8Array(readFileSync(at('o.pfm'))));
  if (map.kind !== 'plane') throw new Error('no plane');
  const row = map.plane.data.subarray(100 * 320, 101 * 320);
  for (const x of [40, 160, 280]) expect(Math.abs(row[x]! - (x + 0.5) / 320)).toBeLessThan(0.05);
  writeFileSync(at('no.onnx'), 'nothing');
  await expect(estimate(at('p.png'), { quality: 'fine', network: at('no.onnx'), out: at('o.pfm') })).rejects.toMatchObject({ code: 'not-a-network' });
  await expect(estimate(at('p.png'), { quality: 'fine', network: at('bright.onnx'), gives: 'taste', out: at('o.pfm') })).rejects.toMatchObject({
    code: 'bad-setting',
  });
});
