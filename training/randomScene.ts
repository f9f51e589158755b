import { seededRandom } from '../src/core/random';
import { MeshBuilder, normalize, three, type Vec3 } from '../demo/tracer/mesh';
import { cells, fractal, mix, ridged, smoothstep } from '../demo/tracer/noise';
import { glowing, rgb, type Lamp, type Material, type Scene } from '../demo/tracer/scene';
import { Dice } from './dice';
import { openGround, putCreature, putFacade, putLeaves, putRichThing } from './randomThings';

/** A random surface: one of several patterns at a random scale, between two colours. */
function randomMaterial(dice: Dice, size = 1, first = dice.colour()): Material {
  const second: Vec3 = dice.chance(0.5) ? dice.colour() : three((k) => first[k] * dice.between(0.4, 1.5));
  const kind = dice.of(['plain', 'plain', 'noise', 'noise', 'stripes', 'bricks', 'cells', 'speckle', 'shade']);
  const f = dice.scaled(0.6, 12) / size;
  const [ox, oy, oz] = [dice.between(0, 50), dice.between(0, 50), dice.between(0, 50)];
  const rough = dice.between(0.2, 1);
  const specular = dice.chance(0.35) ? dice.between(0.02, 0.08) : 0;
  const bump = dice.chance(0.4) ? dice.between(0.02, 0.2) : 0;
  const along = dice.whole(0, 2);
  const pattern = (p: Vec3): number => {
    const [x, y, z] = [p[0] * f + ox, p[1] * f + oy, p[2] * f + oz];
    if (kind === 'noise') return smoothstep(-0.3, 0.4, fractal(x, y, z, 4));
    if (kind === 'stripes') return smoothstep(-0.2, 0.2, Math.sin(6 * [x, y, z][along]! + 0.6 * fractal(x, y, z, 2)));
    if (kind === 'bricks') {
      const row = Math.floor(y * 3);
      const u = (x + z) * 1.5 + 0.5 * (row & 1);
      return Math.min(smoothstep(0, 0.08, u - Math.floor(u)), smoothstep(0, 0.12, y * 3 - row)) * (0.8 + 0.2 * fractal(x * 3, y * 3, z * 3, 2));
    }
    if (kind === 'cells') return smoothstep(0.02, 0.2, cells(x * 2, z * 2 + y * 2).border);
    if (kind === 'speckle') return smoothstep(0.1, 0.3, fractal(x * 6, y * 6, z * 6, 2));
    if (kind === 'shade') return 0.5 + 0.5 * fractal(x * 0.3, y * 0.3, z * 0.3, 2);
    return 1;
  };
  return ({ p }, s) => {
    const t = pattern(p);
    rgb(
      s.albedo,
      mix(second[0], first[0], t),
      mix(second[1], first[1], t),
      mix(second[2], first[2], t),
      0.94 + 0.12 * fractal(p[0] * 7, p[1] * 7, p[2] * 7, 2),
    );
    s.roughness = rough;
    s.specular = specular;
    if (bump > 0) for (let k = 0; k < 3; k++) s.bump[k] = bump * fractal(p[0] * f * 5 + 11 * k, p[1] * f * 5, p[2] * f * 5, 2);
  };
}

function randomSky(dice: Dice, night: boolean): { sky: (d: Vec3) => Vec3; level: number } {
  const level = night ? dice.scaled(0.002, 0.06) : dice.scaled(0.25, 1.6);
  const top: Vec3 = dice.chance(0.6) ? [0.25 * level, 0.42 * level, 0.8 * level] : [0.7 * level, 0.74 * level, 0.8 * level];
  const shade = dice.of<Vec3>([
    [0.8, 0.85, 0.95],
    [1, 0.75, 0.5],
    [0.9, 0.6, 0.45],
    [0.75, 0.78, 0.8],
  ]);
  const low = three((k) => shade[k] * level);
  const clouds = dice.chance(0.6) ? dice.between(0.2, 1) : 0;
  const [f, fall, o] = [dice.scaled(1, 5), dice.between(1.5, 7), dice.between(0, 30)];
  const sky = (d: Vec3): Vec3 => {
    const h = Math.max(0, d[1]);
    const t = Math.exp(-h * fall);
    const c = clouds * smoothstep(0, 0.5, fractal(d[0] * f + o, d[1] * f * 2.5, d[2] * f, 4));
    return three((k) => mix(mix(top[k], low[k], t), level * (0.6 + 0.5 * c), c));
  };
  return { sky, level };
}

