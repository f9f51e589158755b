import { hash3 } from '../../noise';
import { parseHex, srgbToLinear } from '../../raster/colour';
import { isShared, newPicture, newPlane, type Picture, type Plane } from '../../picture';
import { colour, count, formatMetres, formatSpan, level, metres, metresPerSecond, millimetres, percent, type ValuesOf } from '../../values/params';
import { defineEffect, type EffectInput, type EffectResult } from '../definition';
import { worldOf } from './world';

const params = {
  number: level({
    section: 'Specks',
    label: 'In a cubic metre',
    min: 1,
    max: 5000,
    lowest: 0,
    highest: 1e6,
    decimals: 0,
    scale: 'log',
    default: 150,
  }),
  size: millimetres({ section: 'Specks', label: 'Size', min: 0.2, max: 20, lowest: 0.01, highest: 500, default: 2.5 }),
  from: metres({ section: 'Specks', label: 'From', min: 0.1, max: 300, lowest: 0.05, highest: 1e5, default: 0.6 }),
  to: metres({ section: 'Specks', label: 'To', min: 0.1, max: 300, lowest: 0.06, highest: 1e5, default: 6 }),
  brightness: percent({ section: 'Light', label: 'Brightness', min: 0, max: 400, highest: 10000, default: 100 }),
  backlight: percent({
    section: 'Light',
    label: 'Lit from behind',
    min: 0,
    max: 100,
    default: 60,
    help: 'How much they shine with what lies behind them',
  }),
  colour: colour({ section: 'Light', label: 'Colour', default: '#fff1da' }),
  right: metresPerSecond({ section: 'Drift', label: 'Right', min: -1, max: 1, lowest: -50, highest: 50, default: 0.04 }),
  up: metresPerSecond({ section: 'Drift', label: 'Up', min: -1, max: 1, lowest: -50, highest: 50, default: 0.02 }),
  seed: count({ section: 'Drift', label: 'Seed', min: 1, max: 99, highest: 99999, default: 1 }),
};
export type DustValues = ValuesOf<typeof params>;

/** No more specks than these are looked at; where there would be more, the farthest are left out. */
const MOST = 400_000;

/** A speck as the camera has it: a place in px, its distance, m, and its radius, px. */
export interface Speck {
  readonly x: number;
  readonly y: number;
  readonly z: number;
  readonly radius: number;
  /** 0.5 … 1.5: how bright it is beside others */
  readonly light: number;
}

/** The specks in view, one to a cell of a lattice that drifts through the world: each keeps its place in space from frame to frame. */
export function specksIn(input: EffectInput<DustValues>): readonly Speck[] {
  const {
    picture: { width, height },
    lens,
    params: p,
  } = input;
  const [near, far] = [Math.min(p.from, p.to), Math.max(p.from, p.to)];
  if (!(p.number > 0)) return [];
  const cell = p.number ** (-1 / 3);
  const { place, seen } = worldOf(input);
  const still = p.right === 0 && p.up === 0;
  const seconds = still ? 0 : input.at.frame / input.at.fps;
  const [driftX, driftY] = [p.right * seconds, -p.up * seconds];
  const [halfX, halfY] = [width / 2 / lens.focalPx, height / 2 / lens.focalPx];
  // whole slabs of the lattice, seen from the middle of the view
  const corners = [near, far].flatMap((z) => [-1, 1].flatMap((a) => [-1, 1].map((b) => place(a * halfX * z, b * halfY * z, z))));
  const [low, high] = [Math.min, Math.max].map((of) => [0, 1, 2].map((k) => of(...corners.map((c) => c[k]!)))) as [number[], number[]];
  const out: Speck[] = [];
  let looked = 0;
  for (let k = Math.floor(low[2]! / cell); k <= high[2]! / cell && looked < MOST; k++) {
    // a slab of depth shows only so much of the lattice, where the camera looks along it
    const deepest = Math.max(0.1, Math.min(far, (k + 1) * cell - input.camera.pose.z + cell));
    const straight = input.camera.pose.yaw === 0 && input.camera.pose.pitch === 0;
    const [wide, tall] = straight ? [halfX * 1.1 * deepest + cell, halfY * 1.1 * deepest + cell] : [Infinity, Infinity];
    const x0 = Math.max(low[0]!, input.camera.pose.x - wide) - driftX;
    const x1 = Math.min(high[0]!, input.camera.pose.x + wide) - driftX;
    const y0 = Math.max(low[1]!, input.camera.pose.y - tall) - driftY;
    const y1 = Math.min(high[1]!, input.camera.pose.y + tall) - driftY;
    for (let j = Math.floor(y0 / cell); j <= y1 / cell; j++)
      for (let i = Math.floor(x0 / cell); i <= x1 / cell; i++) {
        if (looked++ > MOST) return out;
        const at = (n: number): number => hash3(i, j, k, p.seed * 8 + n);
        const [x, y, z] = seen((i + at(0)) * cell + driftX, (j + at(1)) * cell + driftY, (k + at(2)) * cell);
        if (!(z > near) || z > far) continue;
        const [u, v] = [width / 2 + (lens.focalPx * x) / z, height / 2 + (lens.focalPx * y) / z];
        const radius = ((p.size / 2000) * (0.5 + at(3)) * lens.focalPx) / z;
        if (u < -radius || v < -radius || u > width + radius || v > height + radius) continue;
        out.push({ x: u, y: v, z, radius, light: 0.5 + at(4) });
      }
  }
  return out;
}

