import { parseHex, srgbToLinear } from '../../../raster/colour';
import { constantPlane, newPicture, newPlane, type Picture, type Raster } from '../../../picture';
import { stillNeed } from '../../../need/need';
import { sampleRaster, type Affine } from '../../../raster/resample';
import { percent } from '../../../values/params';
import { calibrateMap, nearnessAtDistance, rawOf } from '../../calibrate';
import { defineLayer, type LayerInput } from '../../definition';
import { contactLight, type Standing } from './contact';
import { flatsSchema, type Flat, type FlatsContent } from './content';

/** Part of a flat that counts as there for depth: a depth between two things is the depth of neither. */
const SOLID = 0.5;

/** From output pixels to the pixels of a flat's picture. */
function outputToFlat(flat: Flat, size: { width: number; height: number }, f: Affine, plate: { width: number; height: number }): Affine {
  const height = flat.height * plate.height;
  const width = height * flat.aspect;
  const left = flat.x * plate.width - width / 2;
  const top = flat.y * plate.height - height;
  const kx = size.width / width;
  const ky = size.height / height;
  return { a: f.a * kx, b: f.b * kx, c: (f.c - left) * kx, d: f.d * ky, e: f.e * ky, f: (f.f - top) * ky };
}

const card = (colour: string): Raster => {
  const [r, g, b] = parseHex(colour).map((v) => Math.round(255 * v)) as [number, number, number];
  return { width: 1, height: 1, channels: 4, data: Uint8Array.from([r, g, b, 255]) };
};

type Input = LayerInput<unknown, FlatsContent>;

/** One flat in the output: linear light, premultiplied; outside it is transparent. */
function flatPicture(flat: Flat, input: Input): Picture | null {
  const raster = flat.media ? input.rasterOf(flat.media) : card(flat.colour);
  if (!raster) return null;
  const { width, height } = input;
  return input.remember(['flat', flat.media?.sha256 ?? flat.colour, flat.x, flat.y, flat.height, flat.aspect], () => {
    const map = outputToFlat(flat, raster, input.framing, input.plateSize);
    if (flat.media) return sampleRaster(raster, map, width, height);
    // the one pixel of a card is not stretched: its edges are exact
    const out = newPicture(width, height);
    const linear = parseHex(flat.colour).map(srgbToLinear) as [number, number, number];
    const step = Math.hypot(map.a, map.d);
    const stepY = Math.hypot(map.b, map.e);
    for (let v = 0; v < height; v++)
      for (let u = 0; u < width; u++) {
        const x = map.a * (u + 0.5) + map.b * (v + 0.5) + map.c;
        const y = map.d * (u + 0.5) + map.e * (v + 0.5) + map.f;
        const a = edge(x, step) * edge(y, stepY);
        if (a === 0) continue;
        const o = (v * width + u) * 4;
        for (let k = 0; k < 3; k++) out.data[o + k] = linear[k as 0] * a;
        out.data[o + 3] = a;
      }
    return out;
  });
}

/** Share of a pixel `step` wide around t that lies within 0..1. */
const edge = (t: number, step: number): number => Math.min(1, Math.max(0, (Math.min(1, t + step / 2) - Math.max(0, t - step / 2)) / step));

/** A flat as something that keeps light from what is close to it. */
const standingOf = (flat: Flat, { width, height, data }: Picture, { framing, plateSize }: Input): Standing => ({
  cover: { width, height, data: Float32Array.from({ length: width * height }, (_, i) => data[i * 4 + 3]!) },
  distance: flat.distance,
  height: (flat.height * plateSize.height) / Math.hypot(framing.b, framing.e),
});

const farthestFirst = (content: FlatsContent): Flat[] => content.flats.filter((f) => f.visible).sort((a, b) => b.distance - a.distance);

/** Pictures, words and plain cards standing upright at typed distances, as in a theatre. */
export const flatsLayer = defineLayer({
  kind: 'flats',
  blend: 'nearer',
  label: 'Flats',
  help: 'Pictures, words and cards standing at distances',
  limits: true,
  keys: () => true,
  params: {
    contact: percent({
      label: 'Contact shadow',
      min: 0,
      max: 100,
      default: 0,
      help: 'How dark it is where a flat stands close to what lies behind it',
    }),
  },
  // those that are there keep their look
  startOn: () => ({ contact: 40 }),
  content: flatsSchema,
  readsCalibration: true,
  needs: ({ content }) => content.flats.flatMap((f) => (f.media ? [stillNeed(f.media)] : [])),
  summary: (_, { flats }: FlatsContent) => (flats.length === 1 ? '1 flat' : `${flats.length} flats`),
  build(input) {
    const { width, height, calibration } = input;
    const nearness = newPlane(width, height);
    const coverage = newPlane(width, height);
    for (const flat of farthestFirst(input.content)) {
      const picture = flatPicture(flat, input);
      if (!picture) continue;
      const n = rawOf(nearnessAtDistance(flat.distance, calibration), calibration);
      for (let i = 0; i < nearness.data.length; i++)
        if (picture.data[i * 4 + 3]! >= SOLID) {
          nearness.data[i] = n;
          coverage.data[i] = 1;
        } else if (picture.data[i * 4 + 3]! > 0 && coverage.data[i] === 0) nearness.data[i] = n; // a soft border is hidden with its flat
    }
    return { nearness, coverage };
  },
  shade(input) {
    const { width, height, calibration, below, params } = input;
    if (params.contact === 0) return null;
    const light = constantPlane(width, height, 1);
    const distance = calibrateMap(below, calibration);
    for (const flat of farthestFirst(input.content)) {
      const picture = flatPicture(flat, input);
      if (!picture) continue;
      const left = contactLight(standingOf(flat, picture, input), distance, width, params.contact / 100);
      for (let i = 0; i < left.length; i++) light.data[i]! *= left[i]!;
    }
    return light;
  },
  paint(input) {
    const { width, height, params } = input;
    const out = newPicture(width, height);
    const distance = constantPlane(width, height, Infinity);
    for (const flat of farthestFirst(input.content)) {
      const picture = flatPicture(flat, input);
      if (!picture) continue;
      if (params.contact > 0) {
        // on the flats that stand behind it
        const left = contactLight(standingOf(flat, picture, input), distance, width, params.contact / 100);
        for (let i = 0; i < left.length; i++) {
          for (let k = 0; k < 3; k++) out.data[i * 4 + k]! *= left[i]!;
          if (picture.data[i * 4 + 3]! >= SOLID) distance.data[i] = flat.distance;
        }
      }
      for (let o = 0; o < out.data.length; o += 4) {
        const rest = 1 - picture.data[o + 3]!;
        if (rest === 1) continue;
        for (let k = 0; k < 4; k++) out.data[o + k] = picture.data[o + k]! + out.data[o + k]! * rest;
      }
    }
    return out;
  },
});
