import { bilinear } from './bilinear';
import { enlargedFlow } from './flow';
import { fullScale, type Plane, type Raster } from '../picture';
import type { Coverage, Mean, MeanHow, Told, Way } from '../kernels/motionHost';

// What the kernels of motion do, one pixel after another; for tests.

export function shrunkTwin(raster: Raster, across: Coverage, down: Coverage): { readonly rgb: Float64Array; readonly luma: Float64Array } {
  const [width, height] = [across.first.length, down.first.length];
  const rgb = new Float64Array(width * height * 3);
  const luma = new Float64Array(width * height);
  const scale = 255 / fullScale(raster);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      for (let c = 0; c < 3; c++) {
        let sum = 0;
        for (let j = 0; j < down.most; j++)
          for (let i = 0; i < across.most; i++) {
            const share = down.shares[y * down.most + j]! * across.shares[x * across.most + i]!;
            if (share > 0) sum += share * raster.data[((down.first[y]! + j) * raster.width + across.first[x]! + i) * raster.channels + c]!;
          }
        rgb[3 * (y * width + x) + c] = scale * sum;
        luma[y * width + x]! += [0.299, 0.587, 0.114][c]! * scale * sum;
      }
  return { rgb, luma };
}

export function chainedTwin(first: Way, second: Way, w: number, h: number): Way {
  const way = enlargedFlow(first.vectors, w, h);
  const then = enlargedFlow(second.vectors, w, h);
  const u = new Float32Array(w * h);
  const v = new Float32Array(w * h);
  const seen = new Uint8Array(w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      const tx = x + way.u[i]!;
      const ty = y + way.v[i]!;
      u[i] = way.u[i]! + bilinear(then.u, w, h, tx, ty);
      v[i] = way.v[i]! + bilinear(then.v, w, h, tx, ty);
      if (first.seen[i] && tx >= 0 && ty >= 0 && tx <= w - 1 && ty <= h - 1) seen[i] = second.seen[Math.round(ty) * w + Math.round(tx)]!;
    }
  return { vectors: { width: w, height: h, u, v }, seen };
}

export function addToldTwin({ way, map, there, here, near, hidden, like }: Told, sum: Float32Array, total: Float32Array): void {
  const { width: w, height: h } = here;
  const { u, v } = enlargedFlow(way.vectors, w, h);
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      const off = bilinear(there.data, w, h, x + u[i]!, y + v[i]!) - here.data[i]!;
      const weight = near * (way.seen[i]! + hidden) * Math.exp(-(off * off) / (2 * like * like)) + 1e-6;
      sum[i]! += weight * bilinear(map.data, w, h, x + u[i]!, y + v[i]!);
      total[i]! += weight;
    }
}

export function carriedTwin(map: Plane, luma: Plane, way: Way, last: Mean, lumaLast: Plane, { memory, soft, noise, miss }: MeanHow): Mean {
  const { width: w, height: h, data } = map;
  const value = new Float32Array(data.length);
  const count = new Float32Array(data.length);
  const { u, v } = enlargedFlow(way.vectors, w, h);
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      let k = 0;
      let old = 0;
      if (way.seen[i]) {
        const tx = x + u[i]!;
        const ty = y + v[i]!;
        const gx = 0.5 * (luma.data[x + 1 < w ? i + 1 : i]! - luma.data[x > 0 ? i - 1 : i]!);
        const gy = 0.5 * (luma.data[y + 1 < h ? i + w : i]! - luma.data[y > 0 ? i - w : i]!);
        old = bilinear(last.value, w, h, tx, ty);
        const off = bilinear(lumaLast.data, w, h, tx, ty) - luma.data[i]!;
        const jump = (old - data[i]!) / soft;
        const like = 1 / (1 + jump * jump);
        k = Math.min(memory, bilinear(last.count, w, h, tx, ty)) * Math.exp(-(off * off) / (2 * (noise + miss * (gx * gx + gy * gy)))) * like * like;
      }
      value[i] = (data[i]! + k * old) / (1 + k);
      count[i] = 1 + k;
    }
  return { value, count };
}
