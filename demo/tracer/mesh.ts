export type Vec3 = readonly [number, number, number];

/** A vector, number by number. */
export const three = (f: (k: 0 | 1 | 2) => number): Vec3 => [f(0), f(1), f(2)];

export interface Mesh {
  /** xyz per vertex, metres, y up */
  readonly positions: Float32Array;
  readonly normals: Float32Array;
  readonly uvs: Float32Array;
  /** three vertex indices per triangle */
  readonly triangles: Uint32Array;
  /** material index per triangle */
  readonly materialOf: Uint16Array;
}

export const add = (a: Vec3, b: Vec3): Vec3 => [a[0] + b[0], a[1] + b[1], a[2] + b[2]];
export const sub = (a: Vec3, b: Vec3): Vec3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
export const scale = (a: Vec3, s: number): Vec3 => [a[0] * s, a[1] * s, a[2] * s];
export const dot = (a: Vec3, b: Vec3): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
export const cross = (a: Vec3, b: Vec3): Vec3 => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
export const normalize = (a: Vec3): Vec3 => scale(a, 1 / (Math.hypot(a[0], a[1], a[2]) || 1));

/** Collects triangles of a scene from parametric parts. */
export class MeshBuilder {
  private readonly positions: number[] = [];
  private readonly normals: number[] = [];
  private readonly uvs: number[] = [];
  private readonly triangles: number[] = [];
  private readonly materialOf: number[] = [];

  vertex(p: Vec3, n: Vec3, u: number, v: number): number {
    this.positions.push(p[0], p[1], p[2]);
    this.normals.push(n[0], n[1], n[2]);
    this.uvs.push(u, v);
    return this.positions.length / 3 - 1;
  }

  triangle(a: number, b: number, c: number, material: number): void {
    this.triangles.push(a, b, c);
    this.materialOf.push(material);
  }

  /** A smooth surface over a grid of (nu+1)×(nv+1) points; u and v run 0..1. A closed u joins its ends. */
  surface(nu: number, nv: number, at: (u: number, v: number) => Vec3, material: number, closed = false): void {
    const points: Vec3[] = [];
    for (let j = 0; j <= nv; j++) for (let i = 0; i <= nu; i++) points.push(at(i / nu, j / nv));
    const normals = new Float64Array(points.length * 3);
    const w = nu + 1;
    for (let j = 0; j < nv; j++)
      for (let i = 0; i < nu; i++) {
        const corners = [j * w + i, j * w + i + 1, (j + 1) * w + i + 1, (j + 1) * w + i];
        const n = cross(sub(points[corners[2]!]!, points[corners[0]!]!), sub(points[corners[3]!]!, points[corners[1]!]!));
        for (const c of corners) for (let k = 0; k < 3; k++) normals[c * 3 + k]! += n[k]!;
      }
    if (closed)
      for (let j = 0; j <= nv; j++)
        for (let k = 0; k < 3; k++) {
          const a = j * w * 3 + k;
          const b = (j * w + nu) * 3 + k;
          normals[a] = normals[b] = normals[a]! + normals[b]!;
        }
    const first = this.positions.length / 3;
    for (let j = 0; j <= nv; j++)
      for (let i = 0; i <= nu; i++) {
        const k = j * w + i;
        const n = normalize([normals[k * 3]!, normals[k * 3 + 1]!, normals[k * 3 + 2]!]);
        this.vertex(points[k]!, n, i / nu, j / nv);
      }
    for (let j = 0; j < nv; j++)
      for (let i = 0; i < nu; i++) {
        const a = first + j * w + i;
        this.triangle(a, a + 1, a + w + 1, material);
        this.triangle(a, a + w + 1, a + w, material);
      }
  }

  /** A surface of revolution about a vertical axis; profile points are [radius, height]. */
  lathe(centre: Vec3, profile: readonly (readonly [number, number])[], material: number, around = 48): void {
    const n = profile.length - 1;
    this.surface(
      around,
      n,
      (u, v) => {
        const [r, y] = profile[Math.round(v * n)]!;
        const a = -u * 2 * Math.PI;
        return [centre[0] + r * Math.cos(a), centre[1] + y, centre[2] + r * Math.sin(a)];
      },
      material,
      true,
    );
  }

