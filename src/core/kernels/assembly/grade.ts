import { cbrtx4, log2x4, number } from './curves';

/** How many steps the table of tone factors has, from which stop on, and how many to a stop: as in effects/surface/grade.ts. */
const STEPS: i32 = 2048;
const LOWEST: f32 = -16;
const STEPS_PER_STOP: f32 = 2048.0 / 24.0;

const BALANCED: i32 = 1;
const EVEN: i32 = 2;
const TURNED: i32 = 4;
const MONO: i32 = 8;

/** a·x + b·y + c·z, numbers of the plan from `at` on. */
// @ts-ignore: decorator
@inline
function mixed(plan: usize, at: i32, x: v128, y: v128, z: v128): v128 {
  return f32x4.add(
    f32x4.add(f32x4.mul(number(plan, at), x), f32x4.mul(number(plan, at + 1), y)),
    f32x4.mul(number(plan, at + 2), z),
  );
}

// @ts-ignore: decorator
@inline
function weighed(a: f32, x: v128, b: f32, y: v128, c: f32, z: v128): v128 {
  return f32x4.add(f32x4.add(f32x4.mul(f32x4.splat(a), x), f32x4.mul(f32x4.splat(b), y)), f32x4.mul(f32x4.splat(c), z));
}

// @ts-ignore: decorator
@inline
function cubed(v: v128): v128 {
  return f32x4.mul(v, f32x4.mul(v, v));
}

// @ts-ignore: decorator
@inline
function positive(v: v128): v128 {
  return f32x4.pmax(f32x4.splat(0), v);
}

/** A tone factor from the table, one lane. */
// @ts-ignore: decorator
@inline
function factorAt(table: usize, step: i32): v128 {
  return v128.load64_zero(table + (<usize>step << 2));
}

/** Tone factors of four luminances: between steps of the table as on a line. */
// @ts-ignore: decorator
@inline
function factors(table: usize, light: v128): v128 {
  const stops = f32x4.sub(log2x4(f32x4.pmax(f32x4.splat(1e-9), light)), f32x4.splat(LOWEST));
  const at = f32x4.pmin(f32x4.splat(<f32>STEPS), positive(f32x4.mul(stops, f32x4.splat(STEPS_PER_STOP))));
  const step = i32x4.min_s(i32x4.splat(STEPS - 1), i32x4.trunc_sat_f32x4_s(at));
  const share = f32x4.sub(at, f32x4.convert_i32x4_s(step));
  const a = factorAt(table, i32x4.extract_lane(step, 0));
  const b = factorAt(table, i32x4.extract_lane(step, 1));
  const c = factorAt(table, i32x4.extract_lane(step, 2));
  const d = factorAt(table, i32x4.extract_lane(step, 3));
  const ab = v128.shuffle<f32>(a, b, 0, 4, 1, 5);
  const cd = v128.shuffle<f32>(c, d, 0, 4, 1, 5);
  const from = v128.shuffle<f32>(ab, cd, 0, 1, 4, 5);
  const to = v128.shuffle<f32>(ab, cd, 2, 3, 6, 7);
  return f32x4.add(from, f32x4.mul(f32x4.sub(to, from), share));
}

/**
 * Light and colour of a row of RGBA floats, in place; what `gradeTwin` of effects/surface/grade.ts does. `plan`: the nine numbers of the
 * white balance; saturation times cosine and sine of the turn of hue; the shares of red, green and blue in grey. `table`: tone factors.
 * Four pixels at a time: there is room for as many.
 */
