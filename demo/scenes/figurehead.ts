import { fractal, mix, noise, smoothstep } from '../tracer/noise';
import { add, hanging, MeshBuilder, normalize, scale, type Vec3 } from '../tracer/mesh';
import { seededRandom } from '../../src/core/random';
import { glowing, plain, rgb, type Lamp, type Material, type Scene } from '../tracer/scene';

/** A bump on the head: centre and widths in degrees (across, up), height as a share of the radius. */
type Bump = readonly [across: number, up: number, width: number, tall: number, height: number];

/** Carved features by direction from the middle of the skull; across 0 faces forward, up is positive. */
const features: Bump[] = [
  [0, 8, 30, 7, 0.035], // brow
  [-19, -1, 10, 6.5, -0.12], // sockets
  [19, -1, 10, 6.5, -0.12],
  [-19, -2, 6, 3.4, 0.075], // eyes
  [19, -2, 6, 3.4, 0.075],
  [-17, 5.5, 11, 1.8, 0.03], // lids
  [17, 5.5, 11, 1.8, 0.03],
  [0, -3, 4.6, 10, 0.1], // bridge of the nose
  [0, -14, 6.4, 6, 0.2], // tip
  [-7.5, -15.5, 3.8, 4, 0.07], // wings
  [7.5, -15.5, 3.8, 4, 0.07],
  [-27, -13, 13, 10, 0.055], // cheekbones
  [27, -13, 13, 10, 0.055],
  [0, -27.5, 10, 2.5, 0.085], // upper lip
  [0, -32.5, 8.5, 2.4, 0.09], // lower lip
  [0, -30, 9, 1, -0.07], // mouth
  [0, -22.5, 2.2, 4, -0.03], // groove under the nose
  [0, -38, 8, 3, -0.045],
  [0, -46, 14, 9, 0.15], // chin
  [0, -40, 40, 16, 0.04], // jaw
];

/** Surface of the carved head: across −180…180°, up −90…90°; unit about 0.12 m to the cheek. */
function headRadius(across: number, up: number): number {
  const a = (across * Math.PI) / 180;
  const e = (up * Math.PI) / 180;
  const x = Math.cos(e) * Math.sin(a);
  const y = Math.sin(e);
  const z = Math.cos(e) * Math.cos(a);
  let r = 1 / Math.hypot(x / 0.82, y / (y > 0 ? 1.02 : 1.34), z / (z > 0 ? 0.98 : 1.14));
  for (const [fa, fu, w, t, h] of features) {
    const d = ((across - fa) / w) ** 2 + ((up - fu) / t) ** 2;
    if (d < 9) r += 1.35 * h * Math.exp(-d);
  }
  // combed-back hair: everything above the hairline and behind the ears, carved into strands
  const hairline = 40 - 0.012 * across * across * (Math.abs(across) < 60 ? 1 : 0);
  const hair = Math.max(
    smoothstep(hairline - 2, hairline + 3, up) * smoothstep(200, 60, Math.abs(across)),
    smoothstep(74, 82, Math.abs(across)) * smoothstep(-52, -40, up),
  );
  const strand = Math.sin((across * 0.34 + 9 * noise(across * 0.02, up * 0.03, 2)) * (Math.abs(across) > 60 ? 0.7 : 1) + up * 0.09);
  r += hair * (0.085 + 0.03 * strand);
  return r;
}

const carvedWood: Material = ({ p }, s) => {
  const ring = Math.hypot(p[0] * 1.3 + 0.4, (p[2] - 2.3) * 1.3 + 0.2) * 70 + 2.5 * fractal(p[0] * 4, p[1] * 1.2, p[2] * 4, 3);
  const grain = 0.5 + 0.5 * Math.sin(ring * 2.2);
  const fine = fractal(p[0] * 160, p[1] * 14, p[2] * 160, 3);
  const worn = 0.45 * smoothstep(0.1, 0.6, fractal(p[0] * 5, p[1] * 3, p[2] * 5, 4));
  const check =
    smoothstep(0.02, 0, Math.abs(fractal(p[0] * 22, p[1] * 2.2, p[2] * 22, 2))) * smoothstep(0.1, 0.3, fractal(p[0] * 5, p[1] * 5, p[2] * 5 + 9, 2));
  const k = (0.72 + 0.28 * grain + 0.22 * fine) * (1 - 0.6 * check);
  rgb(s.albedo, mix(0.34, 0.5, worn) * k, mix(0.185, 0.36, worn) * k, mix(0.085, 0.24, worn) * k);
  s.roughness = mix(0.38, 0.7, worn);
  s.specular = 0.04;
  s.bump[0] = 0.16 * fine;
  s.bump[1] = -0.1 * check;
};