/** Things that stand on the ground: x, ground height, z, about `size` metres high. */
function putThing(dice: Dice, m: MeshBuilder, use: (material: Material) => number, at: Vec3, size: number): void {
  if (dice.chance(0.3)) return putRichThing(dice, m, use, randomMaterial, at, size);
  const kind = dice.of(['box', 'box', 'tree', 'person', 'post', 'rock', 'vase', 'fence', 'pile', 'shrub', 'wheel', 'table', 'cone']);
  const material = use(randomMaterial(dice, size));
  const [x, y, z] = at;
  const turn = dice.between(-1.5, 1.5);
  if (kind === 'box') m.box(at, [size * dice.scaled(0.3, 2), size, size * dice.scaled(0.3, 2)], material, turn);
  else if (kind === 'tree') {
    const trunk = size * dice.between(0.2, 0.55);
    m.tube(
      [at, [x + size * 0.05, y + trunk, z], [x + dice.between(-0.1, 0.1) * size, y + size * 0.8, z]],
      (t) => size * mix(0.045, 0.015, t),
      use(randomMaterial(dice, size, [0.12, 0.08, 0.05])),
      8,
    );
    const leaf = use(randomMaterial(dice, size * 0.1, [dice.between(0.03, 0.2), dice.between(0.08, 0.3), dice.between(0.01, 0.1)]));
    for (let k = dice.whole(3, 12); k > 0; k--)
      m.sphere(
        [x + size * dice.between(-0.28, 0.28), y + trunk + size * dice.between(0.05, 0.5), z + size * dice.between(-0.28, 0.28)],
        size * dice.between(0.1, 0.24),
        leaf,
        7,
        dice.between(0.6, 1.1),
      );
  } else if (kind === 'person') {
    const skin = use(randomMaterial(dice, size, [dice.between(0.2, 0.6), dice.between(0.14, 0.4), dice.between(0.1, 0.3)]));
    const low = use(randomMaterial(dice, size));
    const w = size * 0.06;
    for (const side of [-1, 1])
      m.tube(
        [
          [x + side * w, y, z],
          [x + side * w * 0.8, y + size * 0.48, z],
        ],
        w * 0.8,
        low,
        8,
      );
    m.lathe(
      [x, y + size * 0.45, z],
      [
        [0, 0],
        [0.1, 0],
        [0.085, 0.12],
        [0.115, 0.33],
        [0.05, 0.38],
        [0.03, 0.42],
      ].map(([r, h]): [number, number] => [r! * size, h! * size]),
      material,
      14,
    );
    for (const side of [-1, 1])
      m.tube(
        [
          [x + side * 0.12 * size, y + size * 0.8, z],
          [x + side * dice.between(0.12, 0.3) * size, y + size * dice.between(0.45, 0.9), z - dice.between(0, 0.15) * size],
        ],
        0.03 * size,
        material,
        7,
      );
    m.sphere([x, y + size * 0.93, z], size * 0.065, skin, 9, 1.2);
  } else if (kind === 'post') m.tube([at, [x, y + size, z]], size * dice.scaled(0.01, 0.06), material, 8);
  else if (kind === 'rock') {
    const [o, q] = [dice.between(0, 40), size * dice.between(0.4, 0.8)];
    m.surface(
      18,
      9,
      (u, v) => {
        const [a, b] = [-u * 2 * Math.PI, v * Math.PI];
        const d: Vec3 = [Math.sin(b) * Math.cos(a), Math.cos(b), Math.sin(b) * Math.sin(a)];
        const r = q * (1 + 0.45 * fractal(d[0] + o, d[1], d[2], 3));
        return [x + d[0] * r, y + d[1] * r * 0.7 + q * 0.3, z + d[2] * r];
      },
      material,
      true,
    );
  } else if (kind === 'vase') {
    const steps = dice.whole(4, 9);
    const profile = Array.from({ length: steps + 1 }, (_, i): [number, number] => [
      size * (i === steps ? 0 : dice.between(0.1, 0.45)),
      (size * i) / steps,
    ]);
    m.lathe(at, profile, material, 22);
  } else if (kind === 'fence') {
    const [n, gap] = [dice.whole(3, 14), size * dice.between(0.15, 0.7)];
    const [c, s] = [Math.cos(turn), Math.sin(turn)];
    for (let i = 0; i < n; i++) m.box([x + c * gap * (i - n / 2), y, z + s * gap * (i - n / 2)], [size * 0.06, size, size * 0.06], material, -turn);
    for (const h of [0.45, 0.85])
      m.tube(
        [
          [x - (c * gap * n) / 2, y + h * size, z - (s * gap * n) / 2],
          [x + (c * gap * n) / 2, y + h * size, z + (s * gap * n) / 2],
        ],
        size * 0.025,
        material,
        6,
      );
  } else if (kind === 'pile')
    for (let k = dice.whole(2, 5), h = 0; k > 0; k--) {
      const step = (size / 4) * dice.between(0.5, 1.3);
      m.box(
        [x + dice.between(-0.1, 0.1) * size, y + h, z],
        [size * dice.between(0.3, 0.9), step, size * dice.between(0.3, 0.9)],
        dice.chance(0.5) ? material : use(randomMaterial(dice, size)),
        dice.between(-0.5, 0.5),
      );
      h += step;
    }
  else if (kind === 'shrub')
    for (let k = 0; k < 40; k++)
      m.blade(
        [x + size * dice.between(-0.3, 0.3), y, z + size * dice.between(-0.3, 0.3)],
        size * dice.between(0.5, 1.1),
        size * 0.06,
        [dice.between(-0.6, 0.6), 0, dice.between(-0.6, 0.6)],
        material,
      );
  else if (kind === 'wheel')
    m.tube(
      Array.from({ length: 25 }, (_, i): Vec3 => [
        x + Math.cos(turn) * size * 0.45 * Math.cos(i * 0.2618),
        y + size * 0.5 + size * 0.45 * Math.sin(i * 0.2618),
        z + Math.sin(turn) * size * 0.45 * Math.cos(i * 0.2618),
      ]),
      size * 0.05,
      material,
      8,
    );
  else if (kind === 'table') {
    const w = size * dice.between(0.8, 2);
    m.box([x, y + size * 0.9, z], [w, size * 0.1, size], material, turn);
    const [c, s] = [Math.cos(turn), Math.sin(turn)];
    for (const [a, b] of [
      [-1, -1],
      [1, -1],
      [-1, 1],
      [1, 1],
    ] as const)
      m.box(
        [x + c * a * w * 0.45 + s * b * size * 0.45, y, z - s * a * w * 0.45 + c * b * size * 0.45],
        [size * 0.06, size * 0.9, size * 0.06],
        material,
        turn,
      );
    if (dice.chance(0.6)) putThing(dice, m, use, [x, y + size, z], size * dice.between(0.25, 0.7));
  } else
    m.lathe(
      at,
      [
        [0, 0],
        [size * 0.4, 0],
        [size * 0.02, size],
        [0, size],
      ],
      material,
      20,
    );
}

