import { convolve, type Maps, type Taps } from '../../kernels/convolveHost';
import type { Encoded } from '../network/unet';
import type { Box } from '../overlap';
import { addTo, doubled, sigmoid, weigh } from '../network/layers';

/** Layers that the finder has. */
export const FINDER_LAYERS = 28;

/** Somebody, or an animal, in shares of the picture, and how sure that is. */
export interface Found extends Box {
  /** 0..1 */
  readonly score: number;
  /** a person; otherwise an animal, or what is made like one */
  readonly person: boolean;
}

/** px of the picture that a cell of the finest layer stands for. */
const CELL = 4;
/** px of the picture that a step of what is told of a side stands for. */
const SIDE = 16;

/** Planes of a convolution plane by plane, then of all of them at each pixel. */
const apart = (maps: Maps, next: () => Taps): Maps => convolve(convolve(maps, next(), 'none'), next(), 'none');

/** A coarser layer seen narrowly and widely, at twice its size. */
const enlarged = (maps: Maps, next: () => Taps): Maps => doubled(addTo(apart(maps, next), apart(maps, next)), false);

/** What two layers of one size have, one after the other; below zero nothing is let through. */
function beside(a: Maps, b: Maps): Maps {
  const data = new Float32Array(a.data.length + b.data.length);
  data.set(a.data);
  data.set(b.data, a.data.length);
  for (let i = 0; i < data.length; i++) if (data[i]! < 0) data[i] = 0;
  return { ...a, channels: a.channels + b.channels, data };
}

/** A finer layer of the encoder, made ready to stand beside a coarser one. */
function madeReady(maps: Maps, next: () => Taps): Maps {
  const narrowed = convolve(maps, next(), 'rectify');
  return apart(narrowed, next);
}

/**
 * Persons and animals in what the encoder read: the head of the object detector that the encoder comes from, which tells for every place how surely the middle of
 * something is there, and how far its sides are (Zhou, Wang & Krähenbühl 2019). Those at least as sure as `least`, the surest first. Weights: see NOTICE.
 */
export function findAll({ found }: Encoded, layers: readonly Taps[], least: number): Found[] {
  let at = 0;
  const next = (): Taps => layers[at++]!;
  const [fine, middle, coarse, coarsest] = found as [Maps, Maps, Maps, Maps];
  let current = convolve(coarsest, next(), 'swish');
  for (const finer of [coarse, middle, fine]) {
    const large = enlarged(current, next);
    current = beside(madeReady(finer, next), large);
  }
  current = weigh(current, next(), next(), sigmoid);
  const kinds = apart(current, next);
  const sides = apart(current, next);
  return peaks(kinds, sides, least);
}

/** What is surest among its neighbours, of its own kind. */
function peaks(kinds: Maps, sides: Maps, least: number): Found[] {
  const { channels, width, height, data } = kinds;
  const n = width * height;
  const floor = Math.log(least / (1 - least));
  const out: Found[] = [];
  for (let c = 0; c < channels; c++)
    for (let i = 0; i < n; i++) {
      const v = data[c * n + i]!;
      if (v < floor) continue;
      const [x, y] = [i % width, Math.floor(i / width)];
      let highest = true;
      for (let b = Math.max(0, y - 1); b <= Math.min(height - 1, y + 1); b++)
        for (let a = Math.max(0, x - 1); a <= Math.min(width - 1, x + 1); a++) highest &&= data[c * n + b * width + a]! <= v;
      if (!highest) continue;
      const side = (k: number): number => (sides.data[k * n + i]! * SIDE) / CELL;
      out.push({
        left: (x - side(0)) / width,
        top: (y - side(1)) / height,
        right: (x + side(2)) / width,
        bottom: (y + side(3)) / height,
        score: sigmoid(v),
        person: c === 0,
      });
    }
  return out.sort((a, b) => b.score - a.score);
}