export function figurehead(): Scene {
  const m = new MeshBuilder();
  const random = seededRandom(31);
  const materials: Material[] = [];
  const use = (material: Material): number => materials.push(material) - 1;
  const oak = use(carvedWood);
  const paintRed = use(({ p }, s) => {
    const flake = smoothstep(0.12, 0.16, fractal(p[0] * 24, p[1] * 24, p[2] * 24, 4));
    rgb(s.albedo, mix(0.36, 0.3, flake), mix(0.05, 0.2, flake), mix(0.04, 0.12, flake), 0.9 + 0.2 * fractal(p[0] * 60, p[1] * 60, p[2] * 60, 2));
    s.roughness = mix(0.35, 0.8, flake);
    s.specular = 0.04;
  });
  const gilt = use(({ p }, s) => {
    const w = smoothstep(0, 0.4, fractal(p[0] * 40, p[1] * 40, p[2] * 40, 3));
    rgb(s.albedo, mix(0.9, 0.4, w), mix(0.64, 0.28, w), mix(0.25, 0.14, w));
    s.metal = true;
    s.roughness = 0.42;
  });
  const planks = use(({ p }, s) => {
    const id = Math.floor(p[0] / 0.19);
    const f = Math.abs(p[0] / 0.19 - id - 0.5);
    const grain = fractal(p[0] * 26 + id * 5, p[1] * 1.6 + id * 3, 0, 4);
    const tone = 0.8 + 0.3 * Math.sin(id * 17.3) * 0.5 + 0.5 * grain;
    const tar = smoothstep(-0.3, 0.4, fractal(p[0] * 0.9, p[1] * 0.8, 2, 3));
    const k = tone * mix(0.2, 1, smoothstep(0.5, 0.46, f));
    rgb(s.albedo, mix(0.12, 0.27, tar) * k, mix(0.15, 0.25, tar) * k, mix(0.16, 0.215, tar) * k);
    s.roughness = 0.85;
    s.bump[0] = 0.25 * grain;
  });
  const ground = use(({ p }, s) => {
    const stone = fractal(p[0] * 16, 0, p[2] * 16, 4);
    rgb(s.albedo, 0.3, 0.275, 0.235, 0.8 + 0.6 * stone);
    s.bump[0] = 0.35 * fractal(p[0] * 30, 4, p[2] * 30, 2);
    s.bump[2] = 0.35 * fractal(p[0] * 30, 9, p[2] * 30, 2);
  });
  const net = use(plain([0.075, 0.2, 0.19], 0.9, 0.02));
  const netRust = use(plain([0.33, 0.13, 0.06], 0.9, 0.02));
  const rope = use(({ u, v }, s) => {
    rgb(s.albedo, 0.56, 0.46, 0.32, 0.75 + 0.25 * Math.sin((u * 3 + v * 160) * 6.283));
  });
  const floats = [
    [0.72, 0.24, 0.05],
    [0.75, 0.6, 0.18],
    [0.1, 0.32, 0.36],
    [0.66, 0.62, 0.54],
  ].map((c) =>
    use(({ p }, s) => {
      const scuff = smoothstep(0.1, 0.4, fractal(p[0] * 18, p[1] * 18, p[2] * 18, 3));
      rgb(s.albedo, c[0]! * (1 - 0.35 * scuff), c[1]! * (1 - 0.35 * scuff), c[2]! * (1 - 0.35 * scuff));
      s.roughness = 0.28 + 0.4 * scuff;
      s.specular = 0.045;
    }),
  );
  const glass = use(plain([0.02, 0.09, 0.075], 0.04, 0.08));
  const iron = use(plain([0.06, 0.055, 0.05], 0.5, 0.05));
  const bulb = use(glowing([40, 23, 9]));
  const sparks: Lamp[] = [];
  const inside = use(glowing([0.75, 0.36, 0.12]));
  const cask = use(({ p }, s) => {
    rgb(s.albedo, 0.3, 0.19, 0.1, 0.75 + 0.5 * fractal(p[0] * 30, p[1] * 2, p[2] * 30, 3));
    s.roughness = 0.6;
    s.specular = 0.03;
  });

  // the bust, turned a little away and looking up
  const centre: Vec3 = [-0.32, 1.56, 2.3];
  const size = 0.235;
  const yaw = 0.52;
  const pitch = 0.1;
  const placeHead = (x: number, y: number, z: number): Vec3 => {
    // local forward is towards the camera (−z)
    const y1 = y * Math.cos(pitch) + z * Math.sin(pitch);
    const z1 = -y * Math.sin(pitch) + z * Math.cos(pitch);
    return add(centre, scale([x * Math.cos(yaw) + z1 * Math.sin(yaw), y1, x * Math.sin(yaw) - z1 * Math.cos(yaw)], size));
  };
  m.surface(
    420,
    300,
    (u, v) => {
      const across = 180 - 360 * u;
      const up = 90 - 180 * v;
      const r = headRadius(across, up);
      const a = (across * Math.PI) / 180;
      const e = (up * Math.PI) / 180;
      return placeHead(r * Math.cos(e) * Math.sin(a), r * Math.sin(e), r * Math.cos(e) * Math.cos(a));
    },
    oak,
    true,
  );
  // ears
  for (const side of [-1, 1])
    m.surface(
      24,
      16,
      (u, v) => {
        const a = u * 2 * Math.PI;
        const r = 0.2 * Math.sin(v * Math.PI * 0.5);
        const rim = 0.05 * Math.sin(v * Math.PI) + 0.02;
        return placeHead(side * (0.8 + rim), -0.08 + 1.25 * r * Math.cos(a), -0.05 + 0.75 * r * Math.sin(a));
      },
      oak,
      true,
    );
  // neck, shoulders and drapery flow down into the stem
  m.surface(
    160,
    120,
    (u, v) => {
      const a = u * 2 * Math.PI;
      const y = -0.62 - 2.75 * v;
      const shoulder = Math.exp(-(((v - 0.42) / 0.2) ** 2));
      const neck = mix(0.5, 0.55, v);
      const bust = Math.exp(-(((v - 0.58) / 0.16) ** 2)) * Math.max(0, Math.cos(a)) * 0.34;
      const fold = smoothstep(0.3, 0.6, v) * 0.045 * Math.sin(a * 11 + 6 * v + 2.2 * noise(Math.cos(a) * 2, v * 3, Math.sin(a) * 2));
      const taper = 1 - 0.35 * smoothstep(0.7, 1, v);
      const rx = (neck + 0.95 * shoulder * 0.85 + 0.28 * smoothstep(0.3, 0.55, v)) * taper + fold;
      const rz = (neck * 1.0 + 0.28 * shoulder + 0.12 * smoothstep(0.3, 0.6, v)) * taper + bust + fold;
      return placeHead(rx * Math.sin(a), y, rz * Math.cos(a) - 0.12 + 0.1 * v);
    },
    oak,
    true,
  );
  // a painted and gilt collar
  for (const [k, material] of [
    [0, gilt],
    [1, paintRed],
    [2, gilt],
  ] as const)
    m.tube(
      Array.from({ length: 65 }, (_, i): Vec3 => {
        const a = (i / 64) * 2 * Math.PI;
        const spread = 0.66 + 0.1 * k;
        return placeHead(spread * Math.sin(a), -1.0 - 0.11 * k - 0.1 * Math.cos(a), spread * 0.9 * Math.cos(a) - 0.04);
      }),
      k === 1 ? 0.019 : 0.009,
      material,
      12,
    );
  for (let i = 0; i < 18; i++) {
    const a = -1.5 + (i / 17) * 3;
    m.sphere(placeHead(0.9 * Math.sin(a), -1.34 - 0.12 * Math.cos(a), 0.86 * Math.cos(a)), 0.0135, gilt, 10);
  }
  // stand
  m.box([-0.3, 0, 2.36], [0.62, 0.1, 0.6], oak, 0.3);
  m.box([-0.3, 0.1, 2.36], [0.5, 0.62, 0.44], paintRed, 0.3);
  m.box([-0.3, 0.7, 2.36], [0.6, 0.05, 0.54], oak, 0.3);

  // net store: plank wall with a door and a lit window
  m.quad([-8, 0, 6.6], [1.35, 0, 6.6], [1.35, 4.5, 6.6], [-8, 4.5, 6.6], planks);
  m.quad([2.65, 0, 6.6], [9, 0, 6.6], [9, 4.5, 6.6], [2.65, 4.5, 6.6], planks);
  m.quad([1.35, 2.25, 6.6], [2.65, 2.25, 6.6], [2.65, 4.5, 6.6], [1.35, 4.5, 6.6], planks);
  m.quad([1, 0, 8.2], [3, 0, 8.2], [3, 2.5, 8.2], [1, 2.5, 8.2], inside);
  for (const x of [1.3, 2.7]) m.box([x, 0, 6.56], [0.12, 2.3, 0.14], oak);
  m.box([2, 2.22, 6.56], [1.52, 0.12, 0.14], oak);
  m.surface(
    40,
    60,
    (u, v) => {
      const x = -9 + 18 * u;
      const z = -1 + 10 * v;
      return [x, 0.02 * fractal(x, 0, z, 3), z];
    },
    ground,
  );
  // a net draped over a pole
  const drape = (x0: number, x1: number, top: number, z: number, material: number, seed: number, drop: number): void => {
    m.tube(
      [
        [x0 - 0.2, top, z],
        [x1 + 0.2, top + 0.03, z],
      ],
      0.03,
      cask,
      8,
    );
    const at = (u: number, v: number): Vec3 => {
      const gather = 0.1 * Math.sin(u * 16 + seed) * (0.3 + v);
      const x = mix(x0, x1, u) + 0.08 * noise(u * 5, v * 3, seed);
      return [x, top - drop * v * (0.82 + 0.25 * Math.sin(u * 5 + seed)) - 0.06 * v, z - 0.06 - 0.14 * v + gather];
    };
    const nu = Math.round((x1 - x0) * 22);
    const nv = Math.round(drop * 20);
    for (let i = -nv; i <= nu; i++)
      for (const dir of [1, -1]) {
        const path: Vec3[] = [];
        for (let j = 0; j <= nv; j++) {
          const u = (dir > 0 ? i + j : i + nv - j) / nu;
          if (u < 0 || u > 1) continue;
          path.push(at(u, j / nv));
        }
        if (path.length > 1) m.tube(path, 0.0042, material, 4);
      }
    m.tube(
      Array.from({ length: 60 }, (_, i) => at(i / 59, 1)),
      0.012,
      rope,
      6,
    );
    for (let i = 0; i < 9; i++) {
      const p = at((i + 0.5) / 9, 0.98);
      m.sphere([p[0], p[1] - 0.02, p[2] - 0.03], 0.05, floats[(i + seed) % 4]!, 14, 0.75);
    }
  };
  drape(-4.6, -1.5, 2.75, 6.2, net, 1, 1.9);
  drape(-1.1, 1.05, 2.55, 5.9, netRust, 4, 1.4);
  drape(2.9, 5.6, 2.8, 6.1, net, 7, 2.1);
  // glass and painted floats hanging on lines
  for (let i = 0; i < 13; i++) {
    const x = 0.95 + 0.24 * i + 0.05 * Math.sin(i * 9);
    const z = 4.1 + 0.9 * Math.sin(i * 2.3);
    const y = 1.85 - 0.55 * ((i * 0.37) % 1);
    m.tube(
      [
        [x, 3.4, z],
        [x, y + 0.1, z],
      ],
      0.006,
      rope,
      5,
    );
    m.sphere([x, y, z], 0.085 + 0.05 * random(), i % 3 === 0 ? glass : floats[i % 4]!, 24);
  }
  // casks, crates, coils
  for (const [x, z, r] of [
    [1.35, 3.7, 0.3],
    [2.05, 4.4, 0.33],
    [-2.5, 4.9, 0.33],
  ] as const) {
    m.lathe(
      [x, 0, z],
      Array.from({ length: 21 }, (_, i): [number, number] => [r * (0.84 + 0.16 * Math.sin((i / 20) * Math.PI)), i * 0.042]).concat([[0, 0.84]]),
      cask,
      40,
    );
    for (const y of [0.1, 0.26, 0.58, 0.74])
      m.lathe(
        [x, y, z],
        [
          [r * (0.86 + 0.16 * Math.sin((y / 0.84) * Math.PI)), 0],
          [r * (0.86 + 0.16 * Math.sin((y / 0.84) * Math.PI)) + 0.004, 0.02],
          [r * (0.86 + 0.16 * Math.sin(((y + 0.04) / 0.84) * Math.PI)), 0.045],
        ],
        iron,
        40,
      );
  }
  for (let k = 0; k < 260; k++) {
    const a = k * 0.21;
    const layer = Math.floor(a / 6.283);
    if (k === 0)
      m.tube(
        Array.from({ length: 260 }, (_, i): Vec3 => {
          const b = i * 0.21;
          const l = Math.floor(b / 6.283);
          return [
            1.32 + (0.2 + 0.01 * Math.sin(l * 5)) * Math.cos(b),
            0.87 + 0.03 * l * 0.8 + 0.006 * Math.sin(b * 2),
            3.66 + (0.2 + 0.01 * Math.sin(l * 5)) * Math.sin(b),
          ];
        }),
        0.02,
        rope,
        8,
      );
    if (layer > 8) break;
  }
  for (const [x, y, z, t] of [
    [-1.75, 0, 3.9, 0.2],
    [-1.6, 0.36, 3.95, -0.15],
    [-2.2, 0, 3.6, 0.5],
  ] as const)
    for (let k = 0; k < 4; k++) m.box([x, y + k * 0.088, z], [0.66, 0.07, 0.44], cask, t);
  // foreground: a rope and a net corner hanging close to the lens
  m.tube(
    hanging([0.95, 2.4, 1.15], [0.52, 0.4, 1.02], 0.02, 60).map((p, i): Vec3 => [p[0] + 0.015 * Math.sin(i * 0.16), p[1], p[2]]),
    0.0135,
    rope,
    10,
  );
  m.sphere([0.6, 1.12, 1.03], 0.062, floats[0]!, 26, 0.85);
  m.sphere([0.655, 0.97, 1.04], 0.05, floats[1]!, 26, 0.85);

  const festoon = hanging([-4.5, 3.05, 5.2], [4.8, 2.85, 5.4], 0.42, 44);
  m.tube(festoon, 0.008, iron, 5);
  for (let i = 2; i < 44; i += 3) {
    const p = festoon[i]!;
    m.sphere([p[0], p[1] - 0.06, p[2]], 0.036, bulb, 10);
    sparks.push({ position: [p[0], p[1] - 0.06, p[2]], radius: 0.036, radiance: [40, 23, 9] });
  }
  return {
    name: 'figurehead',
    camera: { position: [0, 1.5, 0], target: [0.02, 1.42, 2.3], hfovDegrees: 50 },
    mesh: m.build(),
    materials,
    sky: (d) => {
      const h = Math.max(0, d[1]);
      return [mix(0.62, 0.2, h), mix(0.56, 0.31, h), mix(0.55, 0.52, h)];
    },
    sun: { direction: normalize([-0.78, 0.42, -0.46]), irradiance: [6.2, 4.3, 2.5], angularRadius: 0.012 },
    lamps: sparks,
    sparks,
    sparkMaterials: [bulb],
    exposure: 0.95,
    bounces: 2,
    ends: { near: 1, far: 8 },
  };
}
