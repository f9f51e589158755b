import { kernels } from '../kernels/loader';
import { workedRows } from '../kernels/workedRows';
import type { Picture } from '../picture';
import { enlarged, thinned, type DepthField } from './depthField';
import { shineOf } from './gloss';
import { irradianceAt } from './harmonics';
import type { Light, PointLight, Rgb, Surfaces } from './lights';
import { opennessOf } from './openness';
import { seesLamp, tented, thicknessOf, type Point } from './shadow';
import { normalsOf } from './normals';

/** What follows from the distances alone is kept by this, under a name. */
export type Keep = (name: string, make: () => Float32Array) => Float32Array;

/** Pixels by which the colour of the even light is told. */
const TINT_PIXELS = 100_000;
/** Sweeps for a light that has a size. */
const SOFT_POINTS = 6;

/** Mean colour of all that has a distance, as factors with a mean of 1. */
function tintOf({ data }: Picture, { inverse }: DepthField, balance: number): Rgb {
  const sum = [0, 0, 0];
  const step = Math.max(1, Math.floor(inverse.length / TINT_PIXELS));
  for (let i = 0; i < inverse.length; i += step)
    if (inverse[i]! > 0) for (let k = 0; k < 3; k++) sum[k]! += Math.min(1, Math.max(0, data[i * 4 + k]!));
  const mean = (sum[0]! + sum[1]! + sum[2]!) / 3;
  const of = (k: number): number => (mean > 0 ? (Math.max(1e-6, sum[k]!) / mean) ** balance : 1);
  return [of(0), of(1), of(2)];
}

/** Normals with their relief stretched or flattened. */
function inRelief(normals: Float32Array, relief: number): Float32Array {
  if (relief === 1) return normals;
  const out = new Float32Array(normals.length);
  for (let i = 0; i < normals.length; i += 3) {
    const [x, y, z] = [normals[i]! * relief, normals[i + 1]! * relief, normals[i + 2]!];
    const k = 1 / Math.max(1e-9, Math.hypot(x, y, z));
    out[i] = x * k;
    out[i + 1] = y * k;
    out[i + 2] = z * k;
  }
  return out;
}

/** What falls on each pixel from a light of intensity 1, diffuse: cosine over square, by who sees it. By a kernel. */
function fallsOf(field: DepthField, normals: Float32Array, light: PointLight, seen: Float32Array | null): Float32Array {
  const { width: w, height: h, focalPx: f, inverse } = field;
  const out = new Float32Array(w * h);
  const k = kernels();
  const bookmark = k.bookmark();
  const lamp = light.is === 'lamp';
  const plan = k.put(Float32Array.from([...(lamp ? light.place : light.direction), lamp ? 1 : 0, lamp ? light.size ** 2 : 0, f, w / 2]));
  const [distances, directions, sees, made] = [k.room(w), k.room(3 * (w + 4)), k.room(w), k.room(w)];
  const [d, n, s, row] = [k.floats(distances, w), k.floats(directions, 3 * w), k.floats(sees, w), k.floats(made, w)];
  for (let y = 0; y < h; y++) {
    const [from, to] = [y * w, (y + 1) * w];
    d.set(inverse.subarray(from, to));
    n.set(normals.subarray(3 * from, 3 * to));
    if (seen) s.set(seen.subarray(from, to));
    k.run.fallRow(distances, directions, seen ? sees : 0, w, plan, (y + 0.5 - h / 2) / f, made);
    out.set(row, from);
  }
  k.back(bookmark);
  return out;
}

/** From this longest side on, px, soft shadows are worked out at half the size. */
const HALVED_FROM = 1200;

/** Who sees a light, with the steps taken off its edges. */
function shadowOf(field: DepthField, lamp: Point, radius: number, points: number, remember: Keep, onProgress: () => void): Float32Array {
  const halved = points > 1 && Math.max(field.width, field.height) >= HALVED_FROM;
  const at = halved ? thinned(field, 2) : field;
  const thickness = remember(halved ? 'half thickness' : 'thickness', () => thicknessOf(at));
  const seen = seesLamp(at, thickness, lamp, { radius, points, onProgress: onProgress });
  return tented(field, halved ? enlarged(field, at, seen, 2) : seen, 'inside');
}

/** The sun as a lamp so far away that its rays are parallel. */
const FAR_AWAY = 1e5;

/** Places that a surround or a picture of surroundings lights: radiance that arrives, three numbers, for a normal. */
function arriving(light: Exclude<Light, PointLight>, nx: number, ny: number, nz: number, to: Float64Array): void {
  if (light.is === 'picture') irradianceAt(light.harmonics, nx, ny, nz, light.turn, to);
  for (let k = 0; k < 3; k++)
    to[k] = light.is === 'picture' ? to[k]! * light.gain[k]! : light.below[k]! + ((light.above[k]! - light.below[k]!) * (1 - ny)) / 2;
}

