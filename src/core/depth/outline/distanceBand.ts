import type { Outline } from './curve';

/** Distance in px from every pixel's centre to the nearest edge, up to the band’s width; and where along the outline that edge lies. */
export interface DistanceBand {
  readonly distance: Float32Array;
  readonly at: Float32Array;
}

/** Exact distances to a polygon within `band` px on both sides of it; Infinity beyond. */
export function distanceBand({ xy, at }: Outline, points: number, width: number, height: number, band: number): DistanceBand {
  const distance = new Float32Array(width * height).fill(Infinity);
  const place = new Float32Array(width * height);
  const n = xy.length / 2;
  const band2 = band * band;
  for (let i = 0; i < n; i++) {
    const j = (i + 1) % n;
    const ax = xy[i * 2]!;
    const ay = xy[i * 2 + 1]!;
    const dx = xy[j * 2]! - ax;
    const dy = xy[j * 2 + 1]! - ay;
    const length2 = dx * dx + dy * dy || 1e-12;
    const from = at[i]!;
    const span = (j === 0 ? points : at[j]!) - from;
    const x0 = Math.max(0, Math.floor(Math.min(ax, ax + dx) - band));
    const x1 = Math.min(width - 1, Math.ceil(Math.max(ax, ax + dx) + band));
    const y0 = Math.max(0, Math.floor(Math.min(ay, ay + dy) - band));
    const y1 = Math.min(height - 1, Math.ceil(Math.max(ay, ay + dy) + band));
    for (let y = y0; y <= y1; y++)
      for (let x = x0; x <= x1; x++) {
        const px = x + 0.5 - ax;
        const py = y + 0.5 - ay;
        let t = (px * dx + py * dy) / length2;
        t = t < 0 ? 0 : t > 1 ? 1 : t;
        const ex = px - t * dx;
        const ey = py - t * dy;
        const d2 = ex * ex + ey * ey;
        const k = y * width + x;
        if (d2 > band2 || d2 >= distance[k]!) continue;
        distance[k] = d2;
        place[k] = from + t * span;
      }
  }
  for (let k = 0; k < distance.length; k++) distance[k] = Math.sqrt(distance[k]!);
  return { distance, at: place };
}