/** Least radius of what is drawn, px: smaller specks are drawn so large and as much dimmer. */
const LEAST = 0.7;
/** Covering so much of a pixel, a speck is what the lens sees there. */
const SEEN = 0.35;

function apply(input: EffectInput<DustValues>): EffectResult {
  const { picture, distance, params: p, run } = input;
  const { width, height } = picture;
  const out: Picture = newPicture(width, height, run.shared);
  out.data.set(picture.data);
  const far: Plane = newPlane(width, height, isShared(distance.data));
  far.data.set(distance.data);
  const light = parseHex(p.colour).map(srgbToLinear);
  const behind = p.backlight / 100;
  const specks = specksIn(input);
  for (const [n, { x, y, z, radius, light: own }] of specks.entries()) {
    if (n % 4096 === 0) run.checkpoint(n / specks.length);
    const drawn = Math.max(LEAST, radius);
    const dim = Math.min(1, (radius / drawn) ** 2);
    for (let v = Math.max(0, Math.floor(y - drawn - 0.5)); v <= Math.min(height - 1, Math.floor(y + drawn + 0.5)); v++)
      for (let u = Math.max(0, Math.floor(x - drawn - 0.5)); u <= Math.min(width - 1, Math.floor(x + drawn + 0.5)); u++) {
        const i = v * width + u;
        // what is nearer hides it
        if (distance.data[i]! < z) continue;
        const cover = Math.min(1, Math.max(0, drawn + 0.5 - Math.hypot(u + 0.5 - x, v + 0.5 - y))) * dim;
        if (cover <= 0) continue;
        const gain = (p.brightness / 100) * own * cover * out.data[i * 4 + 3]!;
        for (let k = 0; k < 3; k++) {
          const from = picture.data[i * 4 + k]!;
          out.data[i * 4 + k]! += gain * light[k]! * (0.35 * (1 - behind) + behind * 1.6 * from);
        }
        if (cover > SEEN) far.data[i] = z;
      }
  }
  return { picture: out, distance: far };
}

/** Specks in the air: each has a place in space, moves with the camera's parallax, is hidden by what is nearer and blurred by the lens. */
export const dust = defineEffect({
  kind: 'dust',
  group: 'air',
  label: 'Dust',
  help: 'Specks that hang in space between two distances',
  params,
  reach: true,
  needs: (p) => ['distance', 'lens', 'camera', ...(p.right !== 0 || p.up !== 0 ? (['time'] as const) : [])],
  // so large that a speck at half the way is about two px of a full frame
  startOn: ({ subject }) => ({
    from: Number((0.25 * subject).toPrecision(2)),
    to: Number((1.6 * subject).toPrecision(2)),
    size: Number((3 * subject).toPrecision(2)),
    number: Number(Math.max(0.01, 900 / subject ** 3).toPrecision(2)),
  }),
  pair: { from: 'from', to: 'to', label: 'Pick from and to in picture', prompts: ['Click where the dust begins', 'Click where it ends'] },
  summary: (p) => formatSpan(p.from, p.to),
  lane: (p) => ({
    caption: `Dust: ${formatMetres(p.from)} to ${formatMetres(p.to)}`,
    points: [
      { distance: p.from, strength: 0 },
      { distance: p.from, strength: 1 },
      { distance: p.to, strength: 1 },
      { distance: p.to, strength: 0 },
    ],
    handles: [
      { param: 'from', distance: p.from },
      { param: 'to', distance: p.to },
    ],
  }),
  apply,
});
