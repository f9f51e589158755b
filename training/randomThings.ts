import type { MeshBuilder, Vec3 } from '../demo/tracer/mesh';
import { fractal, mix, smoothstep } from '../demo/tracer/noise';
import { rgb, type Material } from '../demo/tracer/scene';
import type { Dice } from './dice';

type Use = (material: Material) => number;
type Surface = (dice: Dice, size?: number, first?: Vec3) => Material;

/** Where a thing stands, how high it is in metres, how it is turned about the vertical and what it is made of. */
interface Placing {
  dice: Dice;
  m: MeshBuilder;
  use: Use;
  surface: Surface;
  at: Vec3;
  size: number;
  turn: number;
}

/** Local to world: x along the thing, z across it. */
const placer =
  ({ at, size, turn }: Placing) =>
  (x: number, y: number, z: number): Vec3 => {
    const [c, s] = [Math.cos(turn), Math.sin(turn)];
    return [at[0] + size * (c * x + s * z), at[1] + size * y, at[2] + size * (-s * x + c * z)];
  };

/** A ring about an axis across the thing. */
function ring(p: Placing, centre: [number, number], radius: number, thick: number, material: number, z = 0): void {
  const to = placer(p);
  const n = 20;
  p.m.tube(
    Array.from({ length: n + 1 }, (_, i): Vec3 => {
      const a = (2 * Math.PI * i) / n;
      return to(centre[0] + radius * Math.cos(a), centre[1] + radius * Math.sin(a), z);
    }),
    thick * p.size,
    material,
    7,
  );
}

/** Four legs, a body along x, a neck and a head. */
function beast(p: Placing): void {
  const { dice, m, use, surface, size } = p;
  const to = placer(p);
  const hide = use(surface(dice, size * 0.4));
  const [long, leg, thick] = [dice.between(0.35, 0.8), dice.between(0.25, 0.6), dice.between(0.11, 0.2)];
  const back = leg + thick * 0.7;
  for (const x of [-1, 1])
    for (const z of [-1, 1])
      m.tube([to(x * long * 0.75, 0, z * thick * 0.6), to(x * long * 0.7, back, z * thick * 0.5)], size * thick * 0.3, hide, 7);
  m.tube(
    [to(-long, back, 0), to(-long * 0.5, back, 0), to(long * 0.5, back, 0), to(long, back + 0.02, 0)],
    (t) => size * thick * (0.6 + 1.6 * t * (1 - t)),
    hide,
    12,
  );
  const up = dice.between(0, 0.35);
  m.tube([to(long * 0.9, back, 0), to(long + 0.15, back + up, 0)], size * thick * 0.5, hide, 8);
  m.tube([to(long + 0.1, back + up, 0), to(long + 0.32, back + up - 0.05, 0)], (t) => size * thick * mix(0.55, 0.3, t), hide, 8);
  if (dice.chance(0.7)) m.tube([to(-long, back, 0), to(-long - 0.25, back - dice.between(-0.2, 0.3), 0)], size * 0.025, hide, 6);
}

/** A body on four wheels with a cabin. */
function car(p: Placing): void {
  const { dice, m, use, surface, size, turn } = p;
  const to = placer(p);
  const paint = use(surface(dice, size * 2));
  const glass = use(surface(dice, size, [0.03, 0.035, 0.04]));
  const tyre = use(surface(dice, size * 0.2, [0.015, 0.015, 0.017]));
  const [long, wide] = [dice.between(2.2, 3.2), dice.between(1.05, 1.3)];
  m.box(to(0, 0.2, 0), [long * size, 0.42 * size, wide * size], paint, turn);
  const cabin = dice.between(0.4, 0.7) * long;
  const shift = dice.between(-0.12, 0.12) * long;
  m.box(to(shift, 0.6, 0), [cabin * size, 0.3 * size, wide * 0.9 * size], glass, turn);
  m.box(to(shift, 0.9, 0), [cabin * 0.94 * size, 0.07 * size, wide * 0.88 * size], paint, turn);
  for (const x of [-0.32, 0.32])
    for (const z of [-0.48, 0.48]) m.tube([to(x * long, 0.22, z * wide - 0.07), to(x * long, 0.22, z * wide + 0.07)], 0.22 * size, tyre, 14);
}