export function gradeRow(row: usize, count: i32, plan: usize, table: usize, how: i32): void {
  const end = row + (<usize>count << 4);
  const balanced = (how & BALANCED) != 0, even = (how & EVEN) != 0, turned = (how & TURNED) != 0, mono = (how & MONO) != 0;
  const gain = v128.load32_splat(table);
  for (let p = row; p < end; p += 64) {
    const a0 = v128.load(p), a1 = v128.load(p, 16), a2 = v128.load(p, 32), a3 = v128.load(p, 48);
    const t0 = v128.shuffle<f32>(a0, a1, 0, 4, 1, 5), t1 = v128.shuffle<f32>(a2, a3, 0, 4, 1, 5);
    const t2 = v128.shuffle<f32>(a0, a1, 2, 6, 3, 7), t3 = v128.shuffle<f32>(a2, a3, 2, 6, 3, 7);
    const alpha = v128.shuffle<f32>(t2, t3, 2, 3, 6, 7);
    const seen = f32x4.gt(alpha, f32x4.splat(0));
    // where nothing is to be seen there is no colour
    const solid = v128.bitselect(f32x4.div(f32x4.splat(1), alpha), f32x4.splat(0), seen);
    let r = f32x4.mul(v128.shuffle<f32>(t0, t1, 0, 1, 4, 5), solid);
    let g = f32x4.mul(v128.shuffle<f32>(t0, t1, 2, 3, 6, 7), solid);
    let b = f32x4.mul(v128.shuffle<f32>(t2, t3, 0, 1, 4, 5), solid);
    if (balanced) {
      const x = positive(mixed(plan, 0, r, g, b)), y = positive(mixed(plan, 3, r, g, b));
      b = positive(mixed(plan, 6, r, g, b));
      r = x;
      g = y;
    }
    const factor = even ? gain : factors(table, weighed(0.2126, r, 0.7152, g, 0.0722, b));
    r = f32x4.mul(r, factor);
    g = f32x4.mul(g, factor);
    b = f32x4.mul(b, factor);
    if (turned) {
      // OKLab (Ottosson 2020)
      const l = cbrtx4(weighed(0.4122214708, r, 0.5363325363, g, 0.0514459929, b));
      const m = cbrtx4(weighed(0.2119034982, r, 0.6806995451, g, 0.1073969566, b));
      const s = cbrtx4(weighed(0.0883024619, r, 0.2817188376, g, 0.6299787005, b));
      const lightness = weighed(0.2104542553, l, 0.793617785, m, -0.0040720468, s);
      const ca = weighed(1.9779984951, l, -2.428592205, m, 0.4505937099, s);
      const cb = weighed(0.0259040371, l, 0.7827717662, m, -0.808675766, s);
      const cos = number(plan, 9), sin = number(plan, 10);
      const da = f32x4.sub(f32x4.mul(cos, ca), f32x4.mul(sin, cb));
      const db = f32x4.add(f32x4.mul(sin, ca), f32x4.mul(cos, cb));
      const l1 = cubed(weighed(1, lightness, 0.3963377774, da, 0.2158037573, db));
      const m1 = cubed(weighed(1, lightness, -0.1055613458, da, -0.0638541728, db));
      const s1 = cubed(weighed(1, lightness, -0.0894841775, da, -1.291485548, db));
      r = positive(weighed(4.0767416621, l1, -3.3077115913, m1, 0.2309699292, s1));
      g = positive(weighed(-1.2684380046, l1, 2.6097574011, m1, -0.3413193965, s1));
      b = positive(weighed(-0.0041960863, l1, -0.7034186147, m1, 1.707614701, s1));
    }
    if (mono) {
      r = positive(mixed(plan, 11, r, g, b));
      g = r;
      b = r;
    }
    const covered = v128.and(alpha, seen);
    r = f32x4.mul(r, covered);
    g = f32x4.mul(g, covered);
    b = f32x4.mul(b, covered);
    const u0 = v128.shuffle<f32>(r, g, 0, 4, 1, 5), u1 = v128.shuffle<f32>(b, alpha, 0, 4, 1, 5);
    const u2 = v128.shuffle<f32>(r, g, 2, 6, 3, 7), u3 = v128.shuffle<f32>(b, alpha, 2, 6, 3, 7);
    v128.store(p, v128.shuffle<f32>(u0, u1, 0, 1, 4, 5));
    v128.store(p, v128.shuffle<f32>(u0, u1, 2, 3, 6, 7), 16);
    v128.store(p, v128.shuffle<f32>(u2, u3, 0, 1, 4, 5), 32);
    v128.store(p, v128.shuffle<f32>(u2, u3, 2, 3, 6, 7), 48);
  }
}
