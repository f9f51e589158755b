import { FULL } from '../packed';
import type { PageFacts } from '../facts';
import type { Draw } from './gl';
import type { Surface } from './surfaces';

/** px across at the most: the main processor draws them one by one. */
const MOST = 480;

/** Draws without a graphics processor: the same triangles, by the same rule, with fewer pixels; null where there is no canvas either. */
export function drawSoftly(canvas: HTMLCanvasElement, facts: PageFacts, surfaces: readonly Surface[]): Draw | null {
  const context = canvas.getContext('2d');
  if (!context) return null;
  const k = Math.min(1, MOST / facts.width);
  const [w, h] = [Math.round(facts.width * k), Math.round(facts.height * k)];
  const small = document.createElement('canvas');
  [small.width, small.height] = [w, h];
  const pen = small.getContext('2d', { willReadFrequently: true })!;
  const pictures = surfaces.map(({ picture }) => {
    pen.clearRect(0, 0, w, h);
    pen.drawImage(picture, 0, 0, w, h);
    return new Uint32Array(pen.getImageData(0, 0, w, h).data.buffer);
  });
  const image = pen.createImageData(w, h);
  const out = new Uint32Array(image.data.buffer);
  const depth = new Float32Array(w * h);
  return (aside, up) => {
    depth.fill(-1);
    out.fill(0);
    for (const [s, { corners, triangles }] of surfaces.entries()) {
      const picture = pictures[s]!;
      const n = corners.length / 4;
      const [X, Y, Q] = [new Float32Array(n), new Float32Array(n), new Float32Array(n)];
      for (let i = 0; i < n; i++) {
        const q = (corners[i * 4 + 2]! / FULL) * facts.most;
        const x = (corners[i * 4]! / FULL) * facts.width;
        const y = (corners[i * 4 + 1]! / FULL) * facts.height;
        X[i] = k * (facts.width / 2 + facts.enlarged * (x - facts.width / 2 - facts.focal * aside * (q - facts.still)));
        Y[i] = k * (facts.height / 2 + facts.enlarged * (y - facts.height / 2 + facts.focal * up * (q - facts.still)));
        Q[i] = q;
      }
      for (let t = 0; t < triangles.length; t += 3) {
        const [a, b, c] = [triangles[t]!, triangles[t + 1]!, triangles[t + 2]!];
        const [ax, ay] = [X[a]!, Y[a]!];
        const [ux, uy, vx, vy] = [X[b]! - ax, Y[b]! - ay, X[c]! - ax, Y[c]! - ay];
        const area = ux * vy - vx * uy;
        if (Math.abs(area) < 1e-9) continue;
        const x0 = Math.max(0, Math.ceil(Math.min(ax, X[b]!, X[c]!) - 0.5));
        const x1 = Math.min(w - 1, Math.floor(Math.max(ax, X[b]!, X[c]!) - 0.5));
        const y0 = Math.max(0, Math.ceil(Math.min(ay, Y[b]!, Y[c]!) - 0.5));
        const y1 = Math.min(h - 1, Math.floor(Math.max(ay, Y[b]!, Y[c]!) - 0.5));
        for (let y = y0; y <= y1; y++)
          for (let x = x0; x <= x1; x++) {
            const [px, py] = [x + 0.5 - ax, y + 0.5 - ay];
            const m = (px * vy - vx * py) / area;
            const l = (ux * py - px * uy) / area;
            if (m < -1e-6 || l < -1e-6 || m + l > 1 + 1e-6) continue;
            const q = Q[a]! + m * (Q[b]! - Q[a]!) + l * (Q[c]! - Q[a]!);
            const i = y * w + x;
            if (q <= depth[i]!) continue;
            const tx = corners[a * 4]! + m * (corners[b * 4]! - corners[a * 4]!) + l * (corners[c * 4]! - corners[a * 4]!);
            const ty = corners[a * 4 + 1]! + m * (corners[b * 4 + 1]! - corners[a * 4 + 1]!) + l * (corners[c * 4 + 1]! - corners[a * 4 + 1]!);
            depth[i] = q;
            out[i] = picture[Math.min(h - 1, Math.floor((ty / (FULL + 1)) * h)) * w + Math.min(w - 1, Math.floor((tx / (FULL + 1)) * w))]!;
          }
      }
    }
    pen.putImageData(image, 0, 0);
    context.clearRect(0, 0, canvas.width, canvas.height);
    context.drawImage(small, 0, 0, canvas.width, canvas.height);
  };
}
