import { cells, fractal, mix, ridged, smoothstep } from '../tracer/noise';
import { hanging, MeshBuilder, normalize, type Vec3 } from '../tracer/mesh';
import { seededRandom } from '../../src/core/random';
import { glowing, plain, rgb, type Lamp, type Material, type Scene } from '../tracer/scene';

const sky = (d: Vec3): Vec3 => {
  const h = Math.max(0, d[1]);
  const west = Math.max(0, 0.5 + 0.5 * d[0]);
  const glow = Math.exp(-h * 7) * (0.25 + 0.75 * west * west);
  const cloud = smoothstep(0.02, 0.4, fractal(d[0] * 3, d[1] * 13, d[2] * 3, 4)) * Math.exp(-h * 4);
  return [
    0.05 + 0.1 * Math.exp(-h * 3) + 1.05 * glow + 0.3 * cloud * glow,
    0.09 + 0.13 * Math.exp(-h * 3) + 0.42 * glow + 0.12 * cloud * glow,
    0.2 + 0.18 * Math.exp(-h * 3) + 0.12 * glow + 0.1 * cloud * glow,
  ];
};

const cobbles: Material = ({ p }, s) => {
  const c = cells(p[0] * 5.2, p[2] * 5.2);
  const joint = smoothstep(0.02, 0.14, c.border);
  const tone = (0.65 + 0.5 * c.id) * (0.85 + 0.25 * fractal(p[0] * 9, 0, p[2] * 9, 3));
  rgb(s.albedo, mix(0.03, 0.2, joint) * tone, mix(0.028, 0.185, joint) * tone, mix(0.025, 0.17, joint) * tone);
  const wet = smoothstep(0.05, 0.45, fractal(p[0] * 0.6, 3, p[2] * 0.6, 3));
  s.roughness = mix(0.62, 0.22, wet);
  s.specular = 0.04;
  const e = 0.02;
  const cx = cells((p[0] + e) * 5.2, p[2] * 5.2);
  const cz = cells(p[0] * 5.2, (p[2] + e) * 5.2);
  const dome = (b: number): number => 0.035 * Math.sqrt(Math.min(1, b * 1.6));
  s.bump[0] = (-(dome(cx.border) - dome(c.border)) / e) * 0.5;
  s.bump[2] = (-(dome(cz.border) - dome(c.border)) / e) * 0.5;
};

const water: Material = ({ p }, s) => {
  rgb(s.albedo, 0.012, 0.03, 0.038);
  s.specular = 0.06;
  s.roughness = 0.08;
  const fade = 1 / (1 + p[2] * 0.01);
  s.bump[0] = 0.05 * fractal(p[0] * 0.9, 0, p[2] * 2.4, 3) * fade;
  s.bump[2] = 0.09 * fractal(p[0] * 0.9, 7, p[2] * 2.4, 3) * fade;
};

const plaster =
  (c: Vec3): Material =>
  ({ p }, s) => {
    const stain = 0.85 + 0.3 * fractal(p[0] * 0.6, p[1] * 0.5, p[2] * 0.6, 4);
    rgb(s.albedo, c[0], c[1], c[2], stain);
    s.roughness = 0.9;
  };

