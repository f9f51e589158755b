import { expect, test } from '@jest/globals';
import { readFileSync } from 'node:fs';
import { newPicture } from '../../picture';
import { loadNetwork } from '../../../../headless/network';
import { answer, trainedNearness } from './network';

loadNetwork();
const VIEWS = [288 * 192, 192 * 128].map((area) => ({ area, mirrored: true }));

/** Written by training/export.py: a picture, and what the network answered there. */
interface Case {
  readonly width: number;
  readonly height: number;
  readonly rgb: readonly number[];
  readonly answer: readonly number[];
}

test('the network answers as it did where it was trained', () => {
  const trained = JSON.parse(readFileSync(new URL('case.json', import.meta.url), 'utf8')) as Case;
  const n = trained.width * trained.height;
  const data = new Float32Array(3 * n);
  for (let i = 0; i < n; i++) for (let k = 0; k < 3; k++) data[k * n + i] = trained.rgb[i * 3 + k]! / 255;
  const out = answer({ channels: 3, width: trained.width, height: trained.height, data });
  expect([out.width, out.height]).toEqual([trained.width / 2, trained.height / 2]);
  let worst = 0;
  trained.answer.forEach((v, i) => (worst = Math.max(worst, Math.abs(v - out.data[i]!))));
  expect(worst).toBeLessThan(1e-3);
});

test('a mirrored picture gets the mirrored answer, and any size is taken', () => {
  for (const [w, h] of [
    [576, 384],
    [90, 200],
    [33, 35],
  ] as const) {
    const picture = newPicture(w, h);
    const mirror = newPicture(w, h);
    for (let i = 0; i < w * h; i++) {
      const x = i % w;
      const light = [(0.2 + (0.5 * x) / w) * (i / (w * h)), 0.3, 0.5 * (x > w / 2 ? 1 : 0), 1];
      picture.data.set(light, i * 4);
      mirror.data.set(light, (i - x + w - 1 - x) * 4);
    }
    const a = trainedNearness(picture, VIEWS)!;
    const b = trainedNearness(mirror, VIEWS)!;
    let apart = 0;
    let [least, most] = [Infinity, -Infinity];
    for (let i = 0; i < a.data.length; i++) {
      const x = i % a.width;
      apart = Math.max(apart, Math.abs(a.data[i]! - b.data[i - x + a.width - 1 - x]!));
      least = Math.min(least, a.data[i]!);
      most = Math.max(most, a.data[i]!);
    }
    // reduced by whole steps, a picture and its mirror image agree pixel by pixel
    if (w === 576) expect(apart).toBeLessThan(1e-3);
    expect(least).toBeGreaterThanOrEqual(0);
    expect(most).toBeLessThanOrEqual(1);
  }
});
