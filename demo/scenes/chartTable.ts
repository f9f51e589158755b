import { fractal, mix, smoothstep } from '../tracer/noise';
import { hanging, MeshBuilder, type Vec3 } from '../tracer/mesh';
import { seededRandom } from '../../src/core/random';
import { glowing, plain, rgb, type Lamp, type Material, type Scene } from '../tracer/scene';

const TABLE = 0.78;

const wood =
  (tone: Vec3, along: 0 | 2): Material =>
  ({ p }, s) => {
    const across = along === 0 ? 2 : 0;
    const plank = Math.floor(p[across] / 0.14);
    const grain = fractal(p[along] * 2.2 + plank * 9, p[across] * 45, p[1] * 20 + plank * 3, 4);
    const shade = 0.8 + 0.35 * grain + 0.12 * Math.sin(plank * 12.9);
    const gap = smoothstep(0, 0.035, Math.abs(p[across] / 0.14 - plank - 0.5) * -1 + 0.5);
    rgb(s.albedo, tone[0], tone[1], tone[2], shade * mix(0.35, 1, gap));
    s.roughness = 0.42;
    s.specular = 0.035;
  };

const line = (value: number, width: number): number => 1 - smoothstep(width * 0.5, width, Math.abs(value - Math.round(value)));

/** A sea chart: land in buff, depth contours and shoal water tinted, a fine grid of meridians. */
const chart: Material = ({ p, u, v }, s) => {
  const x = u * 5;
  const y = v * 3.4;
  const h = fractal(x * 0.55 + 3.1, y * 0.55, 1.7, 5) + 0.34 * (x / 5 - 0.42);
  const land = smoothstep(0.098, 0.102, h);
  const shoal = smoothstep(-0.06, 0.02, h);
  const paper = 0.8 + 0.03 * fractal(p[0] * 30, p[2] * 30, 0, 3);
  const c: [number, number, number] = [
    mix(mix(paper, 0.52, shoal * 0.75), 0.69, land),
    mix(mix(paper * 0.97, 0.66, shoal * 0.6), 0.55, land),
    mix(mix(paper * 0.86, 0.72, shoal * 0.4), 0.29, land),
  ];
  const contour = Math.max(line(h * 14, 0.05) * 0.55, 1 - smoothstep(0.002, 0.005, Math.abs(h - 0.1)));
  const grid = Math.max(line(u * 14, 0.014), line(v * 10, 0.012)) * 0.45;
  const rose = Math.hypot(u * 1.45 - 0.42, v - 0.3);
  const ring = Math.max(1 - smoothstep(0.002, 0.004, Math.abs(rose - 0.13)), 1 - smoothstep(0.002, 0.004, Math.abs(rose - 0.11)));
  const angle = Math.atan2(v - 0.3, u * 1.45 - 0.42);
  const ticks = rose > 0.11 && rose < 0.13 ? line((angle / Math.PI) * 36, 0.12) : 0;
  const track = 1 - smoothstep(0.003, 0.006, Math.abs(v - 0.75 + 0.42 * u));
  const ink = Math.max(contour, grid, ring * 0.8, ticks * 0.8);
  for (let k = 0; k < 3; k++) c[k] = c[k]! * (1 - 0.72 * ink);
  rgb(s.albedo, mix(c[0], 0.55, track), mix(c[1], 0.1, track), mix(c[2], 0.16, track));
  s.roughness = 0.75;
  s.specular = 0.02;
};

const brushedBrass =
  (roughness: number): Material =>
  ({ p }, s) => {
    const tarnish = smoothstep(-0.1, 0.45, fractal(p[0] * 26, p[1] * 26, p[2] * 26, 4));
    rgb(s.albedo, mix(0.86, 0.5, tarnish), mix(0.62, 0.33, tarnish), mix(0.26, 0.16, tarnish));
    s.metal = true;
    s.roughness = roughness + 0.12 * tarnish;
  };