/** Two wheels in one plane with a frame, seen through; now and then with an engine in it. */
function cycle(p: Placing): void {
  const { dice, m, use, surface, size } = p;
  const to = placer(p);
  const frame = use(surface(dice, size * 0.3));
  const tyre = use(surface(dice, size * 0.2, [0.02, 0.02, 0.022]));
  const heavy = dice.chance(0.5);
  const [r, apart, thick] = [0.32, dice.between(0.5, 0.65), heavy ? 0.05 : 0.018];
  const points: Record<string, [number, number]> = { back: [-apart, r], front: [apart, r], saddle: [-0.2, 0.85], bar: [0.4, 1], low: [-0.05, 0.3] };
  for (const end of ['back', 'front'] as const) {
    ring(p, points[end]!, r - thick, thick, tyre);
    for (let k = heavy ? 5 : 8; k > 0; k--) {
      const a = (k * 2 * Math.PI) / (heavy ? 5 : 8);
      const [x, y] = points[end]!;
      m.tube([to(x, y, 0), to(x + (r - thick) * Math.cos(a), y + (r - thick) * Math.sin(a), 0)], size * thick * 0.3, frame, 5);
    }
  }
  const bars: [string, string][] = [
    ['back', 'saddle'],
    ['back', 'low'],
    ['low', 'saddle'],
    ['low', 'bar'],
    ['saddle', 'bar'],
    ['front', 'bar'],
  ];
  for (const [a, b] of bars) m.tube([to(...points[a]!, 0), to(...points[b]!, 0)], size * (heavy ? 0.035 : 0.018), frame, 6);
  m.tube([to(0.36, 1.02, -0.3), to(0.4, 1, 0), to(0.36, 1.02, 0.3)], size * 0.018, tyre, 6);
  m.tube([to(-0.36, 0.88, 0), to(-0.05, 0.88, 0)], size * 0.06, tyre, 8);
  if (heavy) {
    m.box(to(0, 0.25, 0), [0.4 * size, 0.35 * size, 0.22 * size], use(surface(dice, size * 0.1)), p.turn);
    m.tube([to(0, 0.72, 0), to(0.3, 0.78, 0)], 0.13 * size, frame, 10);
    m.tube([to(0.1, 0.25, 0.14), to(-0.7, 0.25, 0.16)], 0.05 * size, use(surface(dice, size)), 8);
  }
}

/** A bottle, bowl or cup: smooth profiles, narrow or wide. */
function vessel(p: Placing): void {
  const { dice, m, use, surface, size, at } = p;
  const profiles: [number, number][][] = [
    [[0, 0], [0.16, 0], [0.17, 0.1], [0.17, 0.55], [0.06, 0.72], [0.055, 1], [0, 1]],
    [[0, 0], [0.2, 0], [0.42, 0.3], [0.5, 0.5], [0.47, 0.5], [0.38, 0.28], [0, 0.06]],
    [[0, 0], [0.35, 0], [0.38, 0.5], [0.4, 1], [0.37, 1], [0.34, 0.1], [0, 0.08]],
    [[0, 0], [0.5, 0.02], [0.62, 0.06], [0, 0.03]],
  ]; // prettier-ignore
  m.lathe(
    at,
    dice.of(profiles).map(([r, h]): [number, number] => [r * size, h * size]),
    use(surface(dice, size)),
    20,
  );
}

/** Broad leaves on arching stems out of a pot or the ground. */
function leafy(p: Placing): void {
  const { dice, m, use, surface, size, at } = p;
  const leaf = use(surface(dice, size * 0.3, [dice.between(0.02, 0.2), dice.between(0.08, 0.3), dice.between(0.01, 0.08)]));
  const pot = dice.chance(0.5) ? size * 0.3 : 0;
  if (pot > 0) m.lathe(at, [[0, 0], [pot * 0.5, 0], [pot * 0.65, pot], [0, pot * 0.95]], use(surface(dice, size * 0.3)), 16); // prettier-ignore
  for (let k = dice.whole(6, 22); k > 0; k--) {
    const a = dice.between(0, 2 * Math.PI);
    const [out, high] = [size * dice.between(0.1, 0.5), size * dice.between(0.4, 1)];
    const wide = size * dice.between(0.03, 0.09);
    m.surface(
      6,
      2,
      (u, v) => {
        const across = (v - 0.5) * 2 * wide * Math.sin(Math.PI * Math.min(1, u * 0.95 + 0.05));
        const d = out * u;
        return [
          at[0] + Math.cos(a) * d - Math.sin(a) * across,
          at[1] + pot + (high - pot) * (1.6 * u - 0.6 * u * u * 1.4),
          at[2] + Math.sin(a) * d + Math.cos(a) * across,
        ];
      },
      leaf,
      true,
    );
  }
}

