import { fractal, mix, noise, smoothstep } from '../tracer/noise';
import { add, hanging, MeshBuilder, normalize, scale, type Vec3 } from '../tracer/mesh';
import { plain, rgb, type Material, type Scene } from '../tracer/scene';

/** Frames of the shot, and how many a second. */
export const CROSSING_FRAMES = 96;
export const CROSSING_FPS = 24;

const DECK = 3;
const sunDirection = normalize([-0.62, 0.42, -0.35]);

const sky = (d: Vec3): Vec3 => {
  const h = Math.max(0, d[1]);
  const base = Math.exp(-h * 3.4);
  const cloud = smoothstep(-0.02, 0.42, fractal((d[0] * 1.7) / (h + 0.3), 2, (d[2] * 1.7) / (h + 0.3), 5)) * smoothstep(0, 0.1, h) * 0.7;
  return [mix(mix(0.2, 0.62, base), 0.88, cloud), mix(mix(0.36, 0.68, base), 0.88, cloud), mix(mix(0.66, 0.76, base), 0.9, cloud)];
};

/** Where the camera stands at a frame: a slow truck to the right with the small unrest of a hand. */
function cameraAt(frame: number): Scene['camera'] {
  const t = frame / CROSSING_FPS;
  const shake = (k: number): number =>
    0.6 * Math.sin(2.1 * t + 1.7 * k) + 0.3 * Math.sin(5.3 * t + 0.9 * k * k) + 0.15 * Math.sin(11.9 * t + 2.3 * k);
  const x = -0.75 + (1.5 * frame) / (CROSSING_FRAMES - 1);
  const position: Vec3 = [x + 0.004 * shake(1), DECK + 1.62 + 0.004 * shake(2), 0];
  return { position, target: add(position, [0.02 + 0.006 * shake(3), -0.26 + 0.006 * shake(4), 5]), hfovDegrees: 52 };
}

/** The deckhand, who walks along the rail: two steps a second, legs and arms swinging. */
function deckhand(m: MeshBuilder, frame: number, use: (material: Material) => number): void {
  const t = frame / CROSSING_FPS;
  const x = 1.55 - 0.72 * t;
  const z = 2.95;
  const stride = Math.sin(t * Math.PI * 2);
  const base = DECK + 0.02 * Math.abs(Math.cos(t * Math.PI * 2));
  const coat = use(({ p }, s) => {
    const band = smoothstep(0.03, 0.02, Math.abs(p[1] - base - 1.12)) + smoothstep(0.03, 0.02, Math.abs(p[1] - base - 0.86));
    const worn = 0.85 + 0.35 * fractal((p[0] - x) * 14, p[1] * 14, p[2] * 14, 3);
    rgb(s.albedo, mix(0.72, 0.8, band) * worn, mix(0.33, 0.8, band) * worn, mix(0.05, 0.78, band) * worn);
  });
  const cloth = use(({ p }, s) => {
    rgb(s.albedo, 0.06, 0.075, 0.11, 0.8 + 0.6 * noise((p[0] - x) * 40, p[1] * 40, p[2] * 40));
  });
  const skin = use(plain([0.5, 0.32, 0.23], 0.7, 0.03));
  const wool = use(({ p }, s) => rgb(s.albedo, 0.32, 0.05, 0.06, 0.8 + 0.4 * Math.sin(p[1] * 260)));
  const hip: Vec3 = [x, base + 0.86, z];
  for (const side of [-1, 1]) {
    const swing = 0.3 * stride * side;
    const at = (dx: number, y: number): Vec3 => [x + dx, base + y, z + 0.09 * side];
    m.tube([add(hip, [0, 0, 0.09 * side]), at(0.55 * swing, 0.47), at(swing, 0.06)], (v) => mix(0.1, 0.065, v), cloth, 14);
    m.sphere(at(swing - 0.05, 0.06), 0.085, cloth, 10, 0.6);
    const shoulder: Vec3 = [x, base + 1.42, z + 0.22 * side];
    m.tube(
      [shoulder, add(shoulder, [-0.35 * swing, -0.3, 0.03 * side]), add(shoulder, [-0.95 * swing - 0.05, -0.55, 0.02 * side])],
      (v) => mix(0.075, 0.05, v),
      coat,
      12,
    );
    m.sphere(add(shoulder, [-0.98 * swing - 0.05, -0.6, 0.02 * side]), 0.05, skin, 10);
  }
  m.lathe(
    [x, base + 0.72, z],
    [
      [0.02, 0],
      [0.22, 0.02],
      [0.2, 0.3],
      [0.225, 0.6],
      [0.2, 0.74],
      [0.08, 0.8],
      [0.07, 0.86],
    ],
    coat,
    32,
  );
  m.sphere([x, base + 1.66, z], 0.115, skin, 18, 1.18);
  m.sphere([x, base + 1.72, z], 0.125, wool, 16, 0.85);
  m.sphere([x - 0.12, base + 1.65, z], 0.025, skin, 8);
}