export function chartTable(): Scene {
  const m = new MeshBuilder();
  const random = seededRandom(11);
  const materials: Material[] = [];
  const use = (material: Material): number => materials.push(material) - 1;
  const table = use(wood([0.33, 0.17, 0.085], 0));
  const boards = use(wood([0.2, 0.125, 0.075], 2));
  const paper = use(chart);
  const brass = use(brushedBrass(0.3));
  const steel = use(plain([0.7, 0.72, 0.75], 0.25, 0.5, true));
  const wall = use(({ p }, s) => {
    const board = Math.abs(p[0] / 0.22 - Math.floor(p[0] / 0.22) - 0.5);
    const shade = (0.85 + 0.25 * fractal(p[0] * 3, p[1] * 0.7, p[2] * 3, 4)) * mix(0.5, 1, smoothstep(0.5, 0.47, board));
    rgb(s.albedo, 0.24, 0.33, 0.33, shade);
    s.roughness = 0.6;
    s.specular = 0.03;
  });
  const enamel = use(({ v, p }, s) => {
    const band = v > 0.02 && v < 0.1;
    const chip = smoothstep(0.3, 0.34, fractal(p[0] * 34, p[1] * 34, p[2] * 34, 3));
    if (band) rgb(s.albedo, 0.03, 0.06, 0.16);
    else rgb(s.albedo, mix(0.8, 0.06, chip), mix(0.79, 0.05, chip), mix(0.74, 0.05, chip));
    s.roughness = 0.2;
    s.specular = 0.05;
  });
  const coffee = use(plain([0.03, 0.015, 0.008], 0.05, 0.04));
  const rope = use(({ p, u, v }, s) => {
    const twist = Math.sin((u * 3 + v * 90) * 2 * Math.PI);
    rgb(s.albedo, 0.62, 0.5, 0.33, 0.8 + 0.2 * twist + 0.15 * fractal(p[0] * 200, p[1] * 200, p[2] * 200, 2));
    s.roughness = 0.9;
  });
  const frame = use(plain([0.5, 0.47, 0.4], 0.5, 0.04));
  const bulb = use(glowing([26, 14, 5.5]));
  const flame = use(glowing([78, 44, 17]));
  const shade = use(({ p }, s) => {
    rgb(s.albedo, 0.05, 0.2, 0.14, 1 + 0.2 * fractal(p[0] * 10, p[1] * 10, p[2] * 10, 2));
    s.roughness = 0.18;
    s.specular = 0.05;
  });
  const outside = use(({ p }, s) => {
    const t = smoothstep(0.7, 2.3, p[1]);
    const cloud = smoothstep(0, 0.6, fractal(p[0] * 1.2, p[1] * 4, 4, 4));
    rgb(s.emission, mix(1.1, 0.34, t) + 0.25 * cloud, mix(0.62, 0.46, t) + 0.1 * cloud, mix(0.5, 0.78, t) + 0.06 * cloud, 0.75);
  });
  const port = use(glowing([30, 7, 3]));
  const star = use(glowing([4, 22, 16]));
  const covers = [
    [0.3, 0.07, 0.055],
    [0.06, 0.13, 0.2],
    [0.45, 0.33, 0.14],
    [0.1, 0.17, 0.1],
    [0.38, 0.36, 0.31],
  ].map((c) =>
    use(({ p }, s) => {
      rgb(s.albedo, c[0]!, c[1]!, c[2]!, 0.85 + 0.3 * fractal(p[0] * 40, p[1] * 40, p[2] * 40, 3));
      s.roughness = 0.65;
      s.specular = 0.03;
    }),
  );
  const pages = use(({ p }, s) => {
    rgb(s.albedo, 0.72, 0.66, 0.5, 0.85 + 0.15 * Math.sin(p[1] * 2600));
  });
  const fern = use(({ v }, s) => {
    rgb(s.albedo, mix(0.09, 0.16, v), mix(0.2, 0.3, v), mix(0.07, 0.09, v));
    s.translucency = 0.4;
    s.roughness = 0.5;
    s.specular = 0.03;
  });
  const clay = use(plain([0.42, 0.2, 0.12], 0.8, 0.02));

  // the room
  m.box([0, TABLE - 0.045, 1.05], [2.6, 0.045, 1.55], table);
  m.quad([-4, 0, -2], [4, 0, -2], [4, 0, 5], [-4, 0, 5], boards);
  const wx0 = -0.35;
  const wx1 = 1.35;
  const wy0 = 1.0;
  const wy1 = 2.25;
  m.quad([-4, 0, 4.6], [wx0, 0, 4.6], [wx0, 3.2, 4.6], [-4, 3.2, 4.6], wall);
  m.quad([wx1, 0, 4.6], [4, 0, 4.6], [4, 3.2, 4.6], [wx1, 3.2, 4.6], wall);
  m.quad([wx0, 0, 4.6], [wx1, 0, 4.6], [wx1, wy0, 4.6], [wx0, wy0, 4.6], wall);
  m.quad([wx0, wy1, 4.6], [wx1, wy1, 4.6], [wx1, 3.2, 4.6], [wx0, 3.2, 4.6], wall);
  m.quad([-2.3, 0, -2], [-2.3, 0, 5], [-2.3, 3.2, 5], [-2.3, 3.2, -2], wall);
  m.quad([3, 0, -2], [3, 0, 5], [3, 3.2, 5], [3, 3.2, -2], wall);
  m.quad([-4, 3.2, -2], [4, 3.2, -2], [4, 3.2, 5], [-4, 3.2, 5], boards);
  m.quad([-1.4, 0.4, 5], [2.4, 0.4, 5], [2.4, 2.9, 5], [-1.4, 2.9, 5], outside);
  m.box([0.5, wy0 - 0.03, 4.5], [1.86, 0.05, 0.24], frame);
  for (const x of [wx0, wx0 + 0.57, wx0 + 1.13, wx1]) m.box([x, wy0, 4.58], [0.045, wy1 - wy0, 0.06], frame);
  for (const y of [wy0 + 0.62, wy1 - 0.03]) m.box([0.5, y, 4.58], [1.7, 0.045, 0.06], frame);
  const lamps: Lamp[] = [];
  const sparks: Lamp[] = [];
  const lamp = (position: Vec3, radius: number, material: number, radiance: Vec3): void => {
    m.sphere(position, radius, material, 8);
    lamps.push({ position, radius, radiance });
    sparks.push({ position, radius, radiance });
  };
  for (let i = 0; i < 7; i++) {
    const position: Vec3 = [-0.2 + i * 0.24 + 0.05 * Math.sin(i * 7), 1.19 + 0.03 * Math.sin(i * 5), 4.93];
    const radiance: Vec3 = i % 3 === 1 ? [30, 7, 3] : i % 3 === 2 ? [4, 22, 16] : [26, 14, 5.5];
    m.sphere(position, 0.008, i % 3 === 1 ? port : i % 3 === 2 ? star : bulb, 6);
    sparks.push({ position, radius: 0.008, radiance });
  }
  // a string of small bulbs across the wall
  const wire = hanging([-2.2, 1.62, 3.3], [2.3, 1.66, 3.5], 0.15, 40);
  m.tube(wire, 0.0035, covers[1]!, 5);
  for (let i = 2; i < 40; i += 4) lamp([wire[i]![0], wire[i]![1] - 0.03, wire[i]![2]], 0.017, bulb, [26, 14, 5.5]);
  // shelf with books and a fern
  m.box([-1.5, 1.33, 3.7], [1.5, 0.035, 0.3], table);
  let bx = -2.15;
  while (bx < -1.15) {
    const w = 0.03 + 0.035 * random();
    m.box([bx + w / 2, 1.365, 3.68], [w * 0.94, 0.2 + 0.09 * random(), 0.2], covers[Math.floor(random() * 5)]!, 0.02 * random());
    bx += w;
  }
  const pot: Vec3 = [-0.95, 1.365, 3.68];
  m.lathe(
    pot,
    [
      [0, 0],
      [0.055, 0],
      [0.08, 0.14],
      [0.086, 0.15],
      [0.07, 0.15],
      [0.065, 0.12],
      [0, 0.12],
    ],
    clay,
    24,
  );
  for (let i = 0; i < 140; i++) {
    const a = random() * 6.283;
    const r = 0.3 + 0.7 * random();
    m.blade(
      [pot[0] + 0.03 * Math.cos(a), pot[1] + 0.12, pot[2] + 0.03 * Math.sin(a)],
      0.16 + 0.18 * random(),
      0.022,
      [r * Math.cos(a), 0, r * Math.sin(a)],
      fern,
    );
  }
  // chart with a curling edge
  m.surface(
    60,
    40,
    (u, v) => {
      const x = -0.62 + 1.32 * u;
      const z = 0.42 + 0.92 * v;
      const curl = 0.09 * Math.max(0, (u - 0.88) / 0.12) ** 2 + 0.05 * Math.max(0, (0.1 - v) / 0.1) ** 2 * smoothstep(0.4, 0, u);
      return [x - 0.02 * curl, TABLE + 0.003 + curl + 0.002 * fractal(x * 4, 0, z * 4, 2), z];
    },
    paper,
  );
  // dividers, near
  const hinge: Vec3 = [-0.115, TABLE + 0.165, 0.62];
  for (const [tip, side] of [
    [[-0.2, TABLE + 0.004, 0.66], -1],
    [[-0.015, TABLE + 0.004, 0.585], 1],
  ] as [Vec3, number][]) {
    const start: Vec3 = [hinge[0] + side * 0.006, hinge[1], hinge[2]];
    const middle: Vec3 = [mix(start[0], tip[0], 0.62), mix(start[1], tip[1], 0.62), mix(start[2], tip[2], 0.62)];
    m.tube([start, middle], (t) => mix(0.0075, 0.0048, t), brass, 16);
    m.tube([middle, tip], (t) => mix(0.0036, 0.0004, t), steel, 12);
    m.sphere(middle, 0.0058, brass, 10);
  }
  m.sphere(hinge, 0.0135, brass, 18);
  m.tube(
    [
      [hinge[0], hinge[1] + 0.012, hinge[2]],
      [hinge[0], hinge[1] + 0.037, hinge[2]],
    ],
    0.0052,
    brass,
    14,
  );
  m.sphere([hinge[0], hinge[1] + 0.042, hinge[2]], 0.0085, brass, 14);
  // a brass rule and weights
  m.box([0.2, TABLE + 0.006, 0.66], [0.42, 0.006, 0.035], brass, 0.42);
  m.lathe(
    [0.47, TABLE + 0.006, 0.98],
    [
      [0, 0],
      [0.035, 0],
      [0.038, 0.006],
      [0.038, 0.028],
      [0.03, 0.034],
      [0.011, 0.036],
      [0.01, 0.05],
      [0.016, 0.058],
      [0.016, 0.066],
      [0, 0.072],
    ],
    brass,
    36,
  );
  // mug
  const mug: Vec3 = [0.335, TABLE, 0.8];
  m.lathe(
    mug,
    [
      [0.034, 0.001],
      [0.041, 0.004],
      [0.042, 0.02],
      [0.042, 0.086],
      [0.0435, 0.09],
      [0.041, 0.091],
      [0.0395, 0.086],
      [0.0395, 0.03],
      [0, 0.03],
    ].reverse() as [number, number][],
    enamel,
    48,
  );
  m.lathe(
    mug,
    [
      [0.0396, 0.072],
      [0, 0.072],
    ],
    coffee,
    32,
  );
  m.tube(
    Array.from({ length: 17 }, (_, i): Vec3 => {
      const a = (i / 16) * Math.PI;
      return [mug[0] + 0.041 + 0.027 * Math.sin(a), mug[1] + 0.047 + 0.028 * Math.cos(a), mug[2] - 0.004];
    }),
    0.0048,
    enamel,
    10,
  );
  // coil of rope, near left
  m.tube(
    Array.from({ length: 500 }, (_, i): Vec3 => {
      const a = i * 0.11;
      const layer = Math.floor(a / 6.283);
      const r = 0.075 + 0.008 * Math.sin(layer * 3) + 0.004 * Math.sin(a * 2.7);
      return [-0.43 + r * Math.cos(a), TABLE + 0.012 + 0.0135 * Math.min(layer, 6) * 0.8 + 0.003 * Math.sin(a * 1.3), 0.86 + r * Math.sin(a)];
    }),
    0.0095,
    rope,
    10,
  );
  m.tube(
    hanging([-0.36, TABLE + 0.02, 0.84], [-0.24, TABLE + 0.012, 0.5], -0.004, 30).map((p, i): Vec3 => [p[0] + 0.02 * Math.sin(i * 0.3), p[1], p[2]]),
    0.0095,
    rope,
    10,
  );
  // lamp with a green shade
  const lampAt: Vec3 = [-0.13, TABLE, 1.28];
  m.lathe(
    lampAt,
    [
      [0, 0],
      [0.075, 0],
      [0.08, 0.01],
      [0.06, 0.022],
      [0.02, 0.04],
      [0.013, 0.08],
      [0.012, 0.2],
      [0.02, 0.215],
      [0.034, 0.23],
      [0.036, 0.26],
      [0.02, 0.275],
      [0.014, 0.29],
      [0, 0.29],
    ],
    brass,
    40,
  );
  m.lathe(
    lampAt,
    [
      [0.13, 0.31],
      [0.125, 0.335],
      [0.1, 0.385],
      [0.055, 0.42],
      [0.025, 0.425],
      [0.025, 0.424],
      [0.054, 0.417],
      [0.098, 0.381],
      [0.122, 0.333],
      [0.128, 0.31],
    ],
    shade,
    48,
  );
  lamp([lampAt[0], lampAt[1] + 0.325, lampAt[2]], 0.03, flame, [78, 44, 17]);
  // books at the back of the table
  let top = TABLE;
  for (let i = 0; i < 4; i++) {
    const h = 0.028 + 0.02 * random();
    const turn = 0.25 * (random() - 0.5);
    m.box([0.62, top, 1.5], [0.26 - 0.02 * i, h, 0.2], covers[i]!, turn);
    m.box([0.62 + 0.004, top + 0.004, 1.494], [0.258 - 0.02 * i, h - 0.008, 0.196], pages, turn);
    top += h + 0.001;
  }
  m.sphere(
    [0.6, top + 0.052, 1.5],
    0.05,
    use(({ p }, s) => {
      const land = smoothstep(0.05, 0.08, fractal(p[0] * 20, p[1] * 20, p[2] * 20, 4));
      rgb(s.albedo, mix(0.14, 0.55, land), mix(0.24, 0.44, land), mix(0.3, 0.24, land));
      s.roughness = 0.15;
      s.specular = 0.05;
    }),
    28,
  );
  // a chair back before the window
  for (const x of [0.95, 1.3])
    m.tube(
      [
        [x, 0, 2.5],
        [x + 0.02, 1.22, 2.62],
      ],
      0.022,
      table,
      12,
    );
  for (const y of [0.88, 1.02, 1.16]) m.box([1.13, y, 2.58], [0.35, 0.06, 0.02], table);

  return {
    name: 'chartTable',
    camera: { position: [0.02, 1.1, 0.02], target: [0.06, 0.93, 1.05], hfovDegrees: 58 },
    mesh: m.build(),
    materials,
    sky: () => [0.12, 0.14, 0.2],
    lamps: [...lamps, { position: [0.5, 1.65, 4.75], radius: 0.5, radiance: [1.6, 1.5, 1.7] }],
    sparks,
    sparkMaterials: [bulb, flame, port, star],
    exposure: 2.3,
    bounces: 3,
    ends: { near: 0.4, far: 5 },
  };
}
