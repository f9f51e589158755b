import { Bvh, type Hit } from './bvh';
import { cross, normalize, sub, type Vec3 } from './mesh';
import { newSurface, shade, type CameraPose, type Lamp, type Point, type Scene } from './scene';

/** A thin lens: aperture diameter and focus distance in metres; fewer than 3 blades means a disc. */
export interface Lens {
  apertureDiameter: number;
  focusDistance: number;
  blades: number;
}

export interface Sample {
  r: number;
  g: number;
  b: number;
  /** first hit: albedo, normal, distance from the camera plane */
  albedo: [number, number, number];
  normal: [number, number, number];
  distance: number;
}

export interface View {
  position: Vec3;
  right: Vec3;
  up: Vec3;
  forward: Vec3;
  focalPx: number;
}

export function viewOf(camera: CameraPose, width: number): View {
  const forward = normalize(sub(camera.target, camera.position));
  const right = normalize(cross([0, 1, 0], forward));
  return {
    position: camera.position,
    right,
    up: cross(forward, right),
    forward,
    focalPx: width / 2 / Math.tan((camera.hfovDegrees * Math.PI) / 360),
  };
}

/** A finished pinhole picture from which the light of points it sees is read instead of traced. */
export interface SeenLight {
  view: View;
  width: number;
  height: number;
  /** linear RGB without exposure */
  rgb: Float32Array;
  distance: Float32Array;
  /** whether the small lights are left out, to be added by splatSparks */
  sparksApart: boolean;
}

const SPECULAR_ROUGHNESS = 0.16;
const FIREFLY_LIMIT = 6;

/** Unidirectional path tracer with next-event estimation of the sun and the lamps (Pharr, Jakob, Humphreys, ch. 13). */
export class Tracer {
  private readonly bvh: Bvh;
  private readonly hit: Hit = { t: 0, triangle: 0, u: 0, v: 0 };
  private readonly shadow: Hit = { t: 0, triangle: 0, u: 0, v: 0 };
  private readonly surface = newSurface();
  private readonly lampWeight: Float64Array;
  /** throughput and light of the path being traced, and the limit on one contribution */
  private tr = 1;
  private tg = 1;
  private tb = 1;
  private r = 0;
  private g = 0;
  private b = 0;
  private limit = Infinity;

  constructor(
    readonly scene: Scene,
    private readonly random: () => number,
    private readonly seen: SeenLight | null = null,
  ) {
    this.bvh = new Bvh(scene.mesh);
    this.lampWeight = new Float64Array(scene.lamps.length);
  }

  /** Distance from the camera plane along the ray through the pixel (pinhole), metres. */
  distanceAt(view: View, px: number, py: number, width: number, height: number): number {
    const d = rayThrough(view, px, py, width, height);
    const p = view.position;
    this.bvh.intersect(p[0], p[1], p[2], d[0], d[1], d[2], Infinity, this.hit);
    const along = d[0] * view.forward[0] + d[1] * view.forward[1] + d[2] * view.forward[2];
    return this.hit.t * along;
  }

  /** One light sample for image position (px, py) in pixels. */
  sample(view: View, px: number, py: number, width: number, height: number, lens: Lens | null, out: Sample): void {
    let origin = view.position;
    let d = rayThrough(view, px, py, width, height);
    if (lens) {
      const [lu, lv] = this.lensPoint(lens);
      const along = d[0] * view.forward[0] + d[1] * view.forward[1] + d[2] * view.forward[2];
      const reach = lens.focusDistance / along;
      const { right, up } = view;
      const from: Vec3 = [origin[0] + right[0] * lu + up[0] * lv, origin[1] + right[1] * lu + up[1] * lv, origin[2] + right[2] * lu + up[2] * lv];
      d = normalize([origin[0] + d[0] * reach - from[0], origin[1] + d[1] * reach - from[1], origin[2] + d[2] * reach - from[2]]);
      origin = from;
    }
    if (!this.seen || !this.lookUp(this.seen, origin, d, out)) this.radiance(origin, d, view, out);
  }

