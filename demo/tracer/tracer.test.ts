import { describe, expect, test } from '@jest/globals';
import { developPicture } from '../develop';
import { Bvh, type Hit } from './bvh';
import { box, denoise } from './denoise';
import { cross, dot, hanging, MeshBuilder, normalize, sub, type Mesh, type Vec3 } from './mesh';
import { cells, fractal, mix, ridged, smoothstep } from './noise';
import { seededRandom } from '../../src/core/random';
import { addToLayer, fogAlong, rayOf, type FogLaw } from './layers';
import { glowing, type Scene } from './scene';
import { Tracer, viewOf, type Sample } from './trace';

const newHit = (): Hit => ({ t: 0, triangle: 0, u: 0, v: 0 });

/** Every triangle tried in turn (Möller & Trumbore 1997). */
function nearestByForce(mesh: Mesh, o: Vec3, d: Vec3): number {
  const at = (i: number): Vec3 => [mesh.positions[i * 3]!, mesh.positions[i * 3 + 1]!, mesh.positions[i * 3 + 2]!];
  let best = Infinity;
  for (let t = 0; t < mesh.triangles.length; t += 3) {
    const [a, b, c] = [at(mesh.triangles[t]!), at(mesh.triangles[t + 1]!), at(mesh.triangles[t + 2]!)];
    const [e1, e2] = [sub(b, a), sub(c, a)];
    const p = cross(d, e2);
    const det = dot(e1, p);
    if (Math.abs(det) < 1e-12) continue;
    const s = sub(o, a);
    const u = dot(s, p) / det;
    const q = cross(s, e1);
    const v = dot(d, q) / det;
    const z = dot(e2, q) / det;
    if (u >= 0 && v >= 0 && u + v <= 1 && z > 1e-6 && z < best) best = z;
  }
  return best;
}

describe('bounding volume hierarchy', () => {
  test('finds the same nearest hit as trying every triangle', () => {
    const m = new MeshBuilder();
    const random = seededRandom(2);
    for (let i = 0; i < 14; i++) m.sphere([random() * 6 - 3, random() * 6 - 3, random() * 6 + 3], 0.3 + random() * 0.5, 0, 10);
    const mesh = m.build();
    const bvh = new Bvh(mesh);
    const hit = newHit();
    let hits = 0;
    for (let i = 0; i < 400; i++) {
      const d = normalize([random() - 0.5, random() - 0.5, 1]);
      const found = bvh.intersect(0, 0, 0, d[0], d[1], d[2], Infinity, hit);
      const truth = nearestByForce(mesh, [0, 0, 0], d);
      expect(found).toBe(truth < Infinity);
      if (found) {
        hits++;
        expect(Math.abs(hit.t - truth)).toBeLessThan(1e-3);
      }
    }
    expect(hits).toBeGreaterThan(50);
  });
});

const wallScene = (emission: Vec3): Scene => {
  const m = new MeshBuilder();
  m.quad([-20, -20, 4], [20, -20, 4], [20, 20, 4], [-20, 20, 4], 0);
  return {
    name: 'wall',
    camera: { position: [0, 0, 0], target: [0, 0, 1], hfovDegrees: 60 },
    mesh: m.build(),
    materials: [glowing(emission)],
    sky: () => [0, 0, 0],
    lamps: [],
    sparks: [],
    sparkMaterials: [],
    exposure: 1,
    bounces: 1,
    ends: { near: 1, far: 10 },
  };
};

describe('tracer', () => {
  test('distance is measured from the camera plane, not along the ray', () => {
    const scene = wallScene([1, 1, 1]);
    const tracer = new Tracer(scene, seededRandom(1));
    const view = viewOf(scene.camera, 200);
    for (const [x, y] of [
      [100, 50],
      [3, 4],
      [190, 90],
    ] as const)
      expect(tracer.distanceAt(view, x, y, 200, 100)).toBeCloseTo(4, 4);
  });
  test('a glowing wall is seen with its own light, through a pinhole and through a lens', () => {
    const scene = wallScene([0.5, 0.25, 0.125]);
    const tracer = new Tracer(scene, seededRandom(1));
    const view = viewOf(scene.camera, 200);
    const sample: Sample = { r: 0, g: 0, b: 0, albedo: [0, 0, 0], normal: [0, 0, 0], distance: 0 };
    for (const lens of [null, { apertureDiameter: 0.3, focusDistance: 2, blades: 6 }]) {
      tracer.sample(view, 80, 40, 200, 100, lens, sample);
      expect([sample.r, sample.g, sample.b]).toEqual([0.5, 0.25, 0.125].map((v) => expect.closeTo(v, 5)));
    }
  });
  test('a lens blurs what is out of focus to the width that the thin-lens equation says', () => {
    // a wall that glows in its right half: the edge spreads over ±ρ
    const m = new MeshBuilder();
    m.quad([0, -20, 4], [20, -20, 4], [20, 20, 4], [0, 20, 4], 0);
    const scene = { ...wallScene([1, 1, 1]), mesh: m.build() };
    const tracer = new Tracer(scene, seededRandom(4));
    const view = viewOf(scene.camera, 400);
    const lens = { apertureDiameter: 0.2, focusDistance: 2, blades: 0 };
    const rho = 0.5 * view.focalPx * lens.apertureDiameter * (1 / 2 - 1 / 4);
    const sample: Sample = { r: 0, g: 0, b: 0, albedo: [0, 0, 0], normal: [0, 0, 0], distance: 0 };
    const lightAt = (x: number): number => {
      let sum = 0;
      for (let i = 0; i < 800; i++) {
        tracer.sample(view, x, 100, 400, 200, lens, sample);
        sum += sample.r / 800;
      }
      return sum;
    };
    expect(lightAt(200 - 1.1 * rho)).toBe(0);
    expect(lightAt(200 + 1.1 * rho)).toBeCloseTo(1, 6);
    expect(lightAt(200)).toBeCloseTo(0.5, 1);
    expect(lightAt(200 + 0.5 * rho)).toBeCloseTo(0.5 + (0.5 * Math.sqrt(0.75) + Math.asin(0.5)) / Math.PI, 1);
  });
});