export function quayLamp(): Scene {
  const m = new MeshBuilder();
  const random = seededRandom(23);
  const materials: Material[] = [];
  const use = (material: Material): number => materials.push(material) - 1;
  const lamps: Lamp[] = [];
  const sparks: Lamp[] = [];
  const stones = use(cobbles);
  const edge = use(({ p }, s) => {
    const block = Math.abs(p[2] / 1.4 - Math.floor(p[2] / 1.4) - 0.5);
    rgb(s.albedo, 0.27, 0.255, 0.23, (0.8 + 0.4 * fractal(p[0] * 4, p[1] * 4, p[2] * 4, 4)) * mix(0.35, 1, smoothstep(0.5, 0.485, block)));
    s.roughness = 0.6;
    s.specular = 0.03;
  });
  const sea = use(water);
  const iron = use(({ p }, s) => {
    const rust = smoothstep(0.02, 0.35, fractal(p[0] * 6, p[1] * 6, p[2] * 6, 4));
    rgb(s.albedo, mix(0.035, 0.2, rust), mix(0.04, 0.085, rust), mix(0.045, 0.04, rust));
    s.roughness = mix(0.35, 0.75, rust);
    s.specular = 0.05;
  });
  const paint = use(plain([0.02, 0.075, 0.07], 0.3, 0.045));
  const rope = use(({ p, u, v }, s) => {
    const twist = Math.sin((u * 3 + v * 120) * 2 * Math.PI);
    rgb(s.albedo, 0.5, 0.42, 0.3, 0.72 + 0.28 * twist + 0.15 * fractal(p[0] * 60, p[1] * 60, p[2] * 60, 2));
  });
  const lit = use(glowing([7.5, 4.2, 1.5]));
  const globe = use(glowing([17, 10, 4.2]));
  const small = use(glowing([38, 21, 8]));
  const red = use(glowing([60, 9, 4]));
  const green = use(glowing([6, 40, 22]));
  const roof = use(plain([0.13, 0.065, 0.05], 0.8, 0.02));
  const dark = use(plain([0.02, 0.024, 0.03], 0.12, 0.05));
  const walls = [
    [0.52, 0.43, 0.33],
    [0.36, 0.42, 0.44],
    [0.5, 0.3, 0.22],
    [0.56, 0.52, 0.46],
    [0.26, 0.34, 0.33],
  ].map(([r, g, b]) => use(plaster([r!, g!, b!])));
  const hulls = [
    [0.5, 0.08, 0.05],
    [0.06, 0.16, 0.24],
    [0.56, 0.52, 0.44],
    [0.07, 0.2, 0.15],
  ].map((c) =>
    use(({ p, v }, s) => {
      const planks = 0.9 + 0.1 * Math.cos(v * 60);
      const k = planks * (0.85 + 0.3 * fractal(p[0] * 2, p[1] * 3, p[2] * 2, 3));
      if (v > 0.9) rgb(s.albedo, 0.5, 0.45, 0.35, k);
      else rgb(s.albedo, c[0]!, c[1]!, c[2]!, k);
      s.roughness = 0.4;
      s.specular = 0.04;
    }),
  );
  const timber = use(plain([0.25, 0.16, 0.09], 0.6, 0.03));
  const hills = use(({ p }, s) => {
    const t = fractal(p[0] * 0.02, p[1] * 0.05, p[2] * 0.02, 4);
    rgb(s.albedo, 0.1 + 0.05 * t, 0.12 + 0.05 * t, 0.08);
  });
  const lamp = (position: Vec3, radius: number, material: number, radiance: Vec3, shines = true): void => {
    m.sphere(position, radius, material, radius > 0.1 ? 16 : 8);
    sparks.push({ position, radius, radiance });
    if (shines) lamps.push({ position, radius, radiance });
  };

  // quay to the left and ahead; its edge runs away to the right of the camera
  const edgeAt = (z: number): number => 1.35 - 0.028 * z + 0.0009 * z * z;
  m.surface(
    8,
    60,
    (u, v) => {
      const z = -2 + 130 * v * v;
      return [mix(-60, edgeAt(z) - 0.42, u), 0, z];
    },
    stones,
  );
  m.surface(
    2,
    120,
    (u, v) => {
      const z = -2 + 130 * v * v;
      return [edgeAt(z) - 0.42 + 0.42 * u, 0.035, z];
    },
    edge,
  );
  m.surface(
    120,
    2,
    (u, v) => {
      const z = -2 + 130 * u * u;
      return [edgeAt(z), 0.035 - 3 * v, z];
    },
    edge,
  );
  m.quad([-900, -1.5, -5], [900, -1.5, -5], [900, -1.5, 1500], [-900, -1.5, 1500], sea);

  // bollards along the edge
  for (const [k, z] of [2.75, 7.5, 14, 22, 32, 46].entries()) {
    const x = edgeAt(z) - 0.3 - (k === 0 ? 0.12 : 0);
    m.lathe(
      [x, 0.03, z],
      [
        [0.2, 0],
        [0.2, 0.03],
        [0.15, 0.06],
        [0.125, 0.12],
        [0.115, 0.34],
        [0.125, 0.38],
        [0.19, 0.42],
        [0.205, 0.46],
        [0.19, 0.5],
        [0.1, 0.53],
        [0, 0.535],
      ],
      iron,
      40,
    );
    if (k === 0)
      for (let ring = 0; ring < 4; ring++)
        m.tube(
          Array.from({ length: 49 }, (_, i): Vec3 => {
            const a = (i / 48) * 2 * Math.PI;
            const r = 0.148 + 0.004 * Math.sin(a * 3 + ring);
            return [x + r * Math.cos(a), 0.13 + ring * 0.045 + 0.02 * Math.sin(a + ring), z + r * Math.sin(a)];
          }),
          0.021,
          rope,
          10,
        );
  }
  const first: Vec3 = [edgeAt(2.75) - 0.28, 0.2, 2.75];
  m.tube(hanging(first, [4.6, -0.45, 8.4], 0.35, 60), 0.019, rope, 9);
  m.tube(
    Array.from({ length: 80 }, (_, i): Vec3 => {
      const t = i / 79;
      return [first[0] - 0.15 - 0.55 * t + 0.07 * Math.sin(t * 9), 0.024 + 0.16 * Math.max(0, 1 - t * 6), 2.6 - 0.5 * t + 0.1 * Math.cos(t * 8)];
    }),
    0.019,
    rope,
    9,
  );

  // lamp posts
  for (const [x, z, size] of [
    [-0.85, 6, 1],
    [-1.7, 19, 1],
    [-1.2, 36, 1],
    [0.6, 58, 1],
  ] as const) {
    m.lathe(
      [x, 0, z],
      [
        [0.17, 0],
        [0.17, 0.1],
        [0.12, 0.14],
        [0.1, 0.5],
        [0.06, 0.56],
        [0.047, 0.62],
        [0.04, 2.9],
        [0.06, 2.94],
        [0.06, 2.98],
        [0.03, 3.02],
        [0.03, 3.1],
        [0.09, 3.15],
        [0.09, 3.17],
        [0, 3.17],
      ].map(([r, y]): [number, number] => [r! * size, y! * size]),
      paint,
      24,
    );
    lamp([x, 3.34, z], 0.17, globe, [17, 10, 4.2]);
    m.lathe(
      [x, 3.5, z],
      [
        [0.12, 0],
        [0.09, 0.05],
        [0.02, 0.1],
        [0, 0.16],
      ],
      paint,
      20,
    );
    m.tube(
      [
        [x - 0.4, 2.72, z],
        [x + 0.4, 2.72, z],
      ],
      0.018,
      paint,
      8,
    );
  }
  // chain railing between posts on the far part of the quay
  for (let z = 10; z < 44; z += 2.4) {
    const x = edgeAt(z) - 0.12;
    m.tube(
      [
        [x, 0, z],
        [x, 0.95, z],
      ],
      0.028,
      paint,
      8,
    );
    m.sphere([x, 0.98, z], 0.045, paint, 8);
    for (const h of [0.5, 0.9]) m.tube(hanging([x, h, z], [edgeAt(z + 2.4) - 0.12, h, z + 2.4], 0.1, 12), 0.012, iron, 6);
  }
  // crates and creels on the left
  for (const [x, z, h, t] of [
    [-2.3, 4.6, 0.42, 0.3],
    [-2.75, 5.2, 0.42, -0.1],
    [-2.45, 4.85, 0.38, 0.5],
  ] as const) {
    const y = t === 0.5 ? 0.42 : 0;
    for (let k = 0; k < 5; k++) m.box([x, y + (k * h) / 5 + 0.008, z], [0.62, h / 5 - 0.016, 0.45], timber, t);
  }

  // houses along the quay
  let z = 16;
  for (let k = 0; k < 9; k++) {
    const w = 6 + 3.5 * random();
    const h = 6 + 4 * random();
    const x = -9.5 - 3 * random() + 0.0022 * z * z;
    const wall = walls[k % walls.length]!;
    m.box([x - 4, 0, z + w / 2], [8, h, w], wall);
    m.surface(2, 2, (u, v) => [x - 8.3 + 8.6 * u, h + 2 * (1 - Math.abs(2 * u - 1)), z - 0.3 + (w + 0.6) * v], roof);
    for (const end of [z, z + w]) m.surface(2, 1, (u, v) => [x - 8 + 8 * u, h + 1.93 * (1 - Math.abs(2 * u - 1)) * v, end], wall);
    for (let floor = 0; floor < Math.floor(h / 2.7); floor++)
      for (let i = 0; i < Math.floor(w / 1.8); i++) {
        const on = random() < 0.42;
        m.box([x + 0.01, 0.9 + floor * 2.7, z + 1 + i * 1.8], [0.08, 1.3, 0.85], on ? lit : dark);
        if (on && random() < 0.35) lamps.push({ position: [x + 0.7, 1.5 + floor * 2.7, z + 1 + i * 1.8], radius: 0.45, radiance: [2.2, 1.2, 0.45] });
      }
    z += w + 0.2;
  }
  // the far side: a row across the basin
  let fx = 6;
  for (let k = 0; k < 12; k++) {
    const w = 7 + 5 * random();
    const h = 6 + 6 * random();
    const wall = walls[(k * 3 + 1) % walls.length]!;
    m.box([fx + w / 2, -1, 126], [w, h, 10], wall);
    m.surface(2, 2, (u, v) => [fx - 0.3 + (w + 0.6) * u, h - 1 + 2.4 * (1 - Math.abs(2 * v - 1)), 120.5 + 11 * v], roof);
    for (let floor = 0; floor < Math.floor(h / 2.7); floor++)
      for (let i = 0; i < Math.floor(w / 1.9); i++) m.box([fx + 1 + i * 1.9, 0 + floor * 2.7, 120.96], [0.9, 1.3, 0.1], random() < 0.4 ? lit : dark);
    fx += w + 0.1;
  }
  for (let i = 0; i < 9; i++) lamp([8 + i * 11.5, 2.6, 119], 0.22, small, [38, 21, 8], i < 4);

  // moored boats
  const boat = (x: number, z0: number, length: number, turn: number, hull: number, mast: number): void => {
    const c = Math.cos(turn);
    const s = Math.sin(turn);
    const place = (a: number, y: number, b: number): Vec3 => [x + c * a + s * b, -1.5 + y, z0 - s * a + c * b];
    const beam = (t: number): number =>
      0.17 * length * Math.sqrt(Math.max(0, 1 - Math.abs(2 * t - 0.9) ** 2.6)) * (t > 0.9 ? Math.max(0, (1 - t) * 10) : 1);
    const sheer = (t: number): number => 0.13 * length * (0.9 + 0.75 * (t - 0.4) ** 2 * 3);
    m.surface(
      30,
      14,
      (u, v) => {
        const side = v * 2 - 1;
        const q = Math.abs(side);
        return place(Math.sign(side) * beam(u) * q ** 0.45, sheer(u) * q ** 1.8 - 0.3 * (1 - q), (u - 0.5) * length);
      },
      hull,
    );
    m.surface(24, 2, (u, v) => place((v * 2 - 1) * beam(u) * 0.98, sheer(u) * 0.86, (u - 0.5) * length), timber);
    m.box(place(0, 0.12 * length, -0.08 * length), [0.17 * length, 0.17 * length, 0.24 * length], walls[3]!, turn);
    m.box(place(0, 0.2 * length, 0.045 * length), [0.14 * length, 0.06 * length, 0.02 * length], lit, turn);
    if (mast > 0) {
      const foot = place(0, 0.1 * length, 0.14 * length);
      const head: Vec3 = [foot[0], foot[1] + mast, foot[2]];
      m.tube([foot, head], (t) => mix(0.08, 0.04, t), timber, 10);
      m.tube([[foot[0], foot[1] + 1.3, foot[2]], place(0, 0.1 * length + 1.5, -0.36 * length)], 0.045, timber, 8);
      for (const end of [0.49, -0.48]) m.tube([head, place(0, 0.13 * length, end * length)], 0.014, iron, 5);
      for (const side of [-1, 1]) m.tube([head, place(side * 0.15 * length, 0.13 * length, 0.1 * length)], 0.012, iron, 5);
      lamp([head[0], head[1] + 0.1, head[2]], 0.07, small, [38, 21, 8]);
      const line = hanging(head, place(0, 0.13 * length, -0.48 * length), 0.3, 16);
      for (let i = 2; i < 16; i += 2) lamp(line[i]!, 0.045, small, [38, 21, 8], i % 4 === 0);
    }
  };
  boat(4.9, 11, 7, -0.12, hulls[0]!, 6);
  boat(8.2, 20, 9, 0.18, hulls[1]!, 8);
  boat(5.6, 30, 8, -0.05, hulls[2]!, 7.5);
  boat(13.5, 34, 9, 0.5, hulls[3]!, 9);
  boat(20, 52, 10, -0.4, hulls[0]!, 9);
  boat(9.5, 62, 9, 0.1, hulls[1]!, 8);
  boat(3.2, 6.1, 3.4, 0.4, hulls[3]!, 0);
  lamps.push({ position: [5.2, 0.9, 10.5], radius: 0.2, radiance: [6, 3.4, 1.3] });

  // breakwater and its light
  m.surface(
    80,
    6,
    (u, v) => {
      const x = 26 + 110 * u;
      const w = (v - 0.5) * 12;
      return [x, -1.8 + 3.1 * (1 - Math.abs(v - 0.5) * 2) ** 0.6 + 0.7 * fractal(x * 0.5, v * 4, 1, 3), 205 + w + 10 * Math.sin(u * 3)];
    },
    edge,
  );
  m.lathe(
    [32, 0.5, 205],
    [
      [1.7, 0],
      [1.5, 2],
      [1.05, 9],
      [1.4, 9.2],
      [1.4, 9.6],
      [0.8, 9.7],
      [0.8, 11.2],
      [1, 11.3],
      [0.3, 12.2],
      [0, 12.5],
    ],
    walls[3]!,
    24,
  );
  lamp([32, 11, 203.9], 0.55, red, [60, 9, 4], false);
  lamp([88, 3.4, 204], 0.35, green, [6, 40, 22], false);
  // hills round the bay
  for (const [near, height, seed] of [
    [420, 46, 1],
    [600, 92, 5],
  ] as const)
    m.surface(
      160,
      10,
      (u, v) => {
        const x = -700 + 1500 * u;
        const crest = height * (0.35 + 0.75 * ridged(x * 0.0042, seed, 0, 4) - 0.2) * smoothstep(-260, 40, x + (seed === 1 ? 130 : 400));
        return [x, -2 + crest * v, near + 90 * v];
      },
      hills,
    );
  for (let i = 0; i < 26; i++) {
    const x = 30 + 260 * random();
    lamp([x, 3 + 14 * random(), 414], 0.55, small, [38, 21, 8], false);
  }

  const air = (d: Vec3): Vec3 => sky(normalize([d[0], 0.015 + 0.3 * Math.abs(d[1]), d[2]]));
  return {
    name: 'quayLamp',
    camera: { position: [0.35, 1.35, -0.4], target: [0.6, 1.12, 6], hfovDegrees: 64 },
    mesh: m.build(),
    materials,
    sky,
    lamps,
    sparks,
    sparkMaterials: [globe, small, red, green],
    haze: { visibility: 2600, colour: air },
    exposure: 1.5,
    bounces: 2,
    ends: { near: 1.2, far: 600 },
  };
}
