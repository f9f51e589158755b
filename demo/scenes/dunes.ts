import { fractal, mix, noise, ridged, smoothstep } from '../tracer/noise';
import { hanging, MeshBuilder, normalize, type Vec3 } from '../tracer/mesh';
import { seededRandom } from '../../src/core/random';
import { plain, rgb, type Material, type Scene } from '../tracer/scene';

const sunDirection = normalize([0.82, 0.3, 0.42]);

const sky = (d: Vec3): Vec3 => {
  const h = Math.max(0, d[1]);
  const towards = Math.max(0, d[0] * sunDirection[0] + d[1] * sunDirection[1] + d[2] * sunDirection[2]);
  const glow = towards ** 6 * 0.5 + towards ** 40 * 0.7;
  const base = Math.exp(-h * 4.5);
  const cloud = smoothstep(0.06, 0.5, fractal((d[0] * 2.2) / (h + 0.22), 5, (d[2] * 2.2) / (h + 0.22), 5)) * smoothstep(0, 0.14, h) * 0.55;
  return [
    mix(mix(0.15, 0.74, base), 0.86, cloud) + 0.75 * glow,
    mix(mix(0.3, 0.68, base), 0.8, cloud) + 0.5 * glow,
    mix(mix(0.62, 0.66, base), 0.78, cloud) + 0.26 * glow,
  ];
};

/** Height of the land, metres: dunes near, falling to the beach; the sea is at 0. */
function height(x: number, z: number): number {
  const back = 1 - smoothstep(60, 190, z + 0.12 * x);
  const open = 1 - 0.75 * Math.exp(-(((x - 8 - 0.16 * z) / (14 + 0.22 * z)) ** 2)) * smoothstep(12, 50, z);
  const dune = 4.4 * back * open * (0.35 + 0.75 * ridged(x * 0.016 + 0.3, z * 0.02, 3, 3) - 0.15);
  const path = Math.exp(-(((x - 0.55 - 2.6 * Math.sin(z * 0.07)) / 1.5) ** 2)) * 0.55 * smoothstep(40, 8, z);
  const near = 1.1 * smoothstep(14, 0, z) * smoothstep(-0.6, -4.5, x) + 0.8 * smoothstep(12, 0, z) * smoothstep(2, 6, x);
  const ripple = 0.018 * Math.sin(z * 9 + 3 * fractal(x * 0.6, 0, z * 0.6, 2)) * smoothstep(30, 5, z);
  return dune + near + 0.16 * fractal(x * 0.25, 1, z * 0.25, 4) - path + ripple + 0.4 - 1.6 * smoothstep(150, 260, z);
}

