import type { Sheet } from './sheet';
import type { FlatMesh } from './tessellate';

/** How far, px each way, a sample that the mesh no longer covers is looked for. */
const AROUND = 24;

/**
 * Draws inverse distances of a mesh over its picture as they are seen from where it was taken. Of several triangles over a pixel the one is kept whose
 * inverse distance is next to what `near` says.
 */
function drawn(mesh: FlatMesh, { width: w, height: h, q: near }: Sheet): Float32Array {
  const out = new Float32Array(w * h).fill(-1);
  const { x, y, q, triangles } = mesh;
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [triangles[t]!, triangles[t + 1]!, triangles[t + 2]!];
    const [ax, ay, bx, by, cx, cy] = [x[a]!, y[a]!, x[b]!, y[b]!, x[c]!, y[c]!];
    const area = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay);
    if (area === 0) continue;
    const slopeX = ((q[b]! - q[a]!) * (cy - ay) - (q[c]! - q[a]!) * (by - ay)) / area;
    const slopeY = ((q[c]! - q[a]!) * (bx - ax) - (q[b]! - q[a]!) * (cx - ax)) / area;
    const y0 = Math.max(0, Math.ceil(Math.min(ay, by, cy) - 0.5 - 1e-4));
    const y1 = Math.min(h - 1, Math.floor(Math.max(ay, by, cy) - 0.5 + 1e-4));
    for (let row = y0; row <= y1; row++) {
      const py = row + 0.5;
      let [from, to] = [Infinity, -Infinity];
      for (const [px, py0, qx, qy] of [
        [ax, ay, bx, by],
        [bx, by, cx, cy],
        [cx, cy, ax, ay],
      ] as const) {
        if (Math.min(py0, qy) > py + 1e-4 || Math.max(py0, qy) < py - 1e-4) continue;
        if (Math.abs(py0 - qy) < 1e-6) {
          from = Math.min(from, px, qx);
          to = Math.max(to, px, qx);
          continue;
        }
        const at = px + (qx - px) * Math.min(1, Math.max(0, (py - py0) / (qy - py0)));
        from = Math.min(from, at);
        to = Math.max(to, at);
      }
      for (let col = Math.max(0, Math.ceil(from - 0.5 - 1e-4)); col <= Math.min(w - 1, Math.floor(to - 0.5 + 1e-4)); col++) {
        const i = row * w + col;
        const v = q[a]! + (col + 0.5 - ax) * slopeX + (py - ay) * slopeY;
        if (out[i]! < 0 || Math.abs(v - near[i]!) < Math.abs(out[i]! - near[i]!)) out[i] = Math.max(0, v);
      }
    }
  }
  return out;
}

/**
 * How far a mesh lies from the surface that it was made of, px, where a camera opens `gain` px of parallax for each 1/m: for every sample the least way to
 * the mesh, aside in the picture or in parallax, whichever is more; AROUND px at the most where a thing is gone and nothing stands beside it. 0 where there is no
 * sample.
 */
export function deviations(mesh: FlatMesh, sheet: Sheet, gain: number): Float32Array {
  const { width: w, height: h, q } = sheet;
  const seen = drawn(mesh, sheet);
  const out = new Float32Array(w * h);
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      const v = q[i]!;
      if (v < 0) continue;
      let least = seen[i]! < 0 ? Infinity : gain * Math.abs(seen[i]! - v);
      for (let d = 1; d <= AROUND && d < least; d++)
        for (let yy = Math.max(0, y - d); yy <= Math.min(h - 1, y + d); yy++)
          for (let xx = Math.max(0, x - d); xx <= Math.min(w - 1, x + d); xx += Math.abs(yy - y) === d ? 1 : 2 * d) {
            const s = seen[yy * w + xx]!;
            if (s >= 0) least = Math.min(least, Math.max(d, gain * Math.abs(s - v)));
          }
      out[i] = Math.min(least, AROUND);
    }
  return out;
}

/** The largest of all deviations, px. */
export const deviation = (mesh: FlatMesh, sheet: Sheet, gain: number): number => deviations(mesh, sheet, gain).reduce((a, b) => Math.max(a, b), 0);
