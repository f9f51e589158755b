import { HIDDEN_BELOW, HIDDEN_RIGHT, JOINED_BELOW, JOINED_RIGHT, type LayeredPlate } from '../camera/layered';

/** Neighbours of a sample that lie on one surface with it. */
export const RIGHT = 1;
export const BELOW = 2;

/** A surface over the pixels of a picture, with holes and cuts. */
export interface Sheet {
  readonly width: number;
  readonly height: number;
  /** inverse distance, 1/m; below 0 where there is nothing */
  readonly q: Float32Array;
  /** RIGHT and BELOW: it goes on there */
  readonly joins: Uint8Array;
  /** square roots of linear RGBA, premultiplied; 0 where there is nothing */
  readonly colour: Float32Array;
}

/** What is seen in front, without the border that moves would need. */
export function frontSheet({ width: w, height: h, pad, q, flags, colour }: LayeredPlate): Sheet {
  const sheet = emptySheet(w - 2 * pad, h - 2 * pad);
  for (let y = 0, o = 0; y < sheet.height; y++)
    for (let x = 0, i = (y + pad) * w + pad; x < sheet.width; x++, i++, o++) {
      sheet.q[o] = q[i]!;
      const f = flags[i]!;
      sheet.joins[o] = (f & JOINED_RIGHT && x + 1 < sheet.width ? RIGHT : 0) | (f & JOINED_BELOW && y + 1 < sheet.height ? BELOW : 0);
      for (let c = 0; c < 4; c++) sheet.colour[o * 4 + c] = colour[i * 4 + c]!;
    }
  return sheet;
}

/** What lies behind its edges, as far as it was filled. */
export function behindSheet({ width: w, height: h, pad, flags, hidden, hiddenAt }: LayeredPlate): Sheet {
  const sheet = emptySheet(w - 2 * pad, h - 2 * pad);
  for (let y = 0, o = 0; y < sheet.height; y++)
    for (let x = 0, i = (y + pad) * w + pad; x < sheet.width; x++, i++, o++) {
      const k = hiddenAt[i]!;
      if (k < 0) continue;
      sheet.q[o] = hidden.q[k]!;
      const f = flags[i]!;
      sheet.joins[o] = (f & HIDDEN_RIGHT && x + 1 < sheet.width ? RIGHT : 0) | (f & HIDDEN_BELOW && y + 1 < sheet.height ? BELOW : 0);
      for (let c = 0; c < 4; c++) sheet.colour[o * 4 + c] = hidden.colour[k * 4 + c]!;
    }
  return sheet;
}

export const emptySheet = (width: number, height: number): Sheet => ({
  width,
  height,
  q: new Float32Array(width * height).fill(-1),
  joins: new Uint8Array(width * height),
  colour: new Float32Array(width * height * 4),
});

/** The same surface without its cuts: near and far are stretched into one. */
export function stretched(sheet: Sheet): Sheet {
  const { width: w, height: h, q } = sheet;
  const joins = new Uint8Array(w * h);
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      if (q[i]! < 0) continue;
      if (x + 1 < w && q[i + 1]! >= 0) joins[i]! |= RIGHT;
      if (y + 1 < h && q[i + w]! >= 0) joins[i]! |= BELOW;
    }
  return { ...sheet, joins };
}

/**
 * Every `step`-th sample of a sheet each way; its colours stay as they are. Two samples are joined where all between them are, along the row or the
 * column. Where the last sample would lie more than half a step before the border, it is the one at the border.
 */
export function thinned(sheet: Sheet, step: number): Sheet & { readonly xs: Int32Array; readonly ys: Int32Array } {
  const { width: w, height: h, q, joins, colour } = sheet;
  const xs = places(w, step);
  const ys = places(h, step);
  const out = {
    width: xs.length,
    height: ys.length,
    q: new Float32Array(xs.length * ys.length),
    joins: new Uint8Array(xs.length * ys.length),
    colour,
  };
  for (let v = 0, o = 0; v < ys.length; v++)
    for (let u = 0; u < xs.length; u++, o++) {
      const [x, y] = [xs[u]!, ys[v]!];
      out.q[o] = q[y * w + x]!;
      if (out.q[o]! < 0) continue;
      if (u + 1 < xs.length) {
        let whole = true;
        for (let s = x; s < xs[u + 1]! && whole; s++) whole = (joins[y * w + s]! & RIGHT) !== 0;
        if (whole) out.joins[o]! |= RIGHT;
      }
      if (v + 1 < ys.length) {
        let whole = true;
        for (let s = y; s < ys[v + 1]! && whole; s++) whole = (joins[s * w + x]! & BELOW) !== 0;
        if (whole) out.joins[o]! |= BELOW;
      }
    }
  return { ...out, xs, ys };
}

function places(length: number, step: number): Int32Array {
  const out: number[] = [];
  for (let p = 0; p < length; p += step) out.push(p);
  const last = out[out.length - 1]!;
  if (length - 1 - last > step / 2) out.push(length - 1);
  else out[out.length - 1] = Math.max(out.length > 1 ? out[out.length - 2]! + 1 : 0, length - 1);
  return Int32Array.from(out);
}
