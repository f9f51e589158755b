import { JOINED_BELOW, JOINED_RIGHT, type LayeredPlate } from '../camera/layered';

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

/** So many px what lies behind goes on under what is seen beside it, so that no crack opens between the two. */
const UNDER = 3;
/** It lies so much farther there, as a share of its inverse distance. */
const SLIGHTLY = 1e-3;

/** What lies behind its edges, as far as it was filled: one surface without cuts, which goes on a little under what is seen beside it. */
export function behindSheet({ width: w, height: h, pad, q, colour, hidden, hiddenAt, tau }: LayeredPlate): Sheet {
  const sheet = emptySheet(w - 2 * pad, h - 2 * pad);
  const { width, height } = sheet;
  const plateAt = (o: number): number => (Math.floor(o / width) + pad) * w + (o % width) + pad;
  let edge: number[] = [];
  for (let o = 0; o < sheet.q.length; o++) {
    const k = hiddenAt[plateAt(o)]!;
    if (k < 0) continue;
    sheet.q[o] = hidden.q[k]!;
    for (let c = 0; c < 4; c++) sheet.colour[o * 4 + c] = hidden.colour[k * 4 + c]!;
    edge.push(o);
  }
  for (let round = 0; round < UNDER; round++) {
    const next: number[] = [];
    for (const o of edge)
      for (const n of around(o, width, height)) {
        const i = plateAt(n);
        if (sheet.q[n]! >= 0 || Math.abs(q[i]! - sheet.q[o]!) > 3 * tau) continue;
        sheet.q[n] = q[i]! * (1 - SLIGHTLY);
        for (let c = 0; c < 4; c++) sheet.colour[n * 4 + c] = colour[i * 4 + c]!;
        next.push(n);
      }
    edge = next;
  }
  return stretched(sheet);
}

/** The pixels beside one, at most four. */
export function around(i: number, w: number, h: number): readonly number[] {
  const x = i % w;
  return [...(x > 0 ? [i - 1] : []), ...(x + 1 < w ? [i + 1] : []), ...(i >= w ? [i - w] : []), ...(i + w < w * h ? [i + w] : [])];
}

/** The surfaces of a scene: what is seen, and what lies behind its edges where that is wanted and there is any. */
export interface Sheets {
  readonly front: Sheet & { readonly under?: Uint8Array };
  readonly behind: Sheet | null;
}

/** What is wanted of a plate that was taken apart. */
export interface SheetChoice {
  /** what lies behind edges, as a surface of its own */
  readonly behind: boolean;
  /** near and far are one surface, stretched at edges, instead of cut there: nothing is behind it then */
  readonly stretched?: boolean;
}

/** The surfaces of a plate that was taken apart; the front knows where the other lies under it. */
export function sheetsOf(plate: LayeredPlate, choice: SheetChoice): Sheets {
  const front = frontSheet(plate);
  if (choice.stretched) return { front: stretched(front), behind: null };
  const behind = choice.behind && plate.hidden.pixel.length > 0 ? behindSheet(plate) : null;
  return { front: behind ? { ...front, under: Uint8Array.from(behind.q, (v) => (v >= 0 ? 1 : 0)) } : front, behind };
}

/** Surfaces by their names, the front first. */
export const namedSheets = ({ front, behind }: Sheets) => [
  { name: 'front' as const, sheet: front },
  ...(behind ? [{ name: 'behind' as const, sheet: behind }] : []),
];

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
export function thinned(
  sheet: Sheet & { readonly under?: Uint8Array },
  step: number,
): Sheet & { readonly xs: Int32Array; readonly ys: Int32Array; readonly under?: Uint8Array } {
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
  const under =
    sheet.under && Uint8Array.from({ length: out.q.length }, (_, o) => sheet.under![ys[Math.floor(o / xs.length)]! * w + xs[o % xs.length]!]!);
  return { ...out, xs, ys, ...(under && { under }) };
}

function places(length: number, step: number): Int32Array {
  const out: number[] = [];
  for (let p = 0; p < length; p += step) out.push(p);
  const last = out[out.length - 1]!;
  if (length - 1 - last > step / 2) out.push(length - 1);
  else out[out.length - 1] = Math.max(out.length > 1 ? out[out.length - 2]! + 1 : 0, length - 1);
  return Int32Array.from(out);
}