  /** Reads the light of the first hit from the finished picture; false where that picture does not plainly see it. */
  private lookUp(seen: SeenLight, o: Vec3, d: Vec3, out: Sample): boolean {
    const { view, width, height, rgb, distance } = seen;
    const found = this.bvh.intersect(o[0], o[1], o[2], d[0], d[1], d[2], Infinity, this.hit);
    out.distance = Infinity;
    if (found && this.scene.sparkMaterials.includes(this.scene.mesh.materialOf[this.hit.triangle]!)) {
      if (!seen.sparksApart) return false;
      out.r = out.g = out.b = 0;
      return true;
    }
    const t = found ? this.hit.t : 1e7;
    const qx = o[0] + d[0] * t - view.position[0];
    const qy = o[1] + d[1] * t - view.position[1];
    const qz = o[2] + d[2] * t - view.position[2];
    const z = qx * view.forward[0] + qy * view.forward[1] + qz * view.forward[2];
    const x = ((qx * view.right[0] + qy * view.right[1] + qz * view.right[2]) / z) * view.focalPx + width / 2 - 0.5;
    const y = (-(qx * view.up[0] + qy * view.up[1] + qz * view.up[2]) / z) * view.focalPx + height / 2 - 0.5;
    const ix = Math.floor(x);
    const iy = Math.floor(y);
    if (z <= 0 || ix < 1 || iy < 1 || ix >= width - 2 || iy >= height - 2) return false;
    const tolerance = 0.02 * z;
    for (let v = iy - 1; v <= iy + 2; v++)
      for (let u = ix - 1; u <= ix + 2; u++) {
        const other = distance[v * width + u]!;
        if (found ? !(Math.abs(other - z) < tolerance) : other !== Infinity) return false;
      }
    const fx = x - ix;
    const fy = y - iy;
    const at = (k: number): number => {
      const i = (iy * width + ix) * 3 + k;
      const j = i + width * 3;
      return (rgb[i]! * (1 - fx) + rgb[i + 3]! * fx) * (1 - fy) + (rgb[j]! * (1 - fx) + rgb[j + 3]! * fx) * fy;
    };
    out.r = at(0);
    out.g = at(1);
    out.b = at(2);
    if (found) out.distance = z;
    return true;
  }

  /**
   * Adds the small lights as the lens images them: pairs of a point on the light and a point on the lens, projected
   * through the focus plane. `rgb` is interleaved; a light of angular area Ω px² spreads L·Ω over where it falls.
   */
  splatSparks(view: View, width: number, height: number, lens: Lens | null, rays: number, rgb: Float32Array): void {
    for (const { position, radius, radiance } of this.scene.sparks) {
      const rel = sub(position, view.position);
      const z = dotOf(rel, view.forward);
      if (z <= radius) continue;
      const haze = this.scene.haze ? Math.exp((-3.912 * z) / this.scene.haze.visibility) : 1;
      const area = Math.PI * ((radius * view.focalPx) / z) ** 2;
      const weight = (area * haze) / rays;
      for (let i = 0; i < rays; i++) {
        const a = 2 * Math.PI * this.random();
        const r = radius * Math.sqrt(this.random());
        const [lu, lv] = lens ? this.lensPoint(lens) : [0, 0];
        const x = dotOf(rel, view.right) + r * Math.cos(a);
        const y = dotOf(rel, view.up) + r * Math.sin(a);
        const s = lens ? lens.focusDistance : z;
        const px = ((lu + ((x - lu) * s) / z) / s) * view.focalPx + width / 2 - 0.5;
        const py = -((lv + ((y - lv) * s) / z) / s) * view.focalPx + height / 2 - 0.5;
        const ix = Math.floor(px);
        const iy = Math.floor(py);
        if (ix < -1 || iy < -1 || ix >= width || iy >= height) continue;
        const at = (k: 0 | 1 | 2): number => view.position[k] + view.right[k] * lu + view.up[k] * lv;
        const from: Vec3 = [at(0), at(1), at(2)];
        const to = (k: 0 | 1 | 2): number => view.position[k] + view.right[k] * x + view.up[k] * y + view.forward[k] * z - from[k];
        const d: Vec3 = [to(0), to(1), to(2)];
        const length = Math.hypot(d[0], d[1], d[2]);
        const reach = length - radius * 1.2;
        if (this.bvh.intersect(from[0], from[1], from[2], d[0] / length, d[1] / length, d[2] / length, reach, this.shadow, true)) continue;
        const fx = px - ix;
        const fy = py - iy;
        for (let v = 0; v < 2; v++)
          for (let u = 0; u < 2; u++) {
            const qx = ix + u;
            const qy = iy + v;
            if (qx < 0 || qy < 0 || qx >= width || qy >= height) continue;
            const w = weight * (u ? fx : 1 - fx) * (v ? fy : 1 - fy);
            for (let k = 0; k < 3; k++) rgb[(qy * width + qx) * 3 + k]! += w * radiance[k as 0];
          }
      }
    }
  }

