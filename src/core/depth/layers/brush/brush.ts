import { linearToOklab } from '../../../raster/colour';
import { gaussian } from '../../../raster/filters';
import { newPlane, type Picture, type Plane } from '../../../picture';
import { defineLayer, type LayerInput } from '../../definition';
import { outputPerPlate, plateToOutputPx } from '../../outline/curve';
import { boxWithin, NOWHERE, type Cover } from '../../outline/cover';
import { strokesSchema, type Stroke, type StrokesContent } from './content';

type Input = Pick<LayerInput<unknown>, 'width' | 'height' | 'framing' | 'plateSize'> & { readonly picture?: Picture };

/** Falls from 1 to 0 as d/r goes from 1 − softness to 1. */
const profile = (distance: number, radius: number, softness: number): number => {
  const soft = Math.max(1, softness * radius);
  const t = Math.min(1, Math.max(0, (radius + (softness === 0 ? 0.5 : 0) - distance) / soft));
  return softness === 0 ? t : t * t * (3 - 2 * t);
};

/**
 * Coverage of one stroke: the largest over its dabs, which lie without a gap along the path, never their sum. So a stroke that
 * crosses itself does not build on itself. Null where it lies outside the output.
 */
export function strokeCover(stroke: Stroke, input: Input): Cover | null {
  const place = plateToOutputPx(input.framing, input.plateSize);
  const scale = outputPerPlate(input.framing);
  const n = stroke.points.length / 3;
  const xs = new Float64Array(n);
  const ys = new Float64Array(n);
  const rs = new Float64Array(n);
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = 0; i < n; i++) {
    const [x, y] = place(stroke.points[i * 3]!, stroke.points[i * 3 + 1]!);
    const r = Math.max(0.5, stroke.radius * stroke.points[i * 3 + 2]! * scale);
    xs[i] = x;
    ys[i] = y;
    rs[i] = r;
    left = Math.min(left, x - r);
    top = Math.min(top, y - r);
    right = Math.max(right, x + r);
    bottom = Math.max(bottom, y + r);
  }
  const box = boxWithin(input, left, top, right, bottom);
  if (!box) return null;
  const cover = { ...box, data: new Float32Array(box.width * box.height) };
  const even = rs.every((r) => r === rs[0]);
  if (even) coverEvenly(cover, xs, ys, rs[0]!, stroke.softness);
  else coverByPressure(cover, xs, ys, rs, stroke.softness);
  if (stroke.edgeStop > 0 && input.picture) stopAtEdges(cover, stroke.edgeStop, input.picture, xs[0]!, ys[0]!);
  return cover;
}

/** A path of one radius: the nearest of its pieces decides, so the squared distance is all that has to be kept. */
function coverEvenly({ x0, y0, width, height, data }: Cover, xs: Float64Array, ys: Float64Array, radius: number, softness: number): void {
  const n = xs.length;
  const margin = radius + 1;
  const core = Math.max(0, radius * (1 - softness) - 1) ** 2;
  const outside = margin * margin;
  data.fill(outside);
  for (let i = 0; i < Math.max(1, n - 1); i++) {
    const j = Math.min(n - 1, i + 1);
    const ax = xs[i]! - x0 - 0.5;
    const ay = ys[i]! - y0 - 0.5;
    const dx = xs[j]! - xs[i]!;
    const dy = ys[j]! - ys[i]!;
    const length2 = dx * dx + dy * dy;
    const [kx, ky] = length2 > 0 ? [dx / length2, dy / length2] : [0, 0];
    const u0 = Math.max(0, Math.floor(Math.min(ax, ax + dx) - margin));
    const u1 = Math.min(width, Math.ceil(Math.max(ax, ax + dx) + margin) + 1);
    const v0 = Math.max(0, Math.floor(Math.min(ay, ay + dy) - margin));
    const v1 = Math.min(height, Math.ceil(Math.max(ay, ay + dy) + margin) + 1);
    for (let v = v0; v < v1; v++) {
      const py = v - ay;
      const row = v * width;
      for (let u = u0; u < u1; u++) {
        const best = data[row + u]!;
        if (best <= core) continue;
        const px = u - ax;
        let t = px * kx + py * ky;
        t = t < 0 ? 0 : t > 1 ? 1 : t;
        const ex = px - t * dx;
        const ey = py - t * dy;
        const d2 = ex * ex + ey * ey;
        if (d2 < best) data[row + u] = d2;
      }
    }
  }
  for (let k = 0; k < data.length; k++) {
    const d2 = data[k]!;
    data[k] = d2 >= outside ? 0 : d2 < core ? 1 : profile(Math.sqrt(d2), radius, softness);
  }
}

