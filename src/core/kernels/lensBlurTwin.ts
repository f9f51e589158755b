import { RADIUS_STEP, type SpanTable } from './aperture';
import { hiddenLevels, type BlurShape } from './blurShape';
import { cutAt, cutSpan, type DiscProfile } from './discProfile';
import type { RadiusPicture } from './lensBlurHost';

const EVEN: Pick<DiscProfile, 'layers'> = { layers: [[1, 1]] };

/**
 * The lens blur written to be read: the same steps as the WASM kernel, one pixel at a time. The tests compare the two.
 * Returns RGBA with alpha 1.
 */
export function blurTwin(picture: RadiusPicture, shape: BlurShape): Float32Array {
  const { width, height, data } = picture;
  const hidden = hiddenPlateTwin(picture, shape.maxRadius);
  const out = new Float32Array(width * height * 4);
  const maxRow = Math.max(shape.far.maxRow, shape.near.maxRow);
  const pad = 2 * maxRow + 2;
  const slices = shape.sliceEdges.length + 1;
  const difference = Array.from({ length: slices }, () => new Float64Array((width + 2 * pad + 4) * 4));
  const limit = Math.ceil(shape.maxRadius / RADIUS_STEP);
  const stepOf = (rho: number): number => Math.max(-limit, Math.min(limit, Math.round(rho / RADIUS_STEP)));
  const sliceOf = (step: number): number => {
    let k = 0;
    while (k < shape.sliceEdges.length && step * RADIUS_STEP >= shape.sliceEdges[k]!) k++;
    return k;
  };
  for (let y = 0; y < height; y++) {
    for (const row of difference) row.fill(0);
    for (let dy = -maxRow; dy <= maxRow; dy++) {
      const sourceY = y - dy;
      const row = Math.min(height - 1, Math.max(0, sourceY));
      const add = (x: number, source: Float32Array, i: number, step: number, clampLight: boolean): void => {
        const table: SpanTable = step < 0 ? shape.near : shape.far;
        const d = difference[sliceOf(step)]!;
        const { profile } = shape;
        const inside = Math.max(0, Math.min(width - 1, x));
        const cut = profile && profile.cut > 0 ? cutAt(profile, inside, row, width, height, step < 0) : null;
        for (const [scale, share] of (profile ?? EVEN).layers) {
          const q = Math.round(Math.abs(step) * scale);
          if (Math.abs(dy) > table.lastRow[q]!) continue;
          const e = table.offset[q]! + table.lastRow[q]! + dy;
          const span = cutSpan(table, e, q, dy, cut);
          if (!span) continue;
          const [left, right] = span.map(Math.floor) as [number, number];
          const [l1, r1] = [span[0] - left, span[1] - right];
          const weight = table.weight[e]! * share * (cut?.gain ?? 1);
          for (let c = 0; c < 4; c++) {
            const light = c === 3 ? 1 : clampLight ? Math.min(1, source[i + c]!) : source[i + c]!;
            const v = light * weight;
            const l = (x + pad + left) * 4 + c;
            const r = (x + pad + right) * 4 + c;
            d[l]! += v * (1 - l1);
            d[l + 4]! += v * l1;
            d[r]! -= v * (1 - r1);
            d[r + 4]! -= v * r1;
          }
        }
      };
      const outside = row !== sourceY;
      const first = row * width * 4;
      const last = first + (width - 1) * 4;
      const rowOf = (step: number): number => (step < 0 ? shape.near : shape.far).lastRow[Math.abs(step)]!;
      const s0 = stepOf(data[first + 3]!);
      const s1 = stepOf(data[last + 3]!);
      for (let t = 1; t <= rowOf(s0); t++) add(-t, data, first, s0, true);
      for (let t = 1; t <= rowOf(s1); t++) add(width - 1 + t, data, last, s1, true);
      for (let x = 0; x < width; x++) {
        const i = first + x * 4;
        const step = stepOf(data[i + 3]!);
        add(x, data, i, step, outside);
        const behind = hidden[i + 3]!;
        if (behind > NOTHING && sliceOf(stepOf(behind)) !== sliceOf(step)) add(x, hidden, i, stepOf(behind), outside);
      }
    }
    const transmittance = new Float64Array(width).fill(1);
    for (const row of difference) {
      const sum = [0, 0, 0, 0];
      for (let p = 0; p < pad + width; p++) {
        for (let c = 0; c < 4; c++) sum[c]! += row[p * 4 + c]!;
        const x = p - pad;
        const weight = sum[3]!;
        if (x < 0 || weight <= 1e-4) continue;
        const cover = Math.min(weight, transmittance[x]!);
        for (let c = 0; c < 3; c++) out[(y * width + x) * 4 + c]! += (sum[c]! * cover) / weight;
        transmittance[x]! -= cover;
      }
    }
    for (let x = 0; x < width; x++) {
      const o = (y * width + x) * 4;
      const gain = 1 / Math.max(1e-4, 1 - transmittance[x]!);
      for (let c = 0; c < 3; c++) out[o + c]! *= gain;
      out[o + 3] = 1;
    }
  }
  return out;
}

