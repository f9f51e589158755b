import { newPicture, type Picture } from '../raster/picture';
import { enlarged, thinned, type DepthField } from './depthField';
import { irradianceAt, type Harmonics } from './harmonics';
import { opennessOf } from './openness';
import { seesLamp, tented, thicknessOf, type Point } from './shadow';
import { normalsOf } from './normals';

type Rgb = readonly [number, number, number];

/** A light that is added. Metres: x right, y down, z forward. Light is in the plate's own units: 1 is white. */
export type Light =
  | {
      readonly is: 'lamp';
      readonly place: Point;
      /** radiant intensity: irradiance at 1 m */ readonly intensity: Rgb;
      /** radius, m */ readonly size: number;
    }
  | {
      readonly is: 'sun';
      /** towards it */ readonly direction: Point;
      readonly irradiance: Rgb;
      /** its radius as seen, radians */ readonly size: number;
    }
  | { readonly is: 'surround'; /** radiance from above and from below */ readonly above: Rgb; readonly below: Rgb }
  | { readonly is: 'picture'; readonly harmonics: Harmonics; readonly turn: number; readonly gain: Rgb };

/** How the plate is taken to be lit, and what its surfaces are like. */
export interface Surfaces {
  /** radiance of the even light that the plate was taken in */
  readonly even: number;
  /** 0..1: how far that light is reckoned to come from above, and to miss hollows */
  readonly shading: number;
  /** how far within that hollows are looked for, m */
  readonly hollows: number;
  /** 0..1: how far the even light's own colour is taken out, by the mean of the plate (Buchsbaum 1980) */
  readonly balance: number;
  /** 0..1: shine at normal incidence, of a metal-free gloss; and how rough it is */
  readonly gloss: number;
  readonly roughness: number;
  /** how strongly relief is seen: 1 as it is */
  readonly relief: number;
  /** whether what stands in the way casts shadows */
  readonly shadows: boolean;
}

/** What follows from the distances alone is kept by this, under a name. */
export type Keep = (name: string, make: () => Float32Array) => Float32Array;

/** No surface returns more than this. */
const MOST_ALBEDO = 0.95;
/** What the ground returns of the sky, and what hidden parts of the sky still give. */
const GROUND = 0.5;
const HIDDEN = 0.4;
/** Pixels by which the colour of the even light is told. */
const TINT_PIXELS = 100_000;
/** Sweeps for a light that has a size. */
const SOFT_POINTS = 6;

/** Share of the even light that reaches each pixel. */
function evenShare(normals: Float32Array, open: Float32Array | null, shading: number): Float32Array {
  const out = new Float32Array(normals.length / 3);
  for (let i = 0; i < out.length; i++) {
    const above = GROUND + ((1 - GROUND) * (1 - normals[3 * i + 1]!)) / 2;
    const share = above * (open ? HIDDEN + (1 - HIDDEN) * open[i]! : 1);
    out[i] = 1 + (share - 1) * shading;
  }
  return out;
}

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

/** Schlick's Fresnel term times the distribution and the masking of GGX, without the cosine (Walter et al. 2007, eq. 20, 33, 34). */
export function ggx(cosLight: number, cosView: number, cosHalf: number, cosDifference: number, f0: number, roughness: number): number {
  const a2 = Math.max(1e-4, roughness * roughness) ** 2;
  const d = a2 / (Math.PI * (cosHalf * cosHalf * (a2 - 1) + 1) ** 2);
  const masking = (c: number): number => (2 * c) / (c + Math.sqrt(a2 + (1 - a2) * c * c));
  const fresnel = f0 + (1 - f0) * (1 - cosDifference) ** 5;
  return (d * fresnel * masking(cosLight) * masking(cosView)) / Math.max(1e-4, 4 * cosLight * cosView);
}

/** A light from a point: what falls on each pixel for an intensity of 1 (diffuse: cosine over square; shine: times GGX), by who sees it. */
function pointLight(
  field: DepthField,
  normals: Float32Array,
  light: Extract<Light, { is: 'lamp' | 'sun' }>,
  surfaces: Surfaces,
  seen: Float32Array | null,
): { readonly diffuse: Float32Array; readonly shine: Float32Array | null } {
  const { width: w, height: h, focalPx: f, inverse } = field;
  const diffuse = new Float32Array(w * h);
  const shine = surfaces.gloss > 0 ? new Float32Array(w * h) : null;
  const lamp = light.is === 'lamp';
  const [ax, ay, az] = lamp ? light.place : light.direction;
  const f0 = 0.08 * surfaces.gloss;
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      const q = inverse[i]!;
      if (!(q > 0) || (seen && seen[i] === 0)) continue;
      const z = 1 / q;
      const u = (x + 0.5 - w / 2) / f;
      const v = (y + 0.5 - h / 2) / f;
      let dx = ax;
      let dy = ay;
      let dz = az;
      let fall = 1;
      if (lamp) {
        dx -= z * u;
        dy -= z * v;
        dz -= z;
        const d2 = Math.max(1e-4, light.size * light.size, dx * dx + dy * dy + dz * dz);
        const d = Math.sqrt(d2);
        fall = 1 / d2;
        dx /= d;
        dy /= d;
        dz /= d;
      }
      const nx = normals[3 * i]!;
      const ny = normals[3 * i + 1]!;
      const nz = normals[3 * i + 2]!;
      const cosine = nx * dx + ny * dy + nz * dz;
      if (cosine <= 0) continue;
      const sees = seen ? seen[i]! : 1;
      diffuse[i] = cosine * fall * sees;
      if (!shine) continue;
      const toEye = -1 / Math.sqrt(1 + u * u + v * v);
      const [vx, vy, vz] = [u * toEye, v * toEye, toEye];
      const cosView = Math.max(1e-3, nx * vx + ny * vy + nz * vz);
      const [hx, hy, hz] = [dx + vx, dy + vy, dz + vz];
      const k = 1 / Math.max(1e-6, Math.sqrt(hx * hx + hy * hy + hz * hz));
      const cosHalf = Math.max(0, (nx * hx + ny * hy + nz * hz) * k);
      shine[i] = ggx(cosine, cosView, cosHalf, Math.max(0, (vx * hx + vy * hy + vz * hz) * k), f0, surfaces.roughness) * diffuse[i]!;
    }
  return { diffuse, shine };
}