/** A path whose radius changes with the pressure: every piece is weighed by the radius it has there. */
function coverByPressure({ x0, y0, width, height, data }: Cover, xs: Float64Array, ys: Float64Array, rs: Float64Array, softness: number): void {
  const n = xs.length;
  for (let i = 0; i < n - 1; i++) {
    const j = i + 1;
    const r = Math.max(rs[i]!, rs[j]!) + 1;
    const ax = xs[i]! - x0 - 0.5;
    const ay = ys[i]! - y0 - 0.5;
    const dx = xs[j]! - xs[i]!;
    const dy = ys[j]! - ys[i]!;
    const dr = rs[j]! - rs[i]!;
    const length2 = dx * dx + dy * dy;
    const u0 = Math.max(0, Math.floor(Math.min(ax, ax + dx) - r));
    const u1 = Math.min(width, Math.ceil(Math.max(ax, ax + dx) + r) + 1);
    const v0 = Math.max(0, Math.floor(Math.min(ay, ay + dy) - r));
    const v1 = Math.min(height, Math.ceil(Math.max(ay, ay + dy) + r) + 1);
    for (let v = v0; v < v1; v++)
      for (let u = u0; u < u1; u++) {
        const k = v * width + u;
        if (data[k]! >= 1) continue;
        const px = u - ax;
        const py = v - ay;
        let t = length2 > 0 ? (px * dx + py * dy) / length2 : 0;
        t = t < 0 ? 0 : t > 1 ? 1 : t;
        const radius = rs[i]! + dr * t;
        const ex = px - t * dx;
        const ey = py - t * dy;
        const d2 = ex * ex + ey * ey;
        if (d2 > (radius + 1) * (radius + 1)) continue;
        // well inside the hard part
        const inner = radius * (1 - softness) - 1;
        if (inner > 0 && d2 < inner * inner) {
          data[k] = 1;
          continue;
        }
        const c = profile(Math.sqrt(d2), radius, softness);
        if (c > data[k]!) data[k] = c;
      }
  }
}

/** OKLab difference at which an edge stop of 1 lets a third through; a weaker stop lets through more. */
const CLOSE = 0.035;

/** Weighs a cover by the likeness of the picture to the colour under the start (the range term of a joint bilateral filter: Petschnigg 2004). */
function stopAtEdges(cover: Cover, strength: number, picture: Picture, startX: number, startY: number): void {
  const { width, height, data } = picture;
  const lab = (i: number): readonly [number, number, number] => linearToOklab(data[i * 4]!, data[i * 4 + 1]!, data[i * 4 + 2]!);
  const sum = [0, 0, 0];
  const sx = Math.min(width - 2, Math.max(1, Math.floor(startX)));
  const sy = Math.min(height - 2, Math.max(1, Math.floor(startY)));
  for (let v = -1; v <= 1; v++) for (let u = -1; u <= 1; u++) lab((sy + v) * width + sx + u).forEach((c, k) => (sum[k]! += c / 9));
  const tolerance = CLOSE / strength ** 2;
  for (let v = 0; v < cover.height; v++)
    for (let u = 0; u < cover.width; u++) {
      const k = v * cover.width + u;
      if (cover.data[k] === 0) continue;
      const c = lab((cover.y0 + v) * width + cover.x0 + u);
      // shading changes lightness more than colour
      const d2 = 0.35 * (c[0] - sum[0]!) ** 2 + 2 * ((c[1] - sum[1]!) ** 2 + (c[2] - sum[2]!) ** 2);
      cover.data[k]! *= Math.exp(-d2 / (tolerance * tolerance));
    }
}