describe('noise and picture', () => {
  test('noise is bounded and the same every time', () => {
    for (let i = 0; i < 300; i++) {
      const [x, y, z] = [i * 0.37, i * 0.11, i * 0.73];
      expect(Math.abs(fractal(x, y, z, 4))).toBeLessThanOrEqual(1.01);
      expect(ridged(x, y, 3, 3)).toBeGreaterThanOrEqual(0);
      expect(fractal(x, y, z, 4)).toBe(fractal(x, y, z, 4));
      expect(cells(x, y).border).toBeGreaterThanOrEqual(0);
    }
    expect(smoothstep(0, 1, 0.5)).toBe(0.5);
    expect(mix(2, 4, 0.25)).toBe(2.5);
  });
  test('a hanging rope keeps its ends and sags in the middle', () => {
    const rope = hanging([0, 1, 0], [4, 1, 0], 0.3, 10);
    expect(rope[0]).toEqual([0, 1, 0].map((v) => expect.closeTo(v, 9)));
    expect(rope[rope.length - 1]).toEqual([4, 1, 0].map((v) => expect.closeTo(v, 9)));
    expect(Math.min(...rope.map((p) => p[1]))).toBeCloseTo(0.7, 1);
  });
  test('denoising keeps a constant, lowers noise and keeps an edge', () => {
    const [w, h] = [40, 30];
    const random = seededRandom(8);
    const noisy = (): Float32Array =>
      Float32Array.from({ length: w * h * 3 }, (_, i) => (Math.floor(i / 3) % w < 20 ? 0.2 : 0.8) + 0.1 * (random() - 0.5));
    const [a, b] = [noisy(), noisy()];
    const out = denoise({ width: w, height: h, a, b }, [], 0.7);
    const error = (s: Float32Array): number => s.reduce((sum, v, i) => sum + (v - (Math.floor(i / 3) % w < 20 ? 0.2 : 0.8)) ** 2, 0);
    expect(error(out)).toBeLessThan(error(a.map((v, i) => 0.5 * (v + b[i]!))) * 0.5);
    for (const v of box(new Float32Array(w * h).fill(0.4), w, h, 3)) expect(v).toBeCloseTo(0.4, 6);
  });
  test('developing is monotonic and never clips to white before its shoulder', () => {
    const steps = Float32Array.from({ length: 300 }, (_, i) => Math.floor(i / 3) / 60);
    const out = developPicture(steps, 100, 1);
    for (let i = 1; i < 45; i++) expect(out[i * 3]!).toBeGreaterThanOrEqual(out[(i - 1) * 3]!);
    expect(out[0]).toBe(0);
    expect(out[57 * 3]).toBeLessThan(255);
  });
});

describe('further pictures of the same samples', () => {
  const camera = { position: [0, 1.6, 0] as const, target: [0, 1.4, 5] as const, hfovDegrees: 60 };
  const view = viewOf(camera, 64);
  const size = { width: 64, height: 36 };
  const law: FogLaw = { visibility: 30, start: 1, colour: [0.5, 0.6, 0.7] };
  test('even fog is as thick as the ray is long', () => {
    const ray = rayOf(view, 10, 5, size);
    expect(fogAlong(law, ray, 9)).toBeCloseTo(8 * Math.hypot(1, (10 - 32) / view.focalPx, (5 - 18) / view.focalPx), 9);
    expect(fogAlong(law, ray, 0.7)).toBe(0);
  });
  test('low fog along a ray that rises has the closed form of an exponential', () => {
    const ray = { length: 1.1, rise: 0.3, from: 1.6 };
    const low = { level: 1, thins: 0.8 };
    const height = (z: number): number => ray.from + ray.rise * z - low.level;
    const exact = (a: number, b: number): number =>
      ((Math.exp(-height(a) / low.thins) - Math.exp(-height(b) / low.thins)) * low.thins * ray.length) / ray.rise;
    for (const z of [3, 12, 1e7]) expect(fogAlong({ ...law, low }, ray, z) / exact(1, Math.min(z, 1e6))).toBeCloseTo(1, 2);
  });
  test('what is cut out is the share of samples that lie nearer, with their light', () => {
    const out = new Float32Array(4);
    const sample = (distance: number): Parameters<typeof addToLayer>[1] => ({ r: 1, g: 2, b: 3, distance });
    for (const distance of [1, 2, 3, Infinity]) addToLayer({ cut: 2.5 }, sample(distance), rayOf(view, 1, 1, size), 0.5, 0.25, out, 0);
    expect([...out]).toEqual([0.25, 0.5, 0.75, 0.5]);
  });
});