/** From this longest side on, px, soft shadows are worked out at half the size. */
const HALVED_FROM = 1200;

/** Who sees a light, with the steps taken off its edges. */
function shadowOf(field: DepthField, lamp: Point, radius: number, points: number, remember: Keep, look: () => void): Float32Array {
  const halved = points > 1 && Math.max(field.width, field.height) >= HALVED_FROM;
  const at = halved ? thinned(field, 2) : field;
  const thickness = remember(halved ? 'half thickness' : 'thickness', () => thicknessOf(at));
  const seen = seesLamp(at, thickness, lamp, { radius, points, look });
  return tented(field, halved ? enlarged(field, at, seen, 2) : seen, 'inside');
}

/** The sun as a lamp so far away that its rays are parallel. */
const FAR_AWAY = 1e5;

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
  { shared = false, quick = false, look = () => undefined }: { shared?: boolean; quick?: boolean; look?: (share: number) => void } = {},
): Picture {
  const { width, height, data } = picture;
  const normals = inRelief(
    remember('normals', () => normalsOf(field)),
    surfaces.relief,
  );
  look(0.1);
  const hollow = surfaces.shading > 0 || lights.some((l) => l.is === 'surround' || l.is === 'picture');
  const open =
    hollow && surfaces.hollows > 0
      ? remember(`open ${surfaces.hollows} ${surfaces.relief}`, () => opennessOf(field, normals, surfaces.hollows, () => look(0.2)))
      : null;
  const share = evenShare(normals, open, surfaces.shading);
  const tint = tintOf(plate, field, surfaces.balance);
  look(0.4);
  const added = new Float32Array(width * height * 3);
  const shining = new Float32Array(surfaces.gloss > 0 ? width * height * 3 : 0);
  const arriving = new Float64Array(3);
  for (const [n, light] of lights.entries()) {
    look(0.4 + (0.5 * n) / lights.length);
    if (light.is === 'lamp' || light.is === 'sun') {
      const lamp: Point =
        light.is === 'lamp' ? light.place : [light.direction[0] * FAR_AWAY, light.direction[1] * FAR_AWAY, light.direction[2] * FAR_AWAY];
      const size = light.is === 'lamp' ? light.size : light.size * FAR_AWAY;
      const points = quick || size <= 0 ? 1 : SOFT_POINTS;
      const seen = surfaces.shadows
        ? remember(`seen ${JSON.stringify([lamp, points > 1 ? size : 0])}`, () => shadowOf(field, lamp, size, points, remember, () => look(0.5)))
        : null;
      const { diffuse, shine } = pointLight(field, normals, light, surfaces, seen);
      const falls = tented(field, diffuse, 'edges');
      const colour = light.is === 'lamp' ? light.intensity : light.irradiance;
      const [r, g, b] = colour.map((v) => v / Math.PI);
      for (let i = 0, a = 0; i < falls.length; i++, a += 3) {
        const fall = falls[i]!;
        if (!(fall > 0)) continue;
        added[a]! += r! * fall;
        added[a + 1]! += g! * fall;
        added[a + 2]! += b! * fall;
        if (shine) for (let k = 0; k < 3; k++) shining[a + k]! += colour[k]! * shine[i]!;
      }
    } else
      for (let i = 0; i < field.inverse.length; i++) {
        if (!(field.inverse[i]! > 0)) continue;
        const [nx, ny, nz] = [normals[3 * i]!, normals[3 * i + 1]!, normals[3 * i + 2]!];
        const gate = open ? open[i]! : 1;
        if (light.is === 'picture') irradianceAt(light.harmonics, nx, ny, nz, light.turn, arriving);
        for (let k = 0; k < 3; k++) {
          const radiance =
            light.is === 'picture' ? arriving[k]! * light.gain[k]! : light.below[k]! + ((light.above[k]! - light.below[k]!) * (1 - ny)) / 2;
          added[i * 3 + k]! += radiance * gate;
        }
      }
  }
  const out = newPicture(width, height, shared);
  const to = out.data;
  const from = plate.data;
  const shines = surfaces.gloss > 0;
  const [kr, kg, kb] = tint.map((t) => 1 / (surfaces.even * t));
  for (let i = 0, o = 0, a = 0; i < share.length; i++, o += 4, a += 3) {
    const open = 1 / share[i]!;
    to[o] = keep * data[o]! + albedoOf(from[o]! * kr! * open) * added[a]!;
    to[o + 1] = keep * data[o + 1]! + albedoOf(from[o + 1]! * kg! * open) * added[a + 1]!;
    to[o + 2] = keep * data[o + 2]! + albedoOf(from[o + 2]! * kb! * open) * added[a + 2]!;
    to[o + 3] = data[o + 3]!;
    if (shines) for (let k = 0; k < 3; k++) to[o + k]! += shining[a + k]! * data[o + 3]!;
  }
  return out;
}

const albedoOf = (v: number): number => (v < 0 ? 0 : v > MOST_ALBEDO ? MOST_ALBEDO : v);
