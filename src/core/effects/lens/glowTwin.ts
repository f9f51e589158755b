import { luminance } from '../../raster/colour';
import { newPicture, type Picture } from '../../picture';
import { smoothstep } from '../../scalar';
import type { GlowPlan } from './glow';

/** Half the size: means of 2x2; a last row or column without a partner counts as two. */
export function halved({ width, height, data }: Picture): Picture {
  const out = newPicture(Math.max(1, (width + 1) >> 1), Math.max(1, (height + 1) >> 1));
  const to = out.data;
  const rowStep = width * 4;
  for (let y = 0, o = 0; y < out.height; y++) {
    const row = 2 * y * rowStep;
    const below = 2 * y + 1 < height ? rowStep : 0;
    for (let x = 0; x < out.width; x++, o += 4) {
      const a = row + 8 * x;
      const b = 2 * x + 1 < width ? a + 4 : a;
      const c = a + below;
      const d = b + below;
      to[o] = 0.25 * (data[a]! + data[b]! + data[c]! + data[d]!);
      to[o + 1] = 0.25 * (data[a + 1]! + data[b + 1]! + data[c + 1]! + data[d + 1]!);
      to[o + 2] = 0.25 * (data[a + 2]! + data[b + 2]! + data[c + 2]! + data[d + 2]!);
    }
  }
  return out;
}

/** Adds a coarser level to a finer one, bilinear, colours alone: of two pixels each takes ¾ of its own cell and ¼ of the next. `fine` is written. */
export function addTo(fine: Picture, coarse: Picture): void {
  const { width, height, data } = fine;
  const from = coarse.data;
  const length = coarse.width * 4;
  // one row of the coarse level between its own, with its ends repeated on both sides
  const row = new Float32Array(length + 8);
  for (let y = 0, o = 0; y < height; y++) {
    const own = y >> 1;
    const next = Math.min(coarse.height - 1, Math.max(0, own + (y & 1 ? 1 : -1)));
    const [a, b] = [own * length, next * length];
    for (let i = 0; i < length; i++) row[i + 4] = 0.75 * from[a + i]! + 0.25 * from[b + i]!;
    for (let k = 0; k < 4; k++) {
      row[k] = row[k + 4]!;
      row[length + 4 + k] = row[length + k]!;
    }
    for (let x = 0; x < width; x++, o += 4) {
      const i = 4 + (x >> 1) * 4;
      const j = x & 1 ? i + 4 : i - 4;
      data[o]! += 0.75 * row[i]! + 0.25 * row[j]!;
      data[o + 1]! += 0.75 * row[i + 1]! + 0.25 * row[j + 1]!;
      data[o + 2]! += 0.75 * row[i + 2]! + 0.25 * row[j + 2]!;
    }
  }
}

/** What the kernels of glow do, plainly: what glows, its octaves, and both put together. */
export function glowTwin(picture: Picture, { from, to, share, octaves, plain, tint }: GlowPlan): Picture {
  const { width, height, data } = picture;
  const bright = newPicture(width, height);
  for (let o = 0; o < data.length; o += 4) {
    const amount = share * smoothstep(from, to, luminance(data[o]!, data[o + 1]!, data[o + 2]!));
    for (let k = 0; k < 3; k++) bright.data[o + k] = amount * data[o + k]!;
  }
  const levels = [bright];
  for (const _ of octaves) levels.push(halved(levels[levels.length - 1]!));
  let glow = newPicture(0, 0);
  for (let n = levels.length - 1; n >= 0; n--) {
    const own = levels[n]!;
    const sum: Picture = { ...own, data: own.data.map((v) => v * (octaves[n - 1] ?? 0)) };
    if (glow.width > 0) addTo(sum, glow);
    glow = sum;
  }
  const out = newPicture(width, height);
  for (let o = 0; o < data.length; o += 4) {
    const grey = luminance(glow.data[o]!, glow.data[o + 1]!, glow.data[o + 2]!);
    for (let k = 0; k < 3; k++) out.data[o + k] = Math.max(0, data[o + k]! - bright.data[o + k]! + plain * glow.data[o + k]! + tint[k]! * grey);
    out.data[o + 3] = Math.max(data[o + 3]!, Math.min(1, grey));
  }
  return out;
}
