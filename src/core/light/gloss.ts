import type { DepthField } from './depthField';
import type { PointLight, Surfaces } from './lights';

/** Schlick's Fresnel term times the distribution and the masking of GGX, without the cosine (Walter et al. 2007, eq. 20, 33, 34). */
export function ggx(cosLight: number, cosView: number, cosHalf: number, cosDifference: number, f0: number, roughness: number): number {
  const a2 = Math.max(1e-4, roughness * roughness) ** 2;
  const d = a2 / (Math.PI * (cosHalf * cosHalf * (a2 - 1) + 1) ** 2);
  const masking = (c: number): number => (2 * c) / (c + Math.sqrt(a2 + (1 - a2) * c * c));
  const fresnel = f0 + (1 - f0) * (1 - cosDifference) ** 5;
  return (d * fresnel * masking(cosLight) * masking(cosView)) / Math.max(1e-4, 4 * cosLight * cosView);
}

/** What a light of intensity 1 gives in shine, of what falls on each pixel of it (`falls`). */
export function shineOf(
  { width: w, height: h, focalPx: f, inverse }: DepthField,
  normals: Float32Array,
  light: PointLight,
  { gloss, roughness }: Pick<Surfaces, 'gloss' | 'roughness'>,
  falls: Float32Array,
): Float32Array {
  const out = new Float32Array(w * h);
  const f0 = 0.08 * gloss;
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      if (!(falls[i]! > 0)) continue;
      const z = 1 / inverse[i]!;
      const u = (x + 0.5 - w / 2) / f;
      const v = (y + 0.5 - h / 2) / f;
      const [ax, ay, az] = light.is === 'lamp' ? [light.place[0] - z * u, light.place[1] - z * v, light.place[2] - z] : light.direction;
      const way = 1 / (light.is === 'lamp' ? Math.max(1e-2, light.size, Math.sqrt(ax * ax + ay * ay + az * az)) : 1);
      const [dx, dy, dz] = [ax * way, ay * way, az * way];
      const nx = normals[3 * i]!;
      const ny = normals[3 * i + 1]!;
      const nz = normals[3 * i + 2]!;
      const toEye = -1 / Math.sqrt(1 + u * u + v * v);
      const [vx, vy, vz] = [u * toEye, v * toEye, toEye];
      const cosView = Math.max(1e-3, nx * vx + ny * vy + nz * vz);
      const [hx, hy, hz] = [dx + vx, dy + vy, dz + vz];
      const k = 1 / Math.max(1e-6, Math.sqrt(hx * hx + hy * hy + hz * hz));
      const cosHalf = Math.max(0, (nx * hx + ny * hy + nz * hz) * k);
      const cosLight = Math.max(1e-6, nx * dx + ny * dy + nz * dz);
      out[i] = ggx(cosLight, cosView, cosHalf, Math.max(0, (vx * hx + vy * hy + vz * hz) * k), f0, roughness) * falls[i]!;
    }
  return out;
}