/** One light of a point as it falls into the picture, and as surfaces shine with it. */
interface Fall {
  readonly colour: Rgb;
  readonly falls: Float32Array;
  readonly shine: Float32Array | null;
}

/**
 * Light added to a picture: out = keep · picture + albedo/π · E · V for each light, with shine. `plate`: what surfaces are told from, linear light;
 * albedo = plate / (even · share), at most 0.95. `keep`: how much of the light that was there stays. `quick`: one sweep for each light.
 */
export function relit(
  picture: Picture,
  plate: Picture,
  field: DepthField,
  lights: readonly Light[],
  surfaces: Surfaces,
  keep: number,
  remember: Keep,
  {
    shared = false,
    quick = false,
    onProgress: look = () => undefined,
  }: { shared?: boolean; quick?: boolean; onProgress?: (share: number) => void } = {},
): Picture {
  const { width } = picture;
  const normals = inRelief(
    remember('normals', () => normalsOf(field, () => look(0.05))),
    surfaces.relief,
  );
  look(0.1);
  const hollow = surfaces.shading > 0 || lights.some((l) => l.is === 'surround' || l.is === 'picture');
  const open =
    hollow && surfaces.hollows > 0
      ? remember(`open ${surfaces.hollows} ${surfaces.relief}`, () => opennessOf(field, normals, surfaces.hollows, () => look(0.2)))
      : null;
  const tint = tintOf(plate, field, surfaces.balance);
  look(0.4);
  const points: Fall[] = [];
  const around: Exclude<Light, PointLight>[] = [];
  for (const [n, light] of lights.entries()) {
    look(0.4 + (0.4 * n) / lights.length);
    if (light.is !== 'lamp' && light.is !== 'sun') {
      around.push(light);
      continue;
    }
    const lamp: Point =
      light.is === 'lamp' ? light.place : [light.direction[0] * FAR_AWAY, light.direction[1] * FAR_AWAY, light.direction[2] * FAR_AWAY];
    const size = light.is === 'lamp' ? light.size : light.size * FAR_AWAY;
    const sweeps = quick || size <= 0 ? 1 : SOFT_POINTS;
    const seen = surfaces.shadows
      ? remember(`seen ${JSON.stringify([lamp, sweeps > 1 ? size : 0])}`, () => shadowOf(field, lamp, size, sweeps, remember, () => look(0.5)))
      : null;
    const falls = fallsOf(field, normals, light, seen);
    const shine = surfaces.gloss > 0 ? shineOf(field, normals, light, surfaces, falls) : null;
    points.push({ colour: light.is === 'lamp' ? light.intensity : light.irradiance, falls: tented(field, falls, 'edges'), shine });
  }
  return workedRows(picture, { shared, checkpoint: (share) => look(0.8 + 0.2 * share) }, (k, row) => {
    const scale = k.put(Float32Array.from([...tint.map((t) => 1 / (surfaces.even * t)), 0]));
    const [plateAt, lightAt, normalsAt, openAt, fallsAt] = [k.room(width * 4), k.room(width * 4), k.room(width * 3), k.room(width), k.room(width)];
    const [plates, light, directions] = [k.floats(plateAt, width * 4), k.floats(lightAt, width * 4), k.floats(normalsAt, width * 3)];
    const [opens, falls, pixels] = [k.floats(openAt, width), k.floats(fallsAt, width), k.floats(row, width * 4)];
    const found = new Float64Array(3);
    return (y) => {
      const [from, to] = [y * width, (y + 1) * width];
      plates.set(plate.data.subarray(from * 4, to * 4));
      directions.set(normals.subarray(from * 3, to * 3));
      if (open) opens.set(open.subarray(from, to));
      light.fill(0);
      for (const point of points) {
        falls.set(point.falls.subarray(from, to));
        const [r, g, b] = point.colour.map((v) => v / Math.PI) as [number, number, number];
        k.run.addFall(lightAt, fallsAt, width, r, g, b);
      }
      for (const one of around)
        for (let x = 0, i = from; x < width; x++, i++) {
          if (!(field.inverse[i]! > 0)) continue;
          arriving(one, normals[3 * i]!, normals[3 * i + 1]!, normals[3 * i + 2]!, found);
          for (let c = 0; c < 3; c++) light[x * 4 + c]! += found[c]! * (open ? open[i]! : 1);
        }
      k.run.relitRow(row, plateAt, lightAt, normalsAt, open ? openAt : 0, width, keep, surfaces.shading, scale);
      for (const { shine, colour } of points)
        if (shine)
          for (let x = 0; x < width; x++) for (let c = 0; c < 3; c++) pixels[x * 4 + c]! += colour[c]! * shine[from + x]! * pixels[x * 4 + 3]!;
    };
  });
}