  /** A tube along a path, its radius given per point or as one number. */
  tube(path: readonly Vec3[], radius: number | ((t: number) => number), material: number, around = 10): void {
    const n = path.length - 1;
    const frames = path.map((p, i) => {
      const along = normalize(sub(path[Math.min(n, i + 1)]!, path[Math.max(0, i - 1)]!));
      const helper: Vec3 = Math.abs(along[1]) > 0.9 ? [1, 0, 0] : [0, 1, 0];
      const side = normalize(cross(helper, along));
      return { p, side, up: cross(along, side) };
    });
    this.surface(
      around,
      n,
      (u, v) => {
        const f = frames[Math.round(v * n)]!;
        const r = typeof radius === 'number' ? radius : radius(v);
        const c = r * Math.cos(u * 2 * Math.PI);
        const s = r * Math.sin(u * 2 * Math.PI);
        return add(f.p, add(scale(f.side, c), scale(f.up, s)));
      },
      material,
      true,
    );
  }

  sphere(centre: Vec3, radius: number, material: number, detail = 20, squash = 1): void {
    this.surface(
      detail * 2,
      detail,
      (u, v) => {
        const a = -u * 2 * Math.PI;
        const b = v * Math.PI;
        return [
          centre[0] + radius * Math.sin(b) * Math.cos(a),
          centre[1] + radius * squash * Math.cos(b),
          centre[2] + radius * Math.sin(b) * Math.sin(a),
        ];
      },
      material,
      true,
    );
  }

  /** A flat quad; corners in order round it. */
  quad(a: Vec3, b: Vec3, c: Vec3, d: Vec3, material: number): void {
    const n = normalize(cross(sub(b, a), sub(d, a)));
    const i = this.vertex(a, n, 0, 0);
    this.vertex(b, n, 1, 0);
    this.vertex(c, n, 1, 1);
    this.vertex(d, n, 0, 1);
    this.triangle(i, i + 1, i + 2, material);
    this.triangle(i, i + 2, i + 3, material);
  }

  /** A box standing on `base` (centre of its underside), turned about the vertical by `turn` radians. */
  box(base: Vec3, size: Vec3, material: number, turn = 0): void {
    const c = Math.cos(turn);
    const s = Math.sin(turn);
    const at = (x: number, y: number, z: number): Vec3 => {
      const px = x * size[0] * 0.5;
      const pz = z * size[2] * 0.5;
      return [base[0] + c * px + s * pz, base[1] + y * size[1], base[2] - s * px + c * pz];
    };
    this.quad(at(-1, 0, -1), at(1, 0, -1), at(1, 1, -1), at(-1, 1, -1), material);
    this.quad(at(1, 0, 1), at(-1, 0, 1), at(-1, 1, 1), at(1, 1, 1), material);
    this.quad(at(-1, 0, 1), at(-1, 0, -1), at(-1, 1, -1), at(-1, 1, 1), material);
    this.quad(at(1, 0, -1), at(1, 0, 1), at(1, 1, 1), at(1, 1, -1), material);
    this.quad(at(-1, 1, -1), at(1, 1, -1), at(1, 1, 1), at(-1, 1, 1), material);
    this.quad(at(-1, 0, 1), at(1, 0, 1), at(1, 0, -1), at(-1, 0, -1), material);
  }

  /** A tapering blade of grass bending towards `lean`. */
  blade(root: Vec3, height: number, width: number, lean: Vec3, material: number): void {
    const side = normalize([lean[2] + 0.01, 0, -lean[0]]);
    const normal = normalize(cross(side, [lean[0] * 0.3, 1, lean[2] * 0.3]));
    let previous = -1;
    const steps = 4;
    for (let i = 0; i <= steps; i++) {
      const t = i / steps;
      const centre: Vec3 = [
        root[0] + lean[0] * height * t * t,
        root[1] + height * t * (1 - 0.28 * t * Math.hypot(lean[0], lean[2])),
        root[2] + lean[2] * height * t * t,
      ];
      const half = 0.5 * width * (1 - t * 0.94);
      const a = this.vertex(add(centre, scale(side, -half)), normal, 0, t);
      this.vertex(add(centre, scale(side, half)), normal, 1, t);
      if (previous >= 0) {
        this.triangle(previous, previous + 1, a + 1, material);
        this.triangle(previous, a + 1, a, material);
      }
      previous = a;
    }
  }

  build(): Mesh {
    return {
      positions: Float32Array.from(this.positions),
      normals: Float32Array.from(this.normals),
      uvs: Float32Array.from(this.uvs),
      triangles: Uint32Array.from(this.triangles),
      materialOf: Uint16Array.from(this.materialOf),
    };
  }
}

/** A path hanging between two points with the given sag in metres. */
export function hanging(a: Vec3, b: Vec3, sag: number, steps = 24): Vec3[] {
  return Array.from({ length: steps + 1 }, (_, i) => {
    const t = i / steps;
    return [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t - sag * 4 * t * (1 - t), a[2] + (b[2] - a[2]) * t];
  });
}