  private lensPoint(lens: Lens): [number, number] {
    const radius = lens.apertureDiameter / 2;
    if (lens.blades < 3) {
      const r = radius * Math.sqrt(this.random());
      const a = 2 * Math.PI * this.random();
      return [r * Math.cos(a), r * Math.sin(a)];
    }
    // uniform in one triangle of the regular polygon
    const sector = Math.floor(this.random() * lens.blades);
    let a = this.random();
    let b = this.random();
    if (a + b > 1) {
      a = 1 - a;
      b = 1 - b;
    }
    const s = (2 * Math.PI) / lens.blades;
    const p = sector * s;
    return [radius * (a * Math.cos(p) + b * Math.cos(p + s)), -radius * (a * Math.sin(p) + b * Math.sin(p + s))];
  }

  private radiance(origin: Vec3, direction: Vec3, view: View, out: Sample): void {
    const { scene, bvh, hit, surface, random } = this;
    let [ox, oy, oz] = origin;
    let [dx, dy, dz] = direction;
    this.tr = this.tg = this.tb = 1;
    this.r = this.g = this.b = 0;
    let seesLamps = true;
    out.distance = Infinity;
    out.albedo[0] = out.albedo[1] = out.albedo[2] = 1;
    out.normal[0] = out.normal[1] = out.normal[2] = 0;
    const { mesh, materials } = scene;
    for (let depth = 0; depth <= scene.bounces; depth++) {
      const found = bvh.intersect(ox, oy, oz, dx, dy, dz, Infinity, hit);
      this.limit = depth === 0 ? Infinity : FIREFLY_LIMIT;
      if (!found) {
        const l = scene.sky([dx, dy, dz]);
        this.gather(l[0], l[1], l[2]);
        break;
      }
      const t = hit.t;
      if (scene.haze && depth === 0) {
        const through = Math.exp((-3.912 * t) / scene.haze.visibility);
        const air = scene.haze.colour([dx, dy, dz]);
        this.r += (1 - through) * air[0];
        this.g += (1 - through) * air[1];
        this.b += (1 - through) * air[2];
        this.tr *= through;
        this.tg *= through;
        this.tb *= through;
      }
      const tri = hit.triangle * 3;
      const ia = mesh.triangles[tri]!;
      const ib = mesh.triangles[tri + 1]!;
      const ic = mesh.triangles[tri + 2]!;
      const w = 1 - hit.u - hit.v;
      const { normals, uvs } = mesh;
      const hu = hit.u;
      const hv = hit.v;
      let nx = normals[ia * 3]! * w + normals[ib * 3]! * hu + normals[ic * 3]! * hv;
      let ny = normals[ia * 3 + 1]! * w + normals[ib * 3 + 1]! * hu + normals[ic * 3 + 1]! * hv;
      let nz = normals[ia * 3 + 2]! * w + normals[ib * 3 + 2]! * hu + normals[ic * 3 + 2]! * hv;
      const flip = nx * dx + ny * dy + nz * dz > 0 ? -1 : 1;
      let length = flip / (Math.hypot(nx, ny, nz) || 1);
      nx *= length;
      ny *= length;
      nz *= length;
      const px = ox + dx * t;
      const py = oy + dy * t;
      const pz = oz + dz * t;
      const point: Point = {
        p: [px, py, pz],
        n: [nx, ny, nz],
        u: uvs[ia * 2]! * w + uvs[ib * 2]! * hu + uvs[ic * 2]! * hv,
        v: uvs[ia * 2 + 1]! * w + uvs[ib * 2 + 1]! * hu + uvs[ic * 2 + 1]! * hv,
      };
      shade(materials[mesh.materialOf[hit.triangle]!]!, point, surface);
      const gx = nx;
      const gy = ny;
      const gz = nz;
      nx += surface.bump[0];
      ny += surface.bump[1];
      nz += surface.bump[2];
      length = 1 / (Math.hypot(nx, ny, nz) || 1);
      nx *= length;
      ny *= length;
      nz *= length;
      if (nx * dx + ny * dy + nz * dz > -0.02) {
        nx = gx;
        ny = gy;
        nz = gz;
      }
      if (depth === 0) {
        out.distance = t * (dx * view.forward[0] + dy * view.forward[1] + dz * view.forward[2]);
        for (let k = 0; k < 3; k++) out.albedo[k] = surface.metal ? 1 : surface.albedo[k]!;
        out.normal[0] = nx;
        out.normal[1] = ny;
        out.normal[2] = nz;
      }
      const e = surface.emission;
      const apart = depth === 0 && this.seen?.sparksApart === true && scene.sparkMaterials.includes(mesh.materialOf[hit.triangle]!);
      if (seesLamps && !apart && (e[0] > 0 || e[1] > 0 || e[2] > 0)) this.gather(e[0], e[1], e[2]);
      if (e[0] > 0) break;
      const eps = 1e-4 * Math.max(1, t * 0.2);
      const sx = px + gx * eps;
      const sy = py + gy * eps;
      const sz = pz + gz * eps;
      const cosine = Math.max(0.001, -(nx * dx + ny * dy + nz * dz));
      const fresnel = surface.specular > 0 ? surface.specular + (1 - surface.specular) * (1 - cosine) ** 5 : 0;
      const sharp = surface.roughness < SPECULAR_ROUGHNESS;
      const reflectShare = surface.metal ? 1 : Math.min(0.95, Math.max(fresnel, surface.specular > 0 ? 0.1 : 0));
      const reflects = (surface.metal || surface.specular > 0) && random() < reflectShare;
      if (reflects) {
        const gain = (surface.metal ? 1 : fresnel) / reflectShare;
        // GGX microfacet normal (Walter 2007), weighted as a perfect lobe
        const alpha = surface.roughness * surface.roughness;
        const r1 = random();
        const theta = Math.atan(alpha * Math.sqrt(r1 / Math.max(1e-6, 1 - r1)));
        const phi = 2 * Math.PI * random();
        const m = aroundNormal(nx, ny, nz, Math.sin(theta) * Math.cos(phi), Math.sin(theta) * Math.sin(phi), Math.cos(theta));
        const k = 2 * (dx * m[0] + dy * m[1] + dz * m[2]);
        dx -= k * m[0];
        dy -= k * m[1];
        dz -= k * m[2];
        if (dx * gx + dy * gy + dz * gz <= 0) break;
        this.tr *= gain * (surface.metal ? surface.albedo[0] : 1);
        this.tg *= gain * (surface.metal ? surface.albedo[1] : 1);
        this.tb *= gain * (surface.metal ? surface.albedo[2] : 1);
        seesLamps = sharp || surface.metal;
        if (!seesLamps) this.direct(sx, sy, sz, dx, dy, dz, 1.2, 0);
      } else {
        const keep = (1 - fresnel) / (1 - reflectShare || 1);
        this.tr *= keep * surface.albedo[0];
        this.tg *= keep * surface.albedo[1];
        this.tb *= keep * surface.albedo[2];
        this.direct(sx, sy, sz, nx, ny, nz, 1, surface.translucency);
        const through = surface.translucency > 0 && random() < surface.translucency;
        const r1 = 2 * Math.PI * random();
        const r2 = random();
        const s2 = Math.sqrt(r2);
        const d = aroundNormal(nx, ny, nz, s2 * Math.cos(r1), s2 * Math.sin(r1), Math.sqrt(1 - r2));
        [dx, dy, dz] = through ? [-d[0], -d[1], -d[2]] : d;
        seesLamps = false;
        if (through) {
          ox = px - gx * eps;
          oy = py - gy * eps;
          oz = pz - gz * eps;
          continue;
        }
      }
      ox = sx;
      oy = sy;
      oz = sz;
      // Russian roulette: dim paths end early, those that go on count for more
      const survive = Math.min(1, 1.4 * Math.max(this.tr, this.tg, this.tb));
      if (depth > 0 || survive < 0.4) {
        if (random() >= survive) break;
        this.tr /= survive;
        this.tg /= survive;
        this.tb /= survive;
      }
    }
    out.r = this.r;
    out.g = this.g;
    out.b = this.b;
  }