/** The shot on the ferry at a frame, with or without its deckhand: deck, rail and deckhand near, buoys and a boat on the water, hills far away. */
export function crossing(frame: number, manned = true): Scene {
  const m = new MeshBuilder();
  const materials: Material[] = [];
  const use = (material: Material): number => materials.push(material) - 1;
  const planks = use(({ p }, s) => {
    const gap = smoothstep(0.012, 0.004, Math.abs(((((p[2] * 6.2) % 1) + 1) % 1) - 0.5) / 6.2);
    const board = Math.floor(p[2] * 6.2 + 0.5);
    const k =
      (0.75 + 0.35 * noise(board * 7.3, 1, Math.floor(p[0] / 2.4 + board * 0.37)) + 0.35 * fractal(p[0] * 2.2, board, p[2] * 30, 4)) *
      (1 - 0.8 * gap);
    rgb(s.albedo, 0.34 * k, 0.265 * k, 0.19 * k);
    s.specular = 0.02;
    s.roughness = 0.5;
  });
  const paint = use(({ p }, s) => {
    const rust = smoothstep(0.18, 0.34, fractal(p[0] * 5, p[1] * 5, p[2] * 5, 4));
    rgb(s.albedo, mix(0.74, 0.3, rust), mix(0.75, 0.15, rust), mix(0.72, 0.07, rust));
    s.specular = 0.03 * (1 - rust);
    s.roughness = 0.35;
  });
  const sea = use(({ p }, s) => {
    const crest = smoothstep(0.36, 0.5, fractal(p[0] * 0.09, 2, p[2] * 0.16, 4));
    rgb(s.albedo, mix(0.03, 0.5, crest), mix(0.085, 0.55, crest), mix(0.1, 0.56, crest));
    s.specular = 0.04;
    s.roughness = 0.18;
    const fade = 40 / (40 + p[2]);
    s.bump[0] = 0.7 * fade * fractal(p[0] * 0.35, 0, p[2] * 0.5, 4);
    s.bump[2] = 1.2 * fade * fractal(p[0] * 0.35, 5, p[2] * 0.5, 4);
  });
  const red = use(({ p }, s) => {
    const worn = smoothstep(0.2, 0.4, fractal(p[0] * 2.5, p[1] * 2.5, p[2] * 2.5, 4));
    rgb(s.albedo, mix(0.62, 0.28, worn), mix(0.06, 0.1, worn), mix(0.04, 0.06, worn));
    s.specular = 0.03;
    s.roughness = 0.4;
  });
  const green = use(({ p }, s) => {
    rgb(s.albedo, 0.05, 0.32, 0.15, 0.7 + 0.6 * fractal(p[0] * 2, p[1] * 2, p[2] * 2, 4));
    s.specular = 0.03;
    s.roughness = 0.4;
  });
  const dark = use(plain([0.045, 0.05, 0.055], 0.6, 0.03));
  const white = use(plain([0.8, 0.79, 0.75], 0.6, 0.03));
  const hills = use(({ p }, s) => {
    const wood = smoothstep(-0.05, 0.25, fractal(p[0] * 0.008, p[1] * 0.02, p[2] * 0.008, 5));
    rgb(s.albedo, mix(0.3, 0.07, wood), mix(0.29, 0.12, wood), mix(0.14, 0.055, wood), 0.8 + 0.4 * fractal(p[0] * 0.05, p[1] * 0.05, 3, 3));
  });

  m.quad([-9, DECK, -2], [9, DECK, -2], [9, DECK, 3.9], [-9, DECK, 3.9], planks);
  m.quad([-3000, 0, 3.9], [3000, 0, 3.9], [9000, 0, 9000], [-9000, 0, 9000], sea);
  m.box([0, DECK - 0.5, 3.86], [18, 0.58, 0.08], paint);
  for (const [h, r] of [
    [1.05, 0.032],
    [0.72, 0.014],
    [0.4, 0.014],
  ] as const)
    m.tube(
      Array.from({ length: 13 }, (_, k): Vec3 => [-9 + 1.5 * k, DECK + h, 3.75]),
      r,
      paint,
      12,
    );
  for (let k = 0; k <= 15; k++)
    m.tube(
      [
        [-9 + 1.2 * k, DECK, 3.75],
        [-9 + 1.2 * k, DECK + 1.05, 3.75],
      ],
      0.024,
      paint,
      10,
    );
  // a life-ring on the rail and a coil of rope on deck
  m.tube(
    Array.from({ length: 33 }, (_, k): Vec3 => {
      const a = (k / 32) * Math.PI * 2;
      return [-1.05 + 0.3 * Math.cos(a), DECK + 0.62 + 0.3 * Math.sin(a), 3.66];
    }),
    0.065,
    use(({ p }, s) => {
      const a = Math.atan2(p[1] - DECK - 0.62, p[0] + 1.05);
      const strip = Math.sin(a * 4) > 0.45 ? 1 : 0;
      rgb(s.albedo, mix(0.78, 0.6, strip), mix(0.76, 0.08, strip), mix(0.72, 0.05, strip));
    }),
    12,
  );
  for (let k = 0; k < 5; k++)
    m.tube(
      Array.from({ length: 29 }, (_, j): Vec3 => {
        const a = (j / 28) * Math.PI * 2;
        return [1.3 + 0.24 * Math.cos(a), DECK + 0.03 + 0.045 * k, 2.15 + 0.24 * Math.sin(a)];
      }),
      0.026,
      use(({ p }, s) => rgb(s.albedo, 0.5, 0.4, 0.24, 0.8 + 0.4 * Math.sin((p[0] + p[2]) * 190))),
      8,
    );
  m.tube(hanging([0.62, DECK + 1.05, 3.75], [1.82, DECK + 1.05, 3.75], 0.34), 0.02, dark, 8);

  const t = frame / CROSSING_FPS;
  const buoy = (x: number, z: number, tall: number, material: number, phase: number): void => {
    const lean = 0.06 * Math.sin(1.1 * t + phase);
    const at = (y: number): Vec3 => [x + lean * y, y + 0.1 * Math.sin(0.9 * t + phase), z];
    m.lathe(
      [x, -0.4 + 0.1 * Math.sin(0.9 * t + phase), z],
      [
        [0.05, 0],
        [0.75, 0.1],
        [0.8, 0.7],
        [0.3, 0.95],
        [0.05, 1],
      ],
      material,
      28,
    );
    for (const a of [0.5, 2.6, 4.7])
      m.tube([add(at(0.5), [0.4 * Math.cos(a), 0, 0.4 * Math.sin(a)]), add(at(tall), [0.1 * Math.cos(a), 0, 0.1 * Math.sin(a)])], 0.05, material, 8);
    m.sphere(at(tall + 0.2), 0.24, material, 12);
  };
  buoy(-3.3, 11, 2.6, red, 0.4);
  buoy(6.4, 24, 3.2, green, 2.1);
  buoy(-16, 58, 3.2, red, 4);
  // a boat that goes by
  const bx = 30 - 1.9 * t;
  m.surface(
    30,
    10,
    (u, v) => {
      const along = (u * 2 - 1) * 3.4;
      const a = (v - 0.5) * Math.PI;
      const beam = 1.15 * Math.sqrt(Math.max(0, 1 - (along / 3.5) ** 2));
      return [bx + along, 0.55 - 0.9 * Math.cos(a) * Math.sqrt(Math.max(0, 1 - (along / 3.6) ** 4)), 42 + beam * Math.sin(a)];
    },
    white,
  );
  m.box([bx + 0.6, 0.5, 42], [1.7, 1.3, 1.4], white);
  m.box([bx + 0.6, 1.25, 41.28], [1.2, 0.36, 0.04], dark);
  m.tube(
    [
      [bx - 1.2, 0.5, 42],
      [bx - 1.2, 3.4, 42],
    ],
    0.045,
    dark,
    8,
  );
  for (const [z, top, from, to, seed] of [
    [700, 60, -900, 240, 2],
    [1500, 150, -2200, 900, 6],
    [2600, 230, -700, 3400, 9],
  ] as const)
    m.surface(
      220,
      12,
      (u, v) => {
        const x = mix(from, to, u);
        const tail = smoothstep(0, 0.15, u) * smoothstep(1, 0.6, u);
        const h = top * tail * (0.5 + 0.7 * fractal(x * 0.0014, seed, 0, 4) + 0.18);
        return [x, -3 + h * Math.min(1, v * 1.5) ** 0.7, z + 400 * v];
      },
      hills,
    );
  if (manned) deckhand(m, frame, use);

  const air = (d: Vec3): Vec3 => scale(sky(normalize([d[0], 0.03, d[2]])), 0.97);
  return {
    name: 'crossing',
    camera: cameraAt(frame),
    mesh: m.build(),
    materials,
    sky,
    sun: { direction: sunDirection, irradiance: [4.6, 4.2, 3.5], angularRadius: 0.012 },
    lamps: [],
    sparks: [],
    sparkMaterials: [],
    haze: { visibility: 9000, colour: air },
    exposure: 0.75,
    bounces: 2,
    ends: { near: 1.9, far: 3000 },
  };
}
