// What a view of a layered plate works on, and the way between plate and view (see core/camera/pose.ts).
export const KEPT: i32 = 3;
export const END: i32 = 3;
export const SOFT: f32 = 0.5;
export const SOFT_HIDDEN: f32 = 0.05;
export const SAME: f32 = 1.5;
export const JOINED_RIGHT: u32 = 1;
export const JOINED_BELOW: u32 = 2;
export const HIDDEN_RIGHT: u32 = 4;
export const HIDDEN_BELOW: u32 = 8;
export const NEAR_EDGE: u32 = 16;
export const AT_EDGE: u32 = 32;
export const HAS_RIM: u32 = 64;
/** Of two pixels at once. */
export const HAS_RIMS: u32 = 0x4040;
/** Joined to all its neighbours; of four pixels at once. */
export const INNER4: u32 = 0x80808080;

/** What one call works on. The host writes these words in this order (see core/camera/viewKernel.ts). */
@unmanaged
export class ViewPlan {
  /** the view, and its rows from y0 to y1 − 1 */
  width: i32;
  y0: i32;
  y1: i32;
  cubic: i32;
  /** the padded plate */
  w: i32;
  h: i32;
  hiddenCount: i32;
  rimCount: i32;
  tau: f32;
  f: f32;
  f2: f32;
  cx: f32;
  cy: f32;
  cx2: f32;
  cy2: f32;
  tx: f32;
  ty: f32;
  tz: f32;
  r0: f32;
  r1: f32;
  r2: f32;
  r3: f32;
  r4: f32;
  r5: f32;
  r6: f32;
  r7: f32;
  r8: f32;
  /** 1/f and 1/f2 */
  fi: f32;
  f2i: f32;
  q: usize;
  colour: usize;
  flags: usize;
  hiddenAt: usize;
  hiddenPixel: usize;
  hiddenQ: usize;
  hiddenColour: usize;
  hiddenRow: usize;
  rimPixel: usize;
  rimQ: usize;
  rimColour: usize;
  rimRow: usize;
  rimCover: usize;
  rowRange: usize;
  /** three rows of places: x, y, inverse distance and scale of each */
  rows: usize;
  /** where hidden pixels are seen: x, y and inverse distance of each, each with room for four more */
  hiddenPlace: usize;
  /** nearest surfaces of each cell: their inverse distances and what they are, the nearest of all cells first, then the next ones */
  bandQ: usize;
  bandId: usize;
  out: usize;
  distance: usize;
  uncovered: usize;
}

/** Whole numbers of less than 2^22 as integers: the bits of a sum with 1.5·2^23. Much faster than to convert what may be anything. */
@inline export function whole(v: v128): v128 {
  return i32x4.sub(f32x4.add(v, f32x4.splat(12582912)), i32x4.splat(0x4b400000));
}

/** Four times the number of a lane. */
@inline export function lane0(v: v128): v128 { return v128.shuffle<i32>(v, v, 0, 0, 0, 0); }
@inline export function lane1(v: v128): v128 { return v128.shuffle<i32>(v, v, 1, 1, 1, 1); }
@inline export function lane2(v: v128): v128 { return v128.shuffle<i32>(v, v, 2, 2, 2, 2); }
@inline export function lane3(v: v128): v128 { return v128.shuffle<i32>(v, v, 3, 3, 3, 3); }

/** Bytes from the nearest surfaces of the cells to the next nearest. */
@inline export function planeOf(g: ViewPlan): usize { return <usize>((g.y1 - g.y0) * g.width) << 2; }

/** What `forward` and `backward` found last. */
export let placeX: f32 = 0;
export let placeY: f32 = 0;
export let placeQ: f32 = 0;

@inline export function rf(p: usize, i: i32): f32 { return load<f32>(p + (<usize>i << 2)); }
@inline export function ri(p: usize, i: i32): i32 { return load<i32>(p + (<usize>i << 2)); }
@inline export function max(a: f32, b: f32): f32 { return a > b ? a : b; }

/** Where a point of the plate is seen; false behind the camera. */
export function forward(g: ViewPlan, x: f32, y: f32, q: f32): bool {
  const a = (x - g.cx) * g.fi - g.tx * q, b = (y - g.cy) * g.fi - g.ty * q, c: f32 = 1.0 - g.tz * q;
  const depth = g.r6 * a + g.r7 * b + g.r8 * c;
  if (!(depth > 1e-6)) return false;
  const k: f32 = 1 / depth;
  placeX = g.cx2 + g.f2 * (g.r0 * a + g.r1 * b + g.r2 * c) * k;
  placeY = g.cy2 + g.f2 * (g.r3 * a + g.r4 * b + g.r5 * c) * k;
  placeQ = q * k;
  return true;
}

/** Where in the plate a point of the view comes from. */
@inline export function backward(g: ViewPlan, x: f32, y: f32, q: f32): bool {
  const u = (x - g.cx2) * g.f2i, v = (y - g.cy2) * g.f2i;
  const depth = g.r2 * u + g.r5 * v + g.r8 + g.tz * q;
  if (!(depth > 1e-6)) return false;
  const k: f32 = 1 / depth;
  placeX = g.cx + g.f * (g.r0 * u + g.r3 * v + g.r6 + g.tx * q) * k;
  placeY = g.cy + g.f * (g.r1 * u + g.r4 * v + g.r7 + g.ty * q) * k;
  placeQ = q * k;
  return true;
}