/** Boards with things on them, as in a shop or a workshop. */
function shelves(p: Placing): void {
  const { dice, m, use, surface, size, turn } = p;
  const to = placer(p);
  const board = use(surface(dice, size));
  const [wide, levels] = [dice.between(0.5, 1.4), dice.whole(2, 5)];
  for (const x of [-wide / 2, wide / 2]) m.box(to(x, 0, 0), [0.03 * size, size, 0.3 * size], board, turn);
  for (let k = 0; k < levels; k++) {
    const y = (k + 0.3) / levels;
    m.box(to(0, y, 0), [wide * size, 0.025 * size, 0.3 * size], board, turn);
    for (let x = -wide / 2 + 0.06; x < wide / 2 - 0.08;) {
      const w = dice.between(0.03, 0.14);
      const high = dice.between(0.25, 0.8) / levels;
      if (dice.chance(0.75))
        m.box(
          to(x + w / 2, y + 0.025, dice.between(-0.08, 0.05)),
          [w * size, high * size, dice.between(0.1, 0.22) * size],
          use(surface(dice, size * 0.2)),
          turn,
        );
      x += w + dice.between(0, 0.06);
    }
  }
}

/** A creature's head and shoulders filling much of the view, `at` being the middle of its head: a muzzle towards the lens, ears, a chest below and a back behind. */
export function putCreature(dice: Dice, m: MeshBuilder, use: Use, surface: Surface, at: Vec3, size: number): void {
  const fur = surface(dice, size * 0.25, [dice.between(0.05, 0.5), dice.between(0.04, 0.4), dice.between(0.02, 0.3)]);
  const coat = use(fur);
  const patch = dice.chance(0.5) ? coat : use(surface(dice, size * 0.3));
  const dark = use(surface(dice, size, [0.02, 0.02, 0.02]));
  const [yaw, s] = [dice.between(-0.9, 0.9), size];
  const to = (x: number, y: number, z: number): Vec3 => [
    at[0] + s * (Math.cos(yaw) * x + Math.sin(yaw) * z),
    at[1] + s * y,
    at[2] + s * (-Math.sin(yaw) * x + Math.cos(yaw) * z),
  ];
  const [long, thick] = [dice.between(0.35, 0.8), dice.between(0.18, 0.3)];
  m.sphere(to(0, 0, 0), s * 0.42, coat, 16, dice.between(0.85, 1.1));
  m.tube([to(0, -0.08, -0.25), to(0, -0.14, -0.3 - long * 0.5)], (t) => s * mix(thick * 1.2, thick * 0.8, t), patch, 12);
  m.sphere(to(0, -0.12, -0.32 - long * 0.5), s * thick * 0.85, patch, 10);
  m.sphere(to(0, -0.06, -0.34 - long * 0.5 - thick * 0.6), s * thick * 0.35, dark, 7);
  for (const side of [-1, 1]) {
    m.sphere(to(side * 0.17, 0.1, -0.36), s * 0.06, dark, 7);
    m.tube([to(side * 0.25, 0.28, 0), to(side * dice.between(0.3, 0.5), dice.between(0.1, 0.75), 0.05)], (t) => s * mix(0.14, 0.03, t), coat, 9);
  }
  // the chest below and the back behind, turned by chance
  const side = dice.between(-1, 1);
  m.tube([to(0, -0.2, 0.2), [at[0] + s * 0.3 * side, at[1] - s * 1.5, at[2] + s * 0.5]], (t) => s * mix(0.4, 0.62, t), coat, 14);
  m.tube(
    [
      [at[0] + s * 0.2 * side, at[1] - s * 0.9, at[2] + s * 0.5],
      [at[0] + s * 1.2 * side, at[1] - s * 0.8, at[2] + s * dice.between(1, 2)],
    ],
    s * 0.6,
    coat,
    14,
  );
}

const THINGS = { beast, car, cycle, vessel, leafy, shelves };

/** Puts broad leaves on stems, rooted at a point. */
export function putLeaves(dice: Dice, m: MeshBuilder, use: Use, surface: Surface, at: Vec3, size: number): void {
  leafy({ dice, m, use, surface, at, size, turn: 0 });
}

/** Puts one of the more involved things on the ground. */
export function putRichThing(dice: Dice, m: MeshBuilder, use: Use, surface: Surface, at: Vec3, size: number): void {
  const kind = dice.of(Object.keys(THINGS) as (keyof typeof THINGS)[]);
  THINGS[kind]({
    dice,
    m,
    use,
    surface,
    at,
    size: kind === 'car' || kind === 'cycle' || kind === 'shelves' ? Math.max(size, 0.7) : size,
    turn: dice.between(-Math.PI, Math.PI),
  });
}