export const NOTHING = -1e9;

interface Level {
  width: number;
  height: number;
  data: Float32Array;
}

function farthestLevel(source: Level, level: number): Level {
  const width = (source.width + 1) >> 1;
  const height = (source.height + 1) >> 1;
  const data = new Float32Array(width * height * 4);
  const tolerance = 0.5 + 0.25 * 2 ** level;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const children: number[] = [];
      for (let j = 0; j < 2; j++)
        for (let i = 0; i < 2; i++)
          children.push((Math.min(source.height - 1, 2 * y + j) * source.width + Math.min(source.width - 1, 2 * x + i)) * 4);
      const farthest = Math.max(...children.map((c) => source.data[c + 3]!));
      const kept = children.filter((c) => source.data[c + 3]! >= Math.fround(farthest - tolerance));
      for (let c = 0; c < 4; c++) {
        const read = (p: number): number => (level === 1 && c < 3 ? Math.min(1, source.data[p + c]!) : source.data[p + c]!);
        data[(y * width + x) * 4 + c] = kept.reduce((s, p) => s + read(p), 0) / kept.length;
      }
    }
  return { width, height, data };
}

/** Colour and radius of what lies behind each pixel; radius NOTHING where the lens sees nothing there. */
export function hiddenPlateTwin(picture: RadiusPicture, maxRadius: number): Float32Array {
  const { width, height, data } = picture;
  const pyramid: Level[] = [];
  let source: Level = picture;
  for (let l = 1; l <= hiddenLevels(maxRadius); l++) {
    source = farthestLevel(source, l);
    pyramid.push(source);
  }
  const out = new Float32Array(width * height * 4);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = (y * width + x) * 4;
      let left = 1;
      const sum = [0, 0, 0, 0];
      for (const [index, level] of pyramid.entries()) {
        const cell = 2 ** (index + 1);
        const need = Math.fround(data[i + 3]! + Math.max(1, 0.55 * cell));
        const fx = (x + 0.5) / cell - 0.5;
        const fy = (y + 0.5) / cell - 0.5;
        const tx = fx - Math.floor(fx);
        const ty = fy - Math.floor(fy);
        let cover = 0;
        const taps = [0, 0, 0, 0];
        for (let v = 0; v < 2; v++)
          for (let u = 0; u < 2; u++) {
            const px = Math.min(level.width - 1, Math.max(0, Math.floor(fx) + u));
            const py = Math.min(level.height - 1, Math.max(0, Math.floor(fy) + v));
            const p = (py * level.width + px) * 4;
            if (level.data[p + 3]! < need) continue;
            const w = (u ? tx : 1 - tx) * (v ? ty : 1 - ty);
            cover += w;
            for (let c = 0; c < 4; c++) taps[c]! += w * level.data[p + c]!;
          }
        if (cover <= 0) continue;
        for (let c = 0; c < 4; c++) sum[c]! += left * taps[c]!;
        left *= 1 - cover;
        if (left < 0.03) break;
      }
      for (let c = 0; c < 4; c++) out[i + c] = left < 0.95 ? sum[c]! / (1 - left) : c === 3 ? NOTHING : 0;
    }
  return out;
}
