import { expect, test } from '@jest/globals';
import { layPlate } from '../camera/behind';
import { newPicture, newPlane } from '../picture';
import { fourPictures } from './fourPictures';

test('front and behind lie above, how near each is below them', () => {
  const [w, h] = [48, 32];
  const picture = newPicture(w, h);
  const distance = newPlane(w, h);
  for (let i = 0; i < w * h; i++) {
    const box = i % w >= 16 && i % w < 32 && i >= w * 10 && i < w * 22;
    distance.data[i] = box ? 2 : 10;
    picture.data.set(box ? [1, 0, 0, 1] : [0, 0, 1, 1], i * 4);
  }
  const plate = layPlate(picture, distance, { gain: 20, pad: 4, border: 'mirrored', hidden: true });
  const four = fourPictures(plate, 0.1, 0.5);
  expect(four).toHaveLength(w * h * 16);
  const at = (x: number, y: number): number[] => [...four.subarray((y * 2 * w + x) * 4, (y * 2 * w + x) * 4 + 4)];
  // in the box: red in front and near, blue behind its rim and far
  expect(at(24, 16)).toEqual([255, 0, 0, 255]);
  expect(at(24, 16 + h)).toEqual([255, 255, 255, 255]);
  expect(at(w + 18, 16)[2]).toBeGreaterThan(200);
  expect(at(w + 18, 16 + h)[0]).toBeLessThan(8);
  // beside it both are the wall
  expect(at(4, 16)).toEqual([0, 0, 255, 255]);
  expect(at(w + 4, 16)).toEqual([0, 0, 255, 255]);
  expect(at(4, 16 + h)[0]).toBeLessThan(2);
});
