import { expect, test } from '@jest/globals';
import { seededRandom } from '../../core/random';
import { predict, restore, packPlane, unpackPlane } from './packedPlane';

test('greys come back from what is foretold of them, whatever they are', () => {
  const random = seededRandom(4);
  for (const width of [1, 7, 64]) {
    const grey = Uint16Array.from({ length: width * 9 }, () => Math.floor(65536 * random()));
    expect(restore(predict(grey, width), width)).toEqual(grey);
  }
});

test('a plane is packed to 4096 levels between its ends; what is unknown stays unknown', async () => {
  const [width, height] = [90, 60];
  const data = Float32Array.from({ length: width * height }, (_, i) => -0.3 + 1.7 * Math.sin(i / 900) ** 2);
  data[100] = NaN;
  const packed = await packPlane({ width, height, data });
  // smooth as it is, it takes a small part of its room
  expect(packed.bytes.length).toBeLessThan(data.byteLength / 6);
  const back = await unpackPlane(packed);
  expect([back.width, back.height]).toEqual([width, height]);
  const step = (packed.high - packed.low) / 4095;
  for (const i of [0, 1, 777, 5399]) expect(Math.abs(back.data[i]! - data[i]!)).toBeLessThanOrEqual(0.51 * step);
  expect(back.data[100]).toBeNaN();
  const flat = await unpackPlane(await packPlane({ width: 2, height: 1, data: Float32Array.of(0.25, 0.25) }));
  expect([...flat.data]).toEqual([0.25, 0.25]);
});