/** A head and shoulders, in one piece with its clothes and hair, at eye height `y`. */
function putSitter(dice: Dice, m: MeshBuilder, use: (material: Material) => number, [x, y, z]: Vec3, backdrop?: Vec3): void {
  // now and then all of one colour, or of the colour of what is behind, like a sculpture in its studio
  const whole = backdrop && dice.chance(0.3) ? use(randomMaterial(dice, 2, backdrop)) : dice.chance(0.12) ? use(randomMaterial(dice, 1)) : -1;
  const skin = whole >= 0 ? whole : use(randomMaterial(dice, 2, [dice.between(0.15, 0.65), dice.between(0.1, 0.42), dice.between(0.06, 0.32)]));
  const cloth = whole >= 0 ? whole : use(randomMaterial(dice, 0.5));
  const hair = whole >= 0 ? whole : use(randomMaterial(dice, 0.3, dice.colour(0.01, 0.25)));
  m.sphere([x, y, z], 0.1, skin, 14, 1.25);
  m.sphere([x, y - 0.01, z - 0.095], 0.022, skin, 7);
  m.sphere([x, y + 0.035, z + 0.04], dice.between(0.098, 0.118), hair, 12, 1.15);
  for (const side of [-1, 1]) m.sphere([x + side * 0.036, y + 0.02, z - 0.088], 0.012, hair, 6);
  if (dice.chance(0.3))
    for (const side of [-1, 1])
      m.tube(
        [
          [x + side * 0.09, y + 0.03, z + 0.03],
          [x + side * 0.12, y - dice.between(0.15, 0.45), z + 0.03],
        ],
        0.04,
        hair,
        8,
      );
  if (dice.chance(0.2))
    m.lathe(
      [x, y + 0.07, z + 0.02],
      [
        [dice.between(0.12, 0.24), 0],
        [0.11, 0.015],
        [0.1, 0.12],
        [0, 0.13],
      ],
      cloth,
      20,
    );
  m.tube(
    [
      [x, y - 0.35, z + 0.04],
      [x, y - 0.06, z + 0.02],
    ],
    0.06,
    skin,
    12,
  );
  const lean = dice.between(-0.08, 0.08);
  m.lathe(
    [x + lean, y - 0.95, z + 0.05],
    [
      [0.2, 0],
      [0.2, 0.3],
      [0.21, 0.55],
      [0.17, 0.68],
      [0.07, 0.76],
      [0, 0.78],
    ],
    cloth,
    24,
  );
  for (const side of [-1, 1])
    m.tube(
      [
        [x + lean + side * 0.15, y - 0.27, z + 0.05],
        [x + lean + side * 0.25, y - 0.5, z],
        [x + lean + side * 0.2, y - 0.9, z - 0.1],
      ],
      0.06,
      cloth,
      10,
    );
}

