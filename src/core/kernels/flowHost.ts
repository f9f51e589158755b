import type { Plane } from '../picture';
import { kernels } from './loader';

/**
 * One level of flow between planes of luma 0..255 of one size, at least 8 px each way: patches are searched for, then bettered in `rounds`
 * variational rounds; 0 leaves them as they are. `u` and `v` hold where to begin, then the answer. The readable twins are patchSearch.ts and
 * variational.ts of core/motion.
 */
export function flowLevel(first: Plane, second: Plane, u: Float32Array, v: Float32Array, rounds: number): void {
  const { width, height } = first;
  const n = width * height;
  const k = kernels();
  k.reset();
  const [a, b, pu, pv] = [first.data, second.data, u, v].map((data) => {
    const at = k.take(n * 4);
    k.floats(at, n).set(data);
    return at;
  }) as [number, number, number, number];
  const scratch = k.take(k.run.flowScratch(width, height) * 4);
  k.run.searchFlow(a, b, width, height, pu, pv, scratch);
  if (rounds > 0) k.run.refineFlow(a, b, width, height, pu, pv, rounds, scratch);
  u.set(k.floats(pu, n));
  v.set(k.floats(pv, n));
}

/**
 * A part of a flow of w·h vectors, at least 4 px wide, at another size: its vectors are as much longer as the picture is wider. Bilinear,
 * continued beyond the border.
 */
export function enlargedField(data: Float32Array, w: number, h: number, width: number, height: number): Float32Array<ArrayBuffer> {
  const k = kernels();
  k.reset();
  const [from, out, room] = [k.put(data), k.take(width * height * 4), k.room(w + 1)];
  k.run.enlargeField(from, w, h, out, width, height, room);
  return k.floats(out, width * height).slice();
}
