import { number } from './curves';

/** Neighbours whose inverse distances differ by more than this share lie on different surfaces: light/depthField.ts. */
const EDGE: f32 = 0.03;
/** Of what an enlarged value is taken from: neighbours that lie farther off than this share count little. */
const APART: f32 = 0.05;
/** Least weight of a neighbour, so that there is always one. */
const LITTLE: f32 = 1e-3;
const ONE: f32 = 1;
/** What the ground returns of the sky, what hidden parts of the sky still give, and the most that a surface returns: light/relight.ts. */
const GROUND: f32 = 0.5;
const HIDDEN: f32 = 0.4;
const MOST_ALBEDO: f32 = 0.95;

// @ts-ignore: decorator
@inline
function at(plane: usize, i: i32): f32 {
  return load<f32>(plane + (<usize>i << 2));
}

/**
 * What falls on a row of pixels from a light of intensity 1: cosine over square, by who sees it (`seen`, 0: all do). light/lampTwin.ts.
 * `plan`: the lamp's place or the sun's direction, 1 for a lamp, its radius squared, the focal length and half the width, px. `v`: tangent of
 * the row. Four pixels at a time: there is room for as many.
 */
export function fallRow(inverse: usize, normals: usize, seen: usize, count: i32, plan: usize, v: f32, out: usize): void {
  const zero = f32x4.splat(0), one = f32x4.splat(1);
  const px = number(plan, 0), py = number(plan, 1), pz = number(plan, 2);
  const lamp = load<f32>(plan, 12) > 0;
  const least = f32x4.pmax(f32x4.splat(1e-4), number(plan, 4));
  const perPx = f32x4.div(one, number(plan, 5)), middle = number(plan, 6);
  for (let x = 0; x < count; x += 4) {
    const at = <usize>x << 2;
    const q = v128.load(inverse + at);
    let dx = px, dy = py, dz = pz, fall = one;
    if (lamp) {
      const z = f32x4.div(one, q);
      const u = f32x4.mul(perPx, f32x4.sub(f32x4.add(f32x4.splat(<f32>x), f32x4(0.5, 1.5, 2.5, 3.5)), middle));
      dx = f32x4.sub(px, f32x4.mul(z, u));
      dy = f32x4.sub(py, f32x4.mul(z, f32x4.splat(v)));
      dz = f32x4.sub(pz, z);
      const square = f32x4.pmax(least, f32x4.add(f32x4.add(f32x4.mul(dx, dx), f32x4.mul(dy, dy)), f32x4.mul(dz, dz)));
      fall = f32x4.div(one, f32x4.mul(square, f32x4.sqrt(square)));
    }
    const n = normals + <usize>x * 12;
    const n0 = v128.load(n), n1 = v128.load(n, 16), n2 = v128.load(n, 32);
    const nx = v128.shuffle<f32>(v128.shuffle<f32>(n0, n1, 0, 3, 6, 6), n2, 0, 1, 2, 5);
    const ny = v128.shuffle<f32>(v128.shuffle<f32>(n0, n1, 1, 4, 7, 7), n2, 0, 1, 2, 6);
    const nz = v128.shuffle<f32>(v128.shuffle<f32>(n0, n1, 2, 5, 5, 5), n2, 0, 1, 4, 7);
    const cosine = f32x4.add(f32x4.add(f32x4.mul(nx, dx), f32x4.mul(ny, dy)), f32x4.mul(nz, dz));
    let lit = f32x4.mul(f32x4.pmax(zero, cosine), fall);
    if (seen) lit = f32x4.mul(lit, v128.load(seen + at));
    v128.store(out + at, v128.and(lit, f32x4.gt(q, zero)));
  }
}

/**
 * A tent of 3x3 over what lies within surfaces (`inside`), or over the edges between them: light/shadow.ts, tentedTwin. `out` holds the values
 * themselves to begin with.
 */
export function tentPlane(inverse: usize, values: usize, w: i32, h: i32, inside: bool, out: usize): void {
  const row = <usize>w << 2;
  for (let y = 1; y < h - 1; y++) {
    for (let x = 1; x < w - 1; x++) {
      const i = y * w + x;
      const p = inverse + (<usize>i << 2), q = values + (<usize>i << 2);
      // four at once where nothing is to be done: beside no edge, or where all is as it is in the middle
      if (x + 4 < w) {
        const own = v128.load(inside ? q : p);
        const at = inside ? q : p;
        const l = v128.load(at - 4), r = v128.load(at + 4), u = v128.load(at - row), d = v128.load(at + row);
        let idle: v128;
        if (inside) {
          const straight = v128.and(v128.and(f32x4.eq(l, own), f32x4.eq(r, own)), v128.and(f32x4.eq(u, own), f32x4.eq(d, own)));
          const upper = v128.and(f32x4.eq(v128.load(at - row - 4), own), f32x4.eq(v128.load(at - row + 4), own));
          const lower = v128.and(f32x4.eq(v128.load(at + row - 4), own), f32x4.eq(v128.load(at + row + 4), own));
          idle = v128.and(straight, v128.and(upper, lower));
        } else {
          const most = f32x4.mul(f32x4.splat(EDGE), own);
          const level = v128.and(f32x4.lt(f32x4.abs(f32x4.sub(l, own)), most), f32x4.lt(f32x4.abs(f32x4.sub(r, own)), most));
          const steep = v128.and(f32x4.lt(f32x4.abs(f32x4.sub(u, own)), most), f32x4.lt(f32x4.abs(f32x4.sub(d, own)), most));
          // sky is left as it is
          idle = v128.or(v128.and(level, steep), f32x4.le(own, f32x4.splat(0)));
        }
        if (i32x4.all_true(idle)) {
          x += 3;
          continue;
        }
      }
      tentAt(p, q, row, inside, out + (<usize>i << 2));
    }
  }
}