/** A random made-up place, indoors or out, for training the estimate. Distances span a hand's breadth to kilometres. */
export function randomScene(seed: number): Scene {
  const dice = new Dice(seededRandom(seed * 7919 + 17));
  for (let i = 0; i < 3; i++) dice.next();
  const m = new MeshBuilder();
  const materials: Material[] = [];
  const use = (material: Material): number => materials.push(material) - 1;
  const lamps: Lamp[] = [];
  const kind = dice.of([
    ...(['open', 'open', 'street', 'room', 'room', 'tabletop', 'tabletop', 'portrait', 'portrait', 'hills'] as const),
    ...(['closeup', 'corridor', 'water', 'wood', 'opening', 'group', 'above'] as const),
    ...([
      'land',
      'land',
      'land',
      'facade',
      'facade',
      'clutter',
      'clutter',
      'creature',
      'creature',
      'creature',
      'portrait',
      'portrait',
      'subject',
      'subject',
      'subject',
      'subject',
    ] as const),
  ]);
  const night = dice.chance(0.1);
  const { sky, level } = randomSky(dice, night);
  const indoors =
    kind === 'room' ||
    kind === 'corridor' ||
    (kind === 'clutter' && dice.chance(0.7)) ||
    ((kind === 'group' || kind === 'creature') && dice.chance(0.4)) ||
    (kind === 'tabletop' && dice.chance(0.7)) ||
    (kind === 'portrait' && dice.chance(0.6));
  const hfov = kind === 'portrait' || kind === 'closeup' || kind === 'creature' || kind === 'subject' ? dice.between(12, 45) : dice.between(32, 78);
  const eye =
    kind === 'tabletop'
      ? dice.between(1.0, 1.5)
      : kind === 'hills'
        ? dice.scaled(1, 40)
        : kind === 'land'
          ? dice.scaled(0.5, 12)
          : dice.scaled(0.4, 3);
  const pitch =
    kind === 'above'
      ? dice.between(-65, -30)
      : kind === 'closeup'
        ? dice.between(-25, 0)
        : kind === 'tabletop'
          ? dice.between(-38, -6)
          : kind === 'portrait' || kind === 'creature' || kind === 'subject'
            ? dice.between(-8, 5)
            : dice.between(-16, 9);
  const ground = use(kind === 'land' || (!indoors && dice.chance(0.4)) ? openGround(dice) : randomMaterial(dice, dice.scaled(0.3, 6)));
  const relief =
    kind === 'hills' || (kind === 'land' && dice.chance(0.6))
      ? dice.between(1, 14)
      : dice.chance(0.3) && !indoors && kind !== 'water' && kind !== 'closeup'
        ? dice.between(0, 0.5)
        : 0;
  const spread = kind === 'hills' ? 60 : kind === 'land' ? dice.scaled(15, 80) : 9;
  const o = dice.between(0, 90);
  const heightAt = (x: number, z: number): number =>
    relief * fractal(x / spread + o, 0, z / spread, 3) * smoothstep(0, spread * 0.6, Math.hypot(x, z));
  const far = 3000;
  let backdrop: Vec3 | undefined;
  m.surface(
    relief > 0 ? 90 : 8,
    relief > 0 ? 110 : 8,
    (u, v) => {
      const z = -4 + far * v ** 4;
      const x = (2 * u - 1) * (6 + z + 30);
      return [x, z < 900 ? heightAt(x, z) : -1, z];
    },
    ground,
  );
  const side = dice.chance(0.5) ? 1 : -1;
  if (indoors) {
    const [w, h, d] =
      kind === 'portrait'
        ? [dice.between(1.5, 5), 3, dice.between(1.6, 7)]
        : kind === 'corridor'
          ? [dice.between(0.9, 3), dice.between(2.3, 5), dice.between(9, 45)]
          : [dice.between(1.6, 5), dice.between(2.2, 4), dice.between(2.2, 10)];
    const wallColour = dice.colour(0.05, 0.75);
    backdrop = wallColour;
    const wall = use(randomMaterial(dice, dice.scaled(0.3, 3), wallColour));
    const sideWall = dice.chance(0.6) ? wall : use(randomMaterial(dice, 1));
    const turn = dice.between(-0.4, 0.4);
    const [c, s] = [Math.cos(turn), Math.sin(turn)];
    const at = (x: number, y: number, z: number): Vec3 => [c * x + s * z, y, -s * x + c * z];
    m.quad(at(-w, 0, d), at(w, 0, d), at(w, h, d), at(-w, h, d), wall);
    if (dice.chance(0.8)) m.quad(at(-w, 0, -2), at(-w, 0, d), at(-w, h, d), at(-w, h, -2), sideWall);
    if (dice.chance(0.8)) m.quad(at(w, 0, d), at(w, 0, -2), at(w, h, -2), at(w, h, d), sideWall);
    if (dice.chance(0.5)) m.quad(at(-w, h, -2), at(w, h, -2), at(w, h, d), at(-w, h, d), use(randomMaterial(dice, 3, [0.6, 0.6, 0.58])));
    for (let k = dice.whole(0, 4); k > 0; k--) {
      const [x, y] = [dice.between(-w, w) * 0.8, dice.between(0.6, h - 0.6)];
      const [pw, ph] = [dice.between(0.2, 0.8), dice.between(0.2, 0.7)];
      const lit = dice.chance(0.35);
      m.quad(
        at(x - pw, y - ph, d - 0.02),
        at(x + pw, y - ph, d - 0.02),
        at(x + pw, y + ph, d - 0.02),
        at(x - pw, y + ph, d - 0.02),
        lit ? use(glowing([level * 1.5, level * 1.6, level * 1.7])) : use(randomMaterial(dice, 0.4)),
      );
    }
    if (kind === 'corridor') {
      const step = dice.between(1.5, 5);
      const [pillar, door] = [use(randomMaterial(dice, 1)), use(randomMaterial(dice, 1))];
      const pillars = dice.chance(0.5);
      for (let z = dice.between(0.5, 3); z < d; z += step)
        for (const s of [-1, 1])
          if (pillars) m.box(at(s * w * 0.86, 0, z), [w * 0.14, h, w * 0.2], pillar, turn);
          else m.box(at(s * w, 0, z), [0.06, 2.05, 0.9], door, turn);
      for (let z = 2; z < d; z += step) lamps.push({ position: at(0, h - 0.15, z), radius: 0.12, radiance: [30, 28, 24] });
      lamps.splice(4);
    }
    for (let k = dice.whole(1, 3); k > 0; k--) {
      const p: Vec3 = at(dice.between(-w, w) * 0.8, dice.between(1, h - 0.2), dice.between(-1.5, d * 0.8));
      const gain = dice.scaled(6, 40);
      lamps.push({ position: p, radius: 0.15, radiance: [gain * 3, gain * dice.between(2, 3), gain * dice.between(1, 3)] });
    }
    for (let k = kind === 'portrait' ? dice.whole(0, 4) : dice.whole(2, 9); k > 0; k--)
      putThing(dice, m, use, at(dice.between(-w, w) * 0.85, 0, dice.between(kind === 'portrait' ? 2 : 1, d * 0.95)), dice.scaled(0.3, 2.1));
  } else {
    if (kind === 'street') {
      const wide = dice.between(2, 8);
      for (const s of dice.chance(0.7) ? [-1, 1] : [side])
        for (let z = dice.between(0, 6); z < 90;) {
          const length = dice.between(4, 16);
          m.box([s * (wide + 4 + dice.between(0, 1)), 0, z + length / 2], [8, dice.between(3, 14), length], use(randomMaterial(dice, 3)));
          const glass = use(randomMaterial(dice, 2, [0.03, 0.035, 0.04]));
          if (dice.chance(0.7))
            for (let k = 0; k < length / 2.5; k++)
              for (let f = 0; f < 3; f++) m.box([s * (wide + 0.05), 1 + 3 * f, z + 1 + k * 2.5], [0.3, 1.4, 1], glass);
          z += length + (dice.chance(0.2) ? dice.between(2, 8) : 0);
        }
    }
    if (kind !== 'portrait' || dice.chance(0.5))
      for (let ridge = dice.whole(0, 3); ridge > 0; ridge--) {
        const [z, h, q] = [dice.scaled(150, 2500), dice.scaled(12, 260), dice.between(0, 99)];
        m.surface(
          90,
          4,
          (u, v) => {
            const x = (2 * u - 1) * (z * 1.3 + 100);
            return [x, -2 + v * h * (0.2 + 0.9 * ridged((x / z) * 2.2, q, 0, 4)), z + v * z * 0.15];
          },
          use(randomMaterial(dice, 60, [dice.between(0.03, 0.25), dice.between(0.05, 0.25), dice.between(0.02, 0.15)])),
        );
      }
    for (let k = kind === 'hills' || kind === 'land' ? dice.whole(0, 8) : dice.whole(3, 16); k > 0; k--) {
      const z = dice.scaled(kind === 'portrait' ? 3 : 2.2, 120);
      const x = dice.between(-0.8, 0.8) * z;
      putThing(dice, m, use, [x, heightAt(x, z), z], dice.chance(0.25) ? dice.scaled(2, 12) : dice.scaled(0.3, 3));
    }
    if (dice.chance(0.35) && kind !== 'hills') {
      const grass = use(randomMaterial(dice, 0.2, [0.1, dice.between(0.1, 0.25), 0.04]));
      for (let k = 0; k < 500; k++) {
        const z = dice.scaled(1.2, 14);
        const x = dice.between(-0.9, 0.9) * z;
        m.blade([x, heightAt(x, z), z], dice.between(0.15, 0.6), 0.02, [dice.between(-0.4, 0.4), 0, dice.between(-0.4, 0.4)], grass);
      }
    }
  }
  if (kind === 'creature') {
    const z = dice.scaled(0.7, 2.5);
    putCreature(dice, m, use, randomMaterial, [dice.between(-0.2, 0.2) * z, eye - dice.between(-0.05, 0.25) * z, z], z * dice.scaled(0.2, 0.6));
    // often among leaves, behind it and here and there before it
    if (dice.chance(0.4))
      for (let k = dice.whole(6, 24); k > 0; k--) {
        const d = z * (dice.chance(0.85) ? dice.scaled(1.2, 5) : dice.between(0.75, 0.95));
        putLeaves(dice, m, use, randomMaterial, [dice.between(-0.6, 0.6) * d, eye - dice.between(0.1, 0.7) * d, d], d * dice.scaled(0.25, 1));
      }
  }
  if (kind === 'subject') {
    // one thing off the ground that fills much of the view, perched or held, before whatever lies behind
    const z = dice.scaled(0.7, 4);
    const size = z * dice.scaled(0.25, 0.9);
    const at: Vec3 = [dice.between(-0.15, 0.15) * z, eye - size * dice.between(0.3, 0.7), z];
    if (dice.chance(0.35)) putCreature(dice, m, use, randomMaterial, [at[0], eye, z], size * 0.6);
    else if (dice.chance(0.5)) putRichThing(dice, m, use, randomMaterial, at, size);
    else putThing(dice, m, use, at, size);
    if (dice.chance(0.5)) {
      const rise = dice.between(-0.4, 0.4) * z;
      m.tube(
        [
          [at[0] - 1.2 * z, at[1] - rise, z * dice.between(0.9, 1.1)],
          [at[0], at[1], z],
          [at[0] + 1.2 * z, at[1] + rise, z * dice.between(0.9, 1.2)],
        ],
        size * dice.between(0.03, 0.15),
        use(randomMaterial(dice, 0.4)),
        8,
      );
    }
    if (dice.chance(0.6))
      for (let k = dice.whole(5, 30); k > 0; k--) {
        const d = z * dice.scaled(1.3, 8);
        putLeaves(dice, m, use, randomMaterial, [dice.between(-0.7, 0.7) * d, eye + dice.between(-0.8, 0.3) * d, d], d * dice.scaled(0.2, 0.9));
      }
  }
  if (kind === 'facade') putFacade(dice, m, use, randomMaterial, dice.scaled(3, 18));
  if (kind === 'clutter')
    for (let k = dice.whole(10, 26); k > 0; k--) {
      const z = dice.scaled(1, 5);
      putThing(dice, m, use, [dice.between(-0.7, 0.7) * z, 0, z], dice.scaled(0.2, 1.4));
    }
  if (kind === 'tabletop') {
    const [z, y] = [dice.between(0.35, 0.8), dice.between(0.55, 0.85)];
    const [w, d] = [dice.between(0.5, 1.4), dice.between(0.5, 1)];
    m.box(
      [dice.between(-0.3, 0.3), y - 0.05, z + d * 0.4],
      [w * 2, 0.05, d * 1.6],
      use(randomMaterial(dice, dice.scaled(0.15, 1))),
      dice.between(-0.3, 0.3),
    );
    for (let k = dice.whole(2, 9); k > 0; k--)
      putThing(dice, m, use, [dice.between(-w, w) * 0.6, y, z + dice.between(-0.2, d)], dice.scaled(0.04, 0.4));
  }
  if (kind === 'closeup') {
    // one thing, or a few, before a sheet that curves up behind them
    const [z, y, w] = [dice.between(0.7, 1.6), eye - dice.between(0.1, 0.5), dice.between(1, 3)];
    backdrop = dice.colour(0.05, 0.8);
    const bow = dice.between(0.2, 0.8);
    m.surface(
      2,
      14,
      (u, v) => {
        const a = Math.max(0, Math.min(Math.PI / 2, (v - 0.45) * 8));
        return [(2 * u - 1) * w, y + bow * (1 - Math.cos(a)) + Math.max(0, v - 0.65) * 5, z + bow * Math.sin(a) + Math.min(0, v - 0.45) * 3];
      },
      use(randomMaterial(dice, 2, backdrop)),
      true,
    );
    for (let k = dice.whole(1, 3); k > 0; k--) {
      const size = dice.scaled(0.15, 0.6);
      putThing(
        dice,
        m,
        dice.chance(0.3) ? () => use(randomMaterial(dice, size, backdrop)) : use,
        [dice.between(-0.3, 0.3), y, z + dice.between(-0.4, 0.1)],
        size,
      );
    }
    lamps.push({
      position: [side * dice.between(0.4, 1.6), y + dice.between(0.5, 1.6), z - dice.between(0.2, 1)],
      radius: 0.15,
      radiance: [40, 38, 34],
    });
  } else if (kind === 'group')
    for (let k = dice.whole(2, 5); k > 0; k--) {
      const z = dice.scaled(1, 5);
      putSitter(dice, m, use, [dice.between(-0.4, 0.4) * z, dice.between(1.35, 1.75), z]);
    }
  else if (kind === 'water') {
    // a quay, a jetty on posts or boats on flat water
    const wood = use(randomMaterial(dice, 1));
    if (dice.chance(0.6)) {
      const [x, high, end] = [dice.between(-2, 2), dice.between(0.2, eye * 0.7), dice.scaled(5, 40)];
      m.box([x, high - 0.08, end / 2 - 1], [dice.between(0.7, 2), 0.08, end], wood, dice.between(-0.4, 0.4));
      for (let z = 1; z < end; z += dice.between(1.5, 4))
        for (const s of [-1, 1])
          m.tube(
            [
              [x + s * 0.8, -0.3, z],
              [x + s * 0.8, high + dice.between(0, 0.8), z],
            ],
            0.08,
            wood,
            7,
          );
    }
    for (let k = dice.whole(1, 6); k > 0; k--) {
      const z = dice.scaled(4, 120);
      const [x, s] = [dice.between(-0.6, 0.6) * z, dice.scaled(0.7, 3)];
      m.box([x, 0, z], [s * 2.2, s * 0.4, s * 0.8], use(randomMaterial(dice, s)), dice.between(-1.5, 1.5));
      m.box([x, s * 0.4, z], [s * 0.8, s * 0.4, s * 0.5], use(randomMaterial(dice, s)), 0);
      if (dice.chance(0.6))
        m.tube(
          [
            [x, 0, z],
            [x, s * dice.between(1.5, 4), z],
          ],
          s * 0.03,
          wood,
          6,
        );
    }
  } else if (kind === 'wood') {
    const bark = use(randomMaterial(dice, 0.5, [dice.between(0.05, 0.3), dice.between(0.05, 0.25), dice.between(0.03, 0.2)]));
    for (let k = dice.whole(12, 60); k > 0; k--) {
      const z = dice.scaled(1.6, 40);
      const x = dice.between(-0.9, 0.9) * z;
      m.tube(
        [
          [x, heightAt(x, z) - 0.2, z],
          [x + dice.between(-0.4, 0.4), 9, z + dice.between(-0.3, 0.3)],
        ],
        (t) => mix(1, 0.5, t) * dice.between(0.06, 0.25),
        bark,
        8,
      );
    }
  } else if (kind === 'opening') {
    // seen through a doorway, a window or an arch close to the lens
    const z = dice.between(0.8, 2.5);
    const [left, right, low, high] = [
      -dice.between(0.3, 0.6) * z,
      dice.between(0.3, 0.6) * z,
      dice.chance(0.5) ? 0 : eye - dice.between(0.15, 0.4) * z,
      eye + dice.between(0.15, 0.45) * z,
    ];
    const wall = use(randomMaterial(dice, 1, dice.colour(0.03, 0.6)));
    m.box([left - 4, 0, z], [8, 6, 0.2], wall);
    m.box([right + 4, 0, z], [8, 6, 0.2], wall);
    m.box([(left + right) / 2, high, z], [right - left, 5, 0.2], wall);
    if (low > 0) m.box([(left + right) / 2, 0, z], [right - left, low, 0.2], wall);
    if (dice.chance(0.4)) m.box([(left + right) / 2, low, z], [0.06, high - low, 0.06], wall);
  }
  if (kind === 'portrait') putSitter(dice, m, use, [dice.between(-0.25, 0.25), eye + dice.between(-0.2, 0.1), dice.scaled(0.6, 2.4)], backdrop);
  // something large cut off by the border, close to the lens
  if (kind !== 'portrait' && dice.chance(0.35))
    putThing(dice, m, use, [side * dice.between(0.3, 1.1), Math.max(0, eye - dice.between(0.4, 1.4)), dice.between(1, 2)], dice.between(0.5, 1.8));
  if (night && !indoors)
    // lamps among the things: what they light stands out before the dark
    for (let k = dice.whole(2, 5); k > 0; k--) {
      const z = dice.scaled(1.5, 25);
      const gain = dice.scaled(0.2, 3) * (2 + z * z);
      lamps.push({
        position: [dice.between(-0.7, 0.7) * z, eye + dice.between(-0.2, 0.5) * z, z * dice.between(0.6, 1.1)],
        radius: 0.12,
        radiance: [gain * 3, gain * dice.between(2, 3), gain * dice.between(1, 3)],
      });
    }
  const sunHeight = dice.between(0.15, 1);
  const sunny = !indoors && dice.chance(0.6);
  const sun = sunny
    ? {
        direction: normalize([dice.between(-1, 1), sunHeight, dice.between(-1, 0.8)]),
        irradiance: three((k) => ([5, 4.6, 3.9] as const)[k] * level * dice.between(0.5, 1.1)),
        angularRadius: 0.02,
      }
    : undefined;
  const haze =
    !indoors && dice.chance(0.65) ? { visibility: dice.scaled(60, 6000), colour: (d: Vec3): Vec3 => sky(normalize([d[0], 0.02, d[2]])) } : undefined;
  const roll = dice.between(-0.02, 0.02);
  return {
    name: `random${seed}`,
    camera: { position: [0, eye + (indoors ? 0 : heightAt(0, 0)), 0], target: [roll, eye + Math.tan((pitch * Math.PI) / 180), 1], hfovDegrees: hfov },
    mesh: m.build(),
    materials,
    sky: indoors ? (): Vec3 => [0.12 * level, 0.12 * level, 0.13 * level] : sky,
    ...(sun ? { sun } : {}),
    lamps,
    sparks: [],
    sparkMaterials: [],
    ...(haze ? { haze } : {}),
    exposure: 1,
    bounces: 1,
    ends: { near: 0.5, far: Infinity },
  };
}