export function dunes(): Scene {
  const m = new MeshBuilder();
  const random = seededRandom(41);
  const materials: Material[] = [];
  const use = (material: Material): number => materials.push(material) - 1;
  const sand = use(({ p }, s) => {
    const t = fractal(p[0] * 0.5, 0, p[2] * 0.5, 4);
    const speck = noise(p[0] * 130, 3, p[2] * 130) * smoothstep(14, 2, p[2]);
    const turf = smoothstep(0.02, 0.22, fractal(p[0] * 0.11, 4, p[2] * 0.11, 4)) * smoothstep(14, 30, p[2]) * smoothstep(210, 150, p[2]);
    const wet = smoothstep(0.35, 0.02, p[1]) * smoothstep(150, 200, p[2]);
    const k = (0.92 + 0.22 * t + 0.12 * speck) * mix(1, 0.45, wet);
    rgb(s.albedo, mix(0.56, 0.2, turf) * k, mix(0.455, 0.225, turf) * k, mix(0.315, 0.09, turf) * k);
    s.roughness = mix(1, 0.2, wet);
    s.specular = 0.03 * wet;
    s.bump[0] = 0.1 * speck;
    s.bump[2] = 0.16 * Math.cos(p[2] * 22 + 4 * fractal(p[0] * 1.2, 0, p[2] * 1.2, 2)) * smoothstep(40, 3, p[2]) * (1 - turf);
  });
  const sea = use(({ p }, s) => {
    rgb(s.albedo, 0.035, 0.1, 0.13);
    const foam = smoothstep(
      0.35,
      0.5,
      fractal(p[0] * 0.02, 0, p[2] * 0.09, 4) +
        0.35 * smoothstep(262, 228, p[2]) +
        0.2 * Math.sin(p[2] * 0.16 + 2 * fractal(p[0] * 0.01, 1, 0, 2)) * smoothstep(420, 230, p[2]),
    );
    rgb(s.albedo, mix(0.035, 0.72, foam), mix(0.1, 0.74, foam), mix(0.13, 0.75, foam));
    s.specular = 0.04 * (1 - foam);
    s.roughness = 0.2;
    const fade = 30 / (30 + p[2]);
    s.bump[0] = 0.9 * fade * fractal(p[0] * 0.25, 0, p[2] * 0.6, 3);
    s.bump[2] = 1.5 * fade * fractal(p[0] * 0.25, 5, p[2] * 0.6, 3);
  });
  const grass = [
    [0.3, 0.34, 0.11],
    [0.42, 0.4, 0.17],
    [0.52, 0.44, 0.22],
    [0.22, 0.3, 0.12],
  ].map((c) =>
    use(({ v }, s) => {
      rgb(s.albedo, c[0]! * mix(0.5, 1.1, v), c[1]! * mix(0.5, 1.05, v), c[2]! * mix(0.55, 1, v));
      s.translucency = 0.45;
    }),
  );
  const post = use(({ p }, s) => {
    rgb(s.albedo, 0.36, 0.32, 0.27, 0.7 + 0.6 * fractal(p[0] * 40, p[1] * 3, p[2] * 40, 3));
  });
  const wire = use(plain([0.2, 0.17, 0.15], 0.6, 0.1));
  const land = use(({ p }, s) => {
    const t = fractal(p[0] * 0.006, p[1] * 0.02, p[2] * 0.006, 5);
    const cliff = smoothstep(0.2, 0.5, fractal(p[0] * 0.02, p[1] * 0.004, 3, 3) + 0.25 * smoothstep(60, 10, p[1]));
    rgb(s.albedo, mix(0.15, 0.27, cliff) + 0.07 * t, mix(0.19, 0.235, cliff) + 0.07 * t, mix(0.09, 0.17, cliff) + 0.03 * t);
  });
  const white = use(plain([0.8, 0.78, 0.73], 0.8, 0.02));
  const slate = use(plain([0.16, 0.17, 0.19], 0.7, 0.03));
  const redPaint = use(plain([0.6, 0.1, 0.06], 0.6, 0.03));

  // land in rings of growing coarseness
  for (const [z0, z1, nu, nv, half] of [
    [-3, 16, 260, 220, 16],
    [16, 80, 260, 200, 70],
    [80, 290, 220, 150, 260],
  ] as const)
    m.surface(
      nu,
      nv,
      (u, v) => {
        const z = mix(z0, z1, v);
        const x = (u * 2 - 1) * half;
        return [x, height(x, z), z];
      },
      sand,
    );
  m.quad([-6000, 0, 150], [6000, 0, 150], [9000, 0, 9000], [-9000, 0, 9000], sea);
  // marram: tufts dense on the crests beside the path
  const wind: Vec3 = [0.55, 0, 0.12];
  const tuft = (x: number, z: number, blades: number, tall: number): void => {
    const y = height(x, z) - 0.02;
    for (let i = 0; i < blades; i++) {
      const a = random() * 6.283;
      const r = 0.13 * Math.sqrt(random());
      const spread = 0.25 + 0.4 * random();
      m.blade(
        [x + r * Math.cos(a), y, z + r * Math.sin(a)],
        tall * (0.55 + 0.6 * random()),
        0.0065 + 0.003 * random() + z * 0.0005,
        [wind[0] * (0.5 + random() * 0.7) + spread * Math.cos(a), 0, wind[2] + spread * Math.sin(a)],
        grass[Math.floor(random() * 4)]!,
      );
    }
  };
  for (const [n, z0, z1, half, blades, tall] of [
    [230, 1.7, 7, 5.5, 34, 0.62],
    [420, 6, 18, 12, 22, 0.62],
    [750, 16, 60, 45, 11, 0.75],
  ] as const)
    for (let i = 0; i < n; i++) {
      const z = mix(z0, z1, random());
      const x = (random() * 2 - 1) * half;
      const path = Math.abs(x - 0.55 - 2.6 * Math.sin(z * 0.07));
      if (path < (z < 8 ? 1.25 : 1.5) || fractal(x * 0.3, 8, z * 0.3, 2) < -0.12) continue;
      tuft(x, z, blades, tall);
    }
  for (const [x, z] of [
    [-1.1, 2.1],
    [-1.45, 2.35],
    [-1.3, 2.8],
    [-0.95, 2.55],
    [1.95, 2.6],
    [2.2, 3],
  ] as const)
    tuft(x, z, 60, 0.8);
  // a leaning fence down to the beach
  let previous: Vec3 | null = null;
  for (let k = 0; k < 22; k++) {
    const z = 4.2 + k * 2.6 + 0.012 * k * k;
    const x = 2.35 + 2.6 * Math.sin(z * 0.07) - 0.03 * k + 0.18 * Math.sin(k * 5);
    const y = height(x, z);
    const head: Vec3 = [x + 0.1 * Math.sin(k * 3.1), y + 1.02, z + 0.05 * Math.sin(k)];
    m.tube([[x, y - 0.2, z], head], (t) => mix(0.048, 0.04, t), post, 9);
    m.sphere(head, 0.042, post, 8, 0.5);
    if (previous)
      for (const h of [0.1, 0.45])
        m.tube(hanging([previous[0], previous[1] - h, previous[2]], [head[0], head[1] - h, head[2]], 0.05, 10), 0.006, wire, 5);
    previous = head;
  }
  // a cottage behind the dunes, and the headland with its beacon
  const cx = -34;
  const cz = 92;
  const cy = height(cx, cz) - 0.4;
  m.box([cx, cy, cz], [11, 3.6, 6.5], white, 0.25);
  m.surface(
    2,
    2,
    (u, v) => {
      const a = (v * 2 - 1) * 3.9;
      const b = (u * 2 - 1) * 5.8;
      return [cx + b * Math.cos(0.25) + a * Math.sin(0.25), cy + 3.5 + 2.5 * (1 - Math.abs(2 * v - 1)), cz - b * Math.sin(0.25) + a * Math.cos(0.25)];
    },
    slate,
  );
  m.box([cx - 3.5, cy + 4.6, cz], [0.9, 2.2, 0.9], white, 0.25);
  for (const [z, top, from, to, seed] of [
    [1150, 74, -1500, -150, 2],
    [1900, 120, -2600, 260, 6],
    [3000, 190, -400, 3600, 9],
  ] as const)
    m.surface(
      240,
      14,
      (u, v) => {
        const x = mix(from, to, u);
        const tail = smoothstep(0, 0.12, u) * smoothstep(1, 0.6, u);
        const h = top * tail * (0.45 + 0.7 * fractal(x * 0.0011, seed, 0, 4) + 0.18);
        return [x, -3 + h * Math.min(1, v * 1.5) ** 0.7, z + 500 * v];
      },
      land,
    );
  m.lathe(
    [-420, 40, 1180],
    [
      [6, 0],
      [5, 20],
      [4, 34],
      [5, 34.5],
      [5, 36],
      [3, 36],
      [3, 41],
      [0, 46],
    ],
    white,
    20,
  );
  m.lathe(
    [-420, 56, 1180],
    [
      [5.35, 0],
      [4.9, 9],
    ],
    redPaint,
    20,
  );
  // a small sail
  m.surface(8, 8, (u, v) => [130 + 9 * u * (1 - v), 2 + 17 * v, 520 + 2 * Math.sin(u * 2)], white);
  m.box([133, 0, 520], [12, 1.6, 3], redPaint);

  const air = (d: Vec3): Vec3 => {
    const c = sky(normalize([d[0], 0.02, d[2]]));
    return [Math.min(c[0], 1.5) * 0.95, Math.min(c[1], 1.3) * 0.97, Math.min(c[2], 1.1)];
  };
  return {
    name: 'dunes',
    camera: { position: [0.1, height(0.1, 0) + 2.15, 0], target: [0.35, height(0.1, 0) + 1.5, 5], hfovDegrees: 62 },
    mesh: m.build(),
    materials,
    sky,
    sun: { direction: sunDirection, irradiance: [7.2, 5.6, 3.7], angularRadius: 0.008 },
    lamps: [],
    sparks: [],
    sparkMaterials: [],
    haze: { visibility: 7000, colour: air },
    exposure: 0.72,
    bounces: 2,
    ends: { near: 2, far: 3000 },
  };
}
