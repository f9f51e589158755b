import { expect, test } from '@jest/globals';
import { readFileSync } from 'node:fs';
import { decodePng } from '../src/formats/png/png';
import { estimateDepth } from '../src/core/estimate/estimate';
import { faceIn, maskOf } from '../src/core/estimate/people/people';
import type { Person } from '../src/core/estimate/people/person';
import { believedIn } from '../src/core/estimate/people/whole';
import type { Raster } from '../src/core/picture';
import { sampleRaster, stretch } from '../src/core/raster/resample';
import { demoShot } from '../bench/truth';
import { loadNetwork } from './network';
import { personsIn } from '../src/core/estimate/people/chosen';

loadNetwork();

const stored = (name: string): Raster => decodePng(new Uint8Array(readFileSync(new URL(`../training/people/${name}.png`, import.meta.url))));

/** Every fourth pixel of what the networks' own runtime answered, in 255 steps (training/people/own.html). */
const answers = JSON.parse(readFileSync(new URL('../training/people/answers.json', import.meta.url), 'utf8')) as Record<'square' | 'wide', string>;

test.each(['square', 'wide'] as const)('the %s mask is what the network’s own runtime says, to a hundredth', (name) => {
  const raster = stored(name);
  const { width, height } = raster;
  const mask = maskOf(sampleRaster(raster, stretch(raster, width, height), width, height));
  const theirs = Buffer.from(answers[name], 'base64');
  const apart = Array.from(theirs, (v, k) => Math.abs(v / 255 - mask.data[4 * (k % (width / 4)) + 4 * Math.floor(k / (width / 4)) * width]!));
  expect(apart).toHaveLength((width * height) / 16);
  // it reckons with halved floats, which shows where an outline is steepest
  expect(apart.filter((d) => d > 0.01).length).toBeLessThanOrEqual(2);
  expect(Math.max(...apart)).toBeLessThan(0.03);
  // and there is somebody to be seen: about so much of either picture
  expect(apart.length).toBeGreaterThan(0);
  const share = mask.data.filter((v) => v > 0.5).length / mask.data.length;
  expect(share).toBeGreaterThan(0.1);
  expect(share).toBeLessThan(0.6);
});

test('where nobody is, nobody is found', async () => {
  for (const name of ['chartTable', 'quayLamp', 'dunes']) expect([name, personsIn((await demoShot(name)).raster)!.length]).toEqual([name, 0]);
});

test('the figurehead is found, whole and nothing else; its outline lies within two pixels of 640', async () => {
  const { raster, distance } = await demoShot('figurehead');
  const people = personsIn(raster)!;
  expect(people).toHaveLength(1);
  const [{ mask }] = believedIn(estimateDepth(raster, 'fine')!, people) as [Person];
  const { width, height } = mask;
  const near = (x: number, y: number): boolean => {
    const [u, v] = [Math.floor(((x + 0.5) / width) * distance.width), Math.floor(((y + 0.5) / height) * distance.height)];
    return x > 0.15 * width && x < 0.51 * width && y > 0.16 * height && distance.data[v * distance.width + u]! < 2.6;
  };
  let [both, either] = [0, 0];
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const [said, is] = [mask.data[y * width + x]! > 0.5, near(x, y)];
      if (said && is) both++;
      if (said || is) either++;
    }
  expect(both / either).toBeGreaterThan(0.85);
  // the left side of the head, against a dark wall: where the mask passes a half
  const middle = Math.round(0.3 * height);
  const first = (inside: (x: number) => boolean): number => Array.from({ length: width }, (_, x) => x).find(inside)!;
  const [told, truth] = [first((x) => mask.data[middle * width + x]! > 0.5), first((x) => near(x, middle))];
  expect(Math.abs(told - truth) * (640 / width)).toBeLessThanOrEqual(2);
});

test('of pairs with one end on the figure, more than 99 in a hundred are in order', async () => {
  const { raster, distance } = await demoShot('figurehead');
  const { width, height, data } = distance;
  for (const quality of ['fine', 'draft'] as const) {
    const map = estimateDepth(raster, quality)!;
    const at = (i: number): number =>
      map.data[Math.floor((Math.floor(i / width) / height) * map.height) * map.width + Math.floor(((i % width) / width) * map.width)]!;
    const figure: number[] = [];
    const rest: number[] = [];
    for (let y = 0; y < height; y += 6)
      for (let x = 0; x < width; x += 6) {
        const i = y * width + x;
        const on = x > 0.15 * width && x < 0.51 * width && y > 0.16 * height && data[i]! < 2.6;
        if (on) figure.push(i);
        else if (data[i]! > 2.8) rest.push(i);
      }
    let right = 0;
    let all = 0;
    for (const [k, i] of figure.entries())
      for (let j = k % 31; j < rest.length; j += 31) {
        all++;
        if (at(i) > at(rest[j]!)) right++;
      }
    expect([quality, right / all > 0.99]).toEqual([quality, true]);
  }
});

test('the figurehead’s face has a surface: its nose lies before its eyes and these before its ears', async () => {
  const { raster } = await demoShot('figurehead');
  const people = personsIn(raster)!;
  const [person] = believedIn(estimateDepth(raster, 'fine')!, people) as [Person];
  const { x, y, depth } = faceIn(raster, person)!;
  // tip of the nose, outer corner of an eye, before an ear, by their numbers in the mesh
  const [nose, eye, ear] = [1, 33, 127];
  expect(depth[nose]).toBeLessThan(depth[eye]!);
  expect(depth[eye]).toBeLessThan(depth[ear]!);
  // it looks to the right, and its nose is where it is seen in the picture
  expect(Math.abs(x[nose]! / person.mask.width - 0.412)).toBeLessThan(0.02);
  expect(Math.abs(y[nose]! / person.mask.height - 0.418)).toBeLessThan(0.03);
});