  private gather(r: number, g: number, b: number): void {
    const { limit } = this;
    this.r += Math.min(limit, this.tr * r);
    this.g += Math.min(limit, this.tg * g);
    this.b += Math.min(limit, this.tb * b);
  }

  /** Adds the light of the sun and of one lamp arriving at a point, for a diffuse surface of albedo 1. */
  private direct(px: number, py: number, pz: number, nx: number, ny: number, nz: number, gain: number, translucency: number): void {
    const { scene, bvh, shadow, random } = this;
    if (scene.sun) {
      const { direction, angularRadius, irradiance } = scene.sun;
      const a = 2 * Math.PI * random();
      const s = angularRadius * Math.sqrt(random());
      const l = aroundNormal(direction[0], direction[1], direction[2], s * Math.cos(a), s * Math.sin(a), 1);
      const raw = nx * l[0] + ny * l[1] + nz * l[2];
      const c = raw > 0 ? raw * (1 - translucency * 0.5) : -raw * translucency;
      const side = raw > 0 ? 0 : 2e-3;
      if (c > 0 && !bvh.intersect(px - nx * side, py - ny * side, pz - nz * side, l[0], l[1], l[2], Infinity, shadow, true)) {
        const k = (gain * c) / Math.PI;
        this.gather(irradiance[0] * k, irradiance[1] * k, irradiance[2] * k);
      }
    }
    const lamps = scene.lamps;
    if (lamps.length === 0) return;
    let total = 0;
    for (let i = 0; i < lamps.length; i++) {
      const { position: q, radius, radiance } = lamps[i]!;
      const d2 = (q[0] - px) ** 2 + (q[1] - py) ** 2 + (q[2] - pz) ** 2;
      total += (radius * radius * (radiance[0] + radiance[1] + radiance[2])) / Math.max(d2, radius * radius * 4);
      this.lampWeight[i] = total;
    }
    const pick = random() * total;
    let i = 0;
    while (i < lamps.length - 1 && this.lampWeight[i]! < pick) i++;
    const lamp: Lamp = lamps[i]!;
    const chance = (this.lampWeight[i]! - (i > 0 ? this.lampWeight[i - 1]! : 0)) / total;
    // a point on the sphere's disc as seen from here; irradiance of a sphere = π·L·r²/d² · cos
    const cx = lamp.position[0] - px;
    const cy = lamp.position[1] - py;
    const cz = lamp.position[2] - pz;
    const distance = Math.hypot(cx, cy, cz);
    const ra = 2 * Math.PI * random();
    const rr = lamp.radius * Math.sqrt(random());
    const off = aroundNormal(cx / distance, cy / distance, cz / distance, rr * Math.cos(ra), rr * Math.sin(ra), 0, false);
    const l = normalize([cx + off[0], cy + off[1], cz + off[2]]);
    const c = nx * l[0] + ny * l[1] + nz * l[2];
    if (c <= 0) return;
    const reach = distance - lamp.radius * 1.15 - 1e-3;
    if (reach > 0 && bvh.intersect(px, py, pz, l[0], l[1], l[2], reach, shadow, true)) return;
    const k = (gain * c * lamp.radius * lamp.radius) / Math.max(distance * distance, lamp.radius * lamp.radius) / chance;
    this.gather(lamp.radiance[0] * k, lamp.radiance[1] * k, lamp.radiance[2] * k);
  }
}

const dotOf = (a: Vec3, b: Vec3): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];

function rayThrough(view: View, px: number, py: number, width: number, height: number): Vec3 {
  const x = (px - width / 2) / view.focalPx;
  const y = -(py - height / 2) / view.focalPx;
  const { right, up, forward } = view;
  return normalize([forward[0] + right[0] * x + up[0] * y, forward[1] + right[1] * x + up[1] * y, forward[2] + right[2] * x + up[2] * y]);
}

/** Vector (x, y, z) of the frame whose third axis is n; unit length unless told otherwise. */
function aroundNormal(nx: number, ny: number, nz: number, x: number, y: number, z: number, unit = true): [number, number, number] {
  // Duff et al. 2017
  const sign = nz >= 0 ? 1 : -1;
  const a = -1 / (sign + nz);
  const b = nx * ny * a;
  const vx = x * (1 + sign * nx * nx * a) + y * b + z * nx;
  const vy = x * sign * b + y * (sign + ny * ny * a) + z * ny;
  const vz = x * -sign * nx - y * ny + z * nz;
  if (!unit) return [vx, vy, vz];
  const length = 1 / Math.hypot(vx, vy, vz);
  return [vx * length, vy * length, vz * length];
}