/** One pixel of it. */
function tentAt(p: usize, q: usize, row: usize, inside: bool, out: usize): void {
  const c = load<f32>(p);
  if (!(c > 0)) return;
  const most: f32 = EDGE * c;
  const v = load<f32>(q);
  if (inside) {
    if (
      load<f32>(q - 4) == v && load<f32>(q + 4) == v && load<f32>(q - row) == v && load<f32>(q + row) == v &&
      load<f32>(q - row - 4) == v && load<f32>(q - row + 4) == v && load<f32>(q + row - 4) == v && load<f32>(q + row + 4) == v
    ) return;
  } else if (
    Mathf.abs(load<f32>(p - 4) - c) < most && Mathf.abs(load<f32>(p + 4) - c) < most &&
    Mathf.abs(load<f32>(p - row) - c) < most && Mathf.abs(load<f32>(p + row) - c) < most
  ) return;
  let s: f32 = 0, k: f32 = 0;
  for (let j = -1; j <= 1; j++) {
    for (let m = -1; m <= 1; m++) {
      const off: isize = <isize>row * j + 4 * m;
      const other = load<f32>(p + <usize>off);
      if (inside ? Mathf.abs(other - c) >= most : !(other > 0)) continue;
      const weight: f32 = (j == 0 ? 2 : 1) * (m == 0 ? 2 : 1);
      s += weight * load<f32>(q + <usize>off);
      k += weight;
    }
  }
  store<f32>(out, s / k);
}

/** A row of values of a thinned field for every pixel of the whole one: light/depthField.ts, enlargedTwin. */
export function enlargeRow(
  inverse: usize, count: i32, small: usize, values: usize, width: i32, height: i32, y: i32, step: i32, out: usize,
): void {
  const middle = step >> 1;
  const scale: f32 = 1 / <f32>step;
  const v = max(<f32>(y - middle) * scale, 0);
  const y0 = min(height - 1, <i32>v), y1 = min(height - 1, y0 + 1);
  const ty = min(v - <f32>y0, ONE);
  const below: f32 = ty + LITTLE, above: f32 = ONE - ty + LITTLE;
  const upper = y0 * width, lower = y1 * width;
  for (let x = 0; x < count; x++) {
    const c = at(inverse, x);
    let found: f32 = 1;
    if (c > 0) {
      const u = max(<f32>(x - middle) * scale, 0);
      const x0 = min(width - 1, <i32>u), x1 = min(width - 1, x0 + 1);
      const a = at(values, upper + x0), b = at(values, upper + x1), e = at(values, lower + x0), d = at(values, lower + x1);
      found = a;
      if (a != b || a != e || a != d) {
        const tx = min(u - <f32>x0, ONE);
        const right: f32 = tx + LITTLE, left: f32 = ONE - tx + LITTLE;
        const ka: f32 = above * left * alike(at(small, upper + x0), c), kb: f32 = above * right * alike(at(small, upper + x1), c);
        const ke: f32 = below * left * alike(at(small, lower + x0), c), kd: f32 = below * right * alike(at(small, lower + x1), c);
        found = (ka * a + kb * b + ke * e + kd * d) / (ka + kb + ke + kd);
      }
    }
    store<f32>(out + (<usize>x << 2), found);
  }
}

/** How much a pixel of inverse distance `q` has to say about one of `c`. */
// @ts-ignore: decorator
@inline
function alike(q: f32, c: f32): f32 {
  const apart = Mathf.abs(q - c) / c;
  return apart < APART ? 1 : 1e-4 / (apart + 0.01);
}

/** Adds what falls on a row, in a colour, to a row of light. */
export function addFall(light: usize, falls: usize, count: i32, red: f32, green: f32, blue: f32): void {
  const colour = f32x4.replace_lane(f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(0), 0, red), 1, green), 2, blue);
  for (let i = 0; i < count; i++, light += 16, falls += 4) {
    v128.store(light, f32x4.add(v128.load(light), f32x4.mul(colour, v128.load32_splat(falls))));
  }
}

/**
 * A row of the picture with light added, in place: keep · picture + albedo · light, albedo = plate · scale / share of the even light that gets
 * there. `open`: how much of the sky each pixel sees, 0: all of it. `scale`: three floats and 0.
 */
export function relitRow(
  row: usize, plate: usize, light: usize, normals: usize, open: usize, count: i32, keep: f32, shading: f32, scale: usize,
): void {
  const zero = f32x4.splat(0), most = f32x4.splat(MOST_ALBEDO);
  const kept = f32x4.splat(keep), own = v128.load(scale);
  for (let i = 0; i < count; i++, row += 16, plate += 16, light += 16, normals += 12) {
    const above: f32 = GROUND + (1 - GROUND) * (1 - load<f32>(normals, 4)) * 0.5;
    const share: f32 = above * (open ? HIDDEN + (1 - HIDDEN) * at(open, i) : 1);
    const lifted = f32x4.splat(1 / (1 + (share - 1) * shading));
    const albedo = f32x4.pmin(most, f32x4.pmax(zero, f32x4.mul(v128.load(plate), f32x4.mul(own, lifted))));
    const pixel = v128.load(row);
    const out = f32x4.add(f32x4.mul(kept, pixel), f32x4.mul(albedo, v128.load(light)));
    v128.store(row, v128.shuffle<f32>(out, pixel, 0, 1, 2, 7));
  }
}