/** Ground as wide land shows it: sand with ripples, turf, gravel, snow, furrows or a road, of fine grain near and plain far away. */
export function openGround(dice: Dice): Material {
  const kind = dice.of(['sand', 'turf', 'gravel', 'snow', 'furrows', 'road'] as const);
  const tone: Vec3 =
    kind === 'turf' || (kind === 'furrows' && dice.chance(0.5))
      ? [dice.between(0.04, 0.2), dice.between(0.1, 0.28), dice.between(0.02, 0.08)]
      : kind === 'snow'
        ? [0.75, 0.77, 0.82]
        : (([l, w]) => [l, l * w, l * w * w * 0.9] as Vec3)([dice.scaled(0.08, 0.6), dice.between(0.65, 1)] as const);
  const [angle, fine, wide, o] = [dice.between(0, Math.PI), dice.scaled(1.5, 12), dice.scaled(0.05, 0.5), dice.between(0, 60)];
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  const strength = dice.between(0.1, 0.5);
  return ({ p }, out) => {
    const [u, v] = [p[0] * c + p[2] * s, -p[0] * s + p[2] * c];
    const patch = fractal(p[0] * wide + o, 0, p[2] * wide, 3);
    const grain = fractal(p[0] * fine * 3, p[1], p[2] * fine * 3 + o, 3);
    let light = 1 + strength * patch + 0.35 * strength * grain;
    if (kind === 'sand') light += 0.3 * strength * Math.sin(fine * 4 * (u + 0.3 * fractal(u * 0.7, v * 0.7, o, 2)));
    if (kind === 'furrows') light += 0.8 * strength * Math.sin(fine * 1.4 * u);
    if (kind === 'gravel') light += strength * smoothstep(0, 0.3, grain) * 0.8;
    const onRoad = kind === 'road' ? smoothstep(0.1, 0, Math.abs(u) - 2) : 0;
    const line = kind === 'road' ? smoothstep(0.03, 0, Math.abs(u) - 0.07) * (Math.sin(v * 1.2) > 0 ? 1 : 0) : 0;
    rgb(
      out.albedo,
      mix(mix(tone[0], 0.1, onRoad), 0.7, line),
      mix(mix(tone[1], 0.1, onRoad), 0.7, line),
      mix(mix(tone[2], 0.11, onRoad), 0.66, line),
      Math.max(0.15, light),
    );
    out.roughness = kind === 'road' ? 0.5 : 0.9;
    if (kind === 'sand') out.bump[0] = 0.15 * Math.cos(fine * 4 * (u + 0.3 * fractal(u * 0.7, v * 0.7, o, 2)));
  };
}

/** A wall across the view with windows, ledges, doors and things hung on it: height in the picture says nothing about its distance. */
export function putFacade(dice: Dice, m: MeshBuilder, use: Use, surface: Surface, z: number): void {
  const turn = dice.between(-0.5, 0.5);
  const [c, s] = [Math.cos(turn), Math.sin(turn)];
  const at = (x: number, y: number, out: number): Vec3 => [c * x - s * out, y, z - s * x - c * out];
  const wall = use(surface(dice, dice.scaled(0.5, 3)));
  const frame = use(surface(dice, 1));
  const glass = use(surface(dice, 1, dice.colour(0.02, 0.2)));
  m.box(at(0, 0, -1), [40, 14, 2], wall, turn);
  const [step, level, w, h] = [dice.between(1.6, 4), dice.between(2.4, 3.6), dice.between(0.35, 0.7), dice.between(0.5, 1)];
  const balcony = dice.chance(0.4);
  for (let floor = 0; floor < 4; floor++)
    for (let x = -10; x < 10; x += step) {
      const y = 0.9 + floor * level;
      m.box(at(x, y, 0), [2 * w, 2 * h, 0.06], glass, turn);
      for (const side of [-1, 1]) m.box(at(x + side * w, y, 0.03), [0.08, 2 * h, 0.14], frame, turn);
      m.box(at(x, y - 0.1, 0.08), [2 * w + 0.2, 0.1, 0.3], frame, turn);
      if (balcony && floor > 0) {
        m.box(at(x, y - 0.3, 0.45), [2 * w + 0.6, 0.1, 0.9], frame, turn);
        for (let k = 0; k <= 8; k++) m.box(at(x - w - 0.3 + (k / 8) * (2 * w + 0.6), y - 0.2, 0.88), [0.03, 0.8, 0.03], frame, turn);
        m.box(at(x, y + 0.6, 0.88), [2 * w + 0.6, 0.05, 0.06], frame, turn);
      }
    }
  if (dice.chance(0.5)) m.box(at(dice.between(-3, 3), 2.3, 0.7), [dice.between(1.5, 4), 0.08, 1.4], use(surface(dice, 0.5)), turn);
}