/** Applies one stroke to `out` in place. `clean` is the map as it was before any stroke, for what is erased. */
export function applyStroke(out: Plane, clean: Plane, stroke: Stroke, cover: Cover, scale: number): void {
  const { x0, y0, width, height, data } = cover;
  const smooth = stroke.mode === 'smooth' ? smoothed(out, cover, Math.max(1, 0.35 * stroke.radius * scale)) : null;
  for (let v = 0; v < height; v++)
    for (let u = 0; u < width; u++) {
      const c = data[v * width + u]!;
      if (c === 0) continue;
      const i = (y0 + v) * out.width + x0 + u;
      const now = out.data[i]!;
      if (now !== now) {
        // where nothing is known there is only setting
        if (stroke.mode === 'set' && stroke.amount * c >= 0.5) out.data[i] = stroke.nearness;
        continue;
      }
      let next = now;
      if (stroke.mode === 'nearer') next = now + stroke.amount * c;
      else if (stroke.mode === 'farther') next = now - stroke.amount * c;
      else if (stroke.mode === 'set') next = now + stroke.amount * c * (stroke.nearness - now);
      else if (stroke.mode === 'erase') next = now + stroke.amount * c * (clean.data[i]! - now);
      else next = now + stroke.amount * c * (smooth!.data[v * width + u]! - now);
      out.data[i] = next < 0 ? 0 : next > 1 ? 1 : next;
    }
}

/** The map within a stroke's box, smoothed, with a margin so that the box's border does not show. */
function smoothed(map: Plane, { x0, y0, width, height }: Cover, sigma: number): Plane {
  const margin = Math.ceil(3 * sigma);
  const padded = newPlane(width + 2 * margin, height + 2 * margin);
  for (let v = 0; v < padded.height; v++)
    for (let u = 0; u < padded.width; u++) {
      const x = Math.min(map.width - 1, Math.max(0, x0 + u - margin));
      const y = Math.min(map.height - 1, Math.max(0, y0 + v - margin));
      padded.data[v * padded.width + u] = map.data[y * map.width + x]!;
    }
  const soft = gaussian(padded, sigma);
  const out = newPlane(width, height);
  for (let v = 0; v < height; v++)
    out.data.set(soft.data.subarray((v + margin) * soft.width + margin, (v + margin) * soft.width + margin + width), v * width);
  return out;
}

/** A stroke's cover, made once: where it lies does not hang on what it is painted over. */
function keptCover(s: Stroke, input: Input & Pick<LayerInput<unknown>, 'rememberAlone'>): Cover | null {
  const kept = input.rememberAlone(['cover', s.points, s.radius, s.softness, s.edgeStop], () => strokeCover(s, input) ?? NOWHERE);
  return kept.width > 0 ? kept : null;
}

/** Painted depth: strokes, each blended once over what lies below, in the order in which they were painted. */
export const brushLayer = defineLayer({
  kind: 'brush',
  label: 'Brush',
  help: 'Painted nearer, farther or to a distance',
  limits: true,
  keys: () => true,
  params: {},
  content: strokesSchema,
  readsBelow: true,
  summary: (_, { strokes }: StrokesContent) => (strokes.length === 1 ? '1 stroke' : `${strokes.length} strokes`),
  prepare(input) {
    for (const stroke of input.content.strokes) if (stroke.edgeStop === 0) keptCover(stroke, input);
  },
  build(input) {
    const { content, below, width, height } = input;
    const scale = outputPerPlate(input.framing);
    const coverOf = (s: Stroke): Cover | null => keptCover(s, input);
    // all but the last few strokes are kept together, so that a new or changed one costs no more than itself
    const painted = (count: number): Plane => {
      if (count === 0) return below;
      return input.remember(['strokes', content.strokes.slice(0, count)], () => {
        const before = painted(count - (count % STEP || STEP));
        const out = newPlane(width, height);
        out.data.set(before.data);
        for (const stroke of content.strokes.slice(count - (count % STEP || STEP), count)) {
          const cover = coverOf(stroke);
          if (cover) applyStroke(out, below, stroke, cover, scale);
        }
        return out;
      });
    };
    const all = content.strokes.length;
    if (all === 0) return null;
    const before = painted(all - 1);
    const out = newPlane(width, height);
    out.data.set(before.data);
    const last = content.strokes[all - 1]!;
    const cover = coverOf(last);
    if (cover) applyStroke(out, below, last, cover, scale);
    return { nearness: out, coverage: null };
  },
});
/** Strokes kept together. */
const STEP = 8;
