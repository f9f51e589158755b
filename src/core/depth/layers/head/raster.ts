import type { HeadMesh } from './surface';

export interface DepthRaster {
  /** smallest z under each sample; Infinity where the mesh is not */
  readonly z: Float32Array;
}

/** Draws a mesh's depth at pixel centres: px and z per corner, the smallest z wins. Orthographic, so z is linear over a triangle. */
export function rasterDepth(corners: Float64Array, mesh: HeadMesh, width: number, height: number): DepthRaster {
  const z = new Float32Array(width * height).fill(Infinity);
  const { faces } = mesh;
  for (let f = 0; f < faces.length; f += 3) {
    const a = faces[f]! * 3;
    const b = faces[f + 1]! * 3;
    const c = faces[f + 2]! * 3;
    const ax = corners[a]!;
    const ay = corners[a + 1]!;
    const bx = corners[b]!;
    const by = corners[b + 1]!;
    const cx = corners[c]!;
    const cy = corners[c + 1]!;
    const det = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay);
    if (Math.abs(det) < 1e-12) continue;
    const x0 = Math.max(0, Math.ceil(Math.min(ax, bx, cx) - 0.5));
    const x1 = Math.min(width - 1, Math.floor(Math.max(ax, bx, cx) - 0.5));
    const y0 = Math.max(0, Math.ceil(Math.min(ay, by, cy) - 0.5));
    const y1 = Math.min(height - 1, Math.floor(Math.max(ay, by, cy) - 0.5));
    if (x1 < x0 || y1 < y0) continue;
    const az = corners[a + 2]!;
    const zb = corners[b + 2]! - az;
    const zc = corners[c + 2]! - az;
    for (let y = y0; y <= y1; y++)
      for (let x = x0; x <= x1; x++) {
        const px = x + 0.5 - ax;
        const py = y + 0.5 - ay;
        const u = (px * (cy - ay) - py * (cx - ax)) / det;
        const v = (py * (bx - ax) - px * (by - ay)) / det;
        if (u < -1e-9 || v < -1e-9 || u + v > 1 + 1e-9) continue;
        const depth = az + u * zb + v * zc;
        const k = y * width + x;
        if (depth < z[k]!) z[k] = depth;
      }
  }
  return { z };
}
