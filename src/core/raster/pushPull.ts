import { newFloats, newPlane, type Plane } from '../picture';

interface Level {
  readonly width: number;
  readonly height: number;
  readonly value: Float32Array;
  readonly weight: Float32Array;
}

/**
 * Fills what is not known (NaN) from what is, smoothly: averages of what is known at ever coarser scales, then back down
 * (push-pull: Gortler, Grzeszczuk, Szeliski & Cohen 1996, sec. 3.4). What is known is kept as it is. Nothing known gives 0.
 */
export function pushPull(plane: Plane, shared = false): Plane {
  const { width, height, data } = plane;
  const base: Level = { width, height, value: newFloats(width * height), weight: newFloats(width * height) };
  let missing = 0;
  for (let i = 0; i < data.length; i++) {
    const v = data[i]!;
    if (v === v) {
      base.value[i] = v;
      base.weight[i] = 1;
    } else missing++;
  }
  const out = newPlane(width, height, shared);
  out.data.set(base.value);
  if (missing === 0) return out;
  const levels = [base];
  for (let top = base; top.width > 1 || top.height > 1;) {
    top = pull(top);
    levels.push(top);
  }
  for (let k = levels.length - 2; k >= 0; k--) push(levels[k + 1]!, levels[k]!);
  for (let i = 0; i < data.length; i++) if (data[i] !== data[i]) out.data[i] = base.value[i]!;
  return out;
}

/** Half the size: means of 2x2 weighed by what is known; full weight from a quarter known on. */
function pull(fine: Level): Level {
  const width = Math.max(1, (fine.width + 1) >> 1);
  const height = Math.max(1, (fine.height + 1) >> 1);
  const value = newFloats(width * height);
  const weight = newFloats(width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      let sum = 0;
      let total = 0;
      for (let v = 2 * y; v < Math.min(fine.height, 2 * y + 2); v++)
        for (let u = 2 * x; u < Math.min(fine.width, 2 * x + 2); u++) {
          const w = fine.weight[v * fine.width + u]!;
          sum += w * fine.value[v * fine.width + u]!;
          total += w;
        }
      const i = y * width + x;
      value[i] = total > 0 ? sum / total : 0;
      weight[i] = Math.min(1, total);
    }
  return { width, height, value, weight };
}

/** Bilinear from the coarser level where the finer one does not know. */
function push(coarse: Level, fine: Level): void {
  for (let y = 0; y < fine.height; y++)
    for (let x = 0; x < fine.width; x++) {
      const i = y * fine.width + x;
      const w = fine.weight[i]!;
      if (w >= 1) continue;
      const cx = Math.min(coarse.width - 1, Math.max(0, (x + 0.5) / 2 - 0.5));
      const cy = Math.min(coarse.height - 1, Math.max(0, (y + 0.5) / 2 - 0.5));
      const x0 = cx | 0;
      const y0 = cy | 0;
      const x1 = Math.min(coarse.width - 1, x0 + 1);
      const y1 = Math.min(coarse.height - 1, y0 + 1);
      const tx = cx - x0;
      const ty = cy - y0;
      const at = (u: number, v: number): number => coarse.value[v * coarse.width + u]!;
      const c = (at(x0, y0) * (1 - tx) + at(x1, y0) * tx) * (1 - ty) + (at(x0, y1) * (1 - tx) + at(x1, y1) * tx) * ty;
      fine.value[i] = w * fine.value[i]! + (1 - w) * c;
      fine.weight[i] = 1;
    }
}
