import { reachWeight, reachWeights, type ReachRange } from './reach';
import { newPicture, type Picture, type Plane } from '../picture';
import { gaussian } from '../raster/filters';
import { smoothstep } from '../scalar';
import { APART, findBand, MatteEdge, type Band } from './band';
import { fitAtSharpness, mapBlur } from './softMap';
import { laplacianMatte } from './laplacian';
import { Statistics, type Speakers } from './statistics';
import { frontColours, unmix } from './unmix';

/** How a matte is made where the map has one sample a pixel, and where its own edges are soft. */
const EXACT = { band: 2, s0: 0.01, doubt: 0, epsilon: 1e-6, rounds: 8 };
const SOFT = { band: 3, blur: 1, s0: 0.02, doubt: 0.01, epsilon: 1e-5, rounds: 40 };
/** From this blur of the map's edges on, px, it counts as soft. */
const SOFT_FROM = 0.62;
/** Share of the unmixing beside the Laplacian: the two err differently. Where the colours tell very much it is all. */
const UNMIXED = 0.4;
/** What colours have to tell (the inverse of a variance of coverage) for the rest to be halved. */
const TELLING = 300;
/** Share of the fit at the map's own sharpness, where that is soft. */
const FITTED = 0.35;

/** Expected coverage of a pixel, given the hard samples of its 3x3: measured by least squares on exact coverage. */
const [CENTRE, BESIDE, CORNER] = [0.55, 0.1, 0.0125];

type Progress = (share: number) => void;

/**
 * Coverage 0..1 of what lies within a reach of distances, cleaned along the picture's edges. One depth sample a pixel is an unbiased sample of
 * that pixel's coverage, so the hard matte is data, not a trimap. At jumps of depth: 0.6 × the matting Laplacian with the hard samples as data
 * (Levin et al. 2008) + 0.4 × unmixing with the depth as prior (Chuang et al. 2001; all of it where colours tell very much), in a band of 1.6 px; softer maps get softer data in a
 * wider band. On continuous surfaces the depth alone decides. `picture`: linear light, same size as `distance` (metres, Infinity allowed).
 */
export function refinedMatte(picture: Picture, distance: Plane, range: ReachRange, onProgress: Progress = () => undefined): Plane {
  const hard = reachWeights(range, distance);
  onProgress(0.1);
  const edge = new MatteEdge(hard, distance);
  const blur = mapBlur(edge, distance);
  const given = { picture, distance, range, hard, edge };
  const out = blur < SOFT_FROM ? exactMatte(given, onProgress) : softMatte(given, blur, onProgress);
  onProgress(1);
  return out;
}

/** The quick one: the expected coverage in the band, without colour. */
export function quickMatte(distance: Plane, range: ReachRange): Plane {
  const hard = reachWeights(range, distance);
  const band = findBand(hard, distance, EXACT.band);
  return withBand(hard, band, baseOf(distance, range, hard, band), expected(hard, band.pixels));
}

/** The matte with new values in the band: as far as the depth jumps there. */
function withBand(hard: Plane, { pixels, jump }: Band, base: Float32Array, values: Float32Array): Plane {
  const data = hard.data.slice();
  for (let k = 0; k < pixels.length; k++) data[pixels[k]!] = base[k]! + (values[k]! - base[k]!) * jump[k]!;
  return { width: hard.width, height: hard.height, data };
}

/** What a matte is made from: the hard one and its edge too. */
interface Given {
  readonly picture: Picture;
  readonly distance: Plane;
  readonly range: ReachRange;
  readonly hard: Plane;
  readonly edge: MatteEdge;
}

function exactMatte({ picture, distance, range, hard, edge }: Given, onProgress: Progress): Plane {
  const band = edge.band(EXACT.band);
  const base = baseOf(distance, range, hard, band);
  if (band.pixels.length === 0) return hard;
  const prior = expected(hard, band.pixels);
  for (let k = 0; k < prior.length; k++) prior[k] = base[k]! + (prior[k]! - base[k]!) * band.jump[k]!;
  const unmixed = unmixedIn(picture, hard, band, prior, EXACT);
  onProgress(0.5);
  const fixed = hard.data.slice();
  for (let k = 0; k < base.length; k++) fixed[band.pixels[k]!] = base[k]! + (hard.data[band.pixels[k]!]! - base[k]!) * band.jump[k]!;
  const data = Float32Array.from(band.pixels, (i) => hard.data[i]!);
  const solved = laplacianMatte(picture, band.pixels, fixed, data, new Float32Array(data.length).fill(0.5), EXACT);
  return withBand(hard, band, base, together(solved, unmixed));
}

/** For maps whose edges are soft or lie beside the picture's. */
function softMatte({ picture, distance, range, hard, edge }: Given, blur: number, onProgress: Progress): Plane {
  const band = edge.band(SOFT.band, blur);
  const base = baseOf(distance, range, hard, band);
  if (band.pixels.length === 0) return hard;
  const spread = gaussian(hard, SOFT.blur);
  const prior = Float32Array.from(band.pixels, (i, k) => base[k]! + (spread.data[i]! - base[k]!) * band.jump[k]!);
  const unmixed = unmixedIn(picture, hard, band, prior, SOFT);
  onProgress(0.4);
  const weight = prior.map((p) => (0.02 * 0.25) / (p * (1 - p) + 0.01));
  const fixed = hard.data.slice();
  for (let k = 0; k < base.length; k++) fixed[band.pixels[k]!] = base[k]!;
  const solved = laplacianMatte(picture, band.pixels, fixed, prior, weight, SOFT);
  onProgress(0.7);
  const soft = withBand(hard, band, base, together(solved, unmixed));
  const fit = fitAtSharpness(picture, distance, range, blur, edge);
  for (let k = 0; k < fit.pixels.length; k++) {
    const i = fit.pixels[k]!;
    const mixed = FITTED * fit.values[k]! + (1 - FITTED) * soft.data[i]!;
    soft.data[i] = hard.data[i]! + (mixed - hard.data[i]!) * fit.held[k]!;
  }
  return soft;
}

/** What the depth alone says of the pixels of the band: the hard matte at jumps, the coverage by a slanted surface elsewhere. */
function baseOf({ width: w, height: h, data: z }: Plane, range: ReachRange, hard: Plane, { pixels, jump }: Band): Float32Array {
  return Float32Array.from(pixels, (i, k) => {
    const own = hard.data[i]!;
    if (jump[k] === 1) return own;
    const [x, y] = [i % w, Math.floor(i / w)];
    const slope = Math.abs(z[x < w - 1 ? i + 1 : i]! - z[x > 0 ? i - 1 : i]!) / 2 + Math.abs(z[y < h - 1 ? i + w : i]! - z[y > 0 ? i - w : i]!) / 2;
    const surface = Number.isFinite(slope) ? surfaceCoverage(range, z[i]!, slope) : own;
    return surface + (own - surface) * jump[k]!;
  });
}

/** Share of a pixel within the reach where it lies on a surface that gains so many metres a pixel. */
function surfaceCoverage(range: ReachRange, z: number, slope: number): number {
  const within = (t: number): number => Math.min(1, Math.max(0, 0.5 + t / (slope + 1e-6)));
  const rise = range.near > slope ? reachWeight({ ...range, to: Infinity }, z) : within(z - range.from - range.near / 2);
  const fall = range.far > slope ? reachWeight({ ...range, from: -Infinity, near: 0 }, z) : within(range.to + range.far / 2 - z);
  return rise * fall;
}

/** Coverage to be expected of the pixels of the band. */
function expected({ width: w, height: h, data }: Plane, pixels: Int32Array): Float32Array {
  return Float32Array.from(pixels, (i) => {
    const [x, y] = [i % w, Math.floor(i / w)];
    const [l, r] = [x > 0 ? -1 : 0, x < w - 1 ? 1 : 0];
    const [u, d] = [y > 0 ? -w : 0, y < h - 1 ? w : 0];
    const beside = data[i + l]! + data[i + r]! + data[i + u]! + data[i + d]!;
    const corners = data[i + l + u]! + data[i + r + u]! + data[i + l + d]! + data[i + r + d]!;
    return CENTRE * data[i]! + BESIDE * beside + CORNER * corners;
  });
}

/** The unmixing of the band, with what the depth says as its prior; `doubt` is added to the variance of that. */
function unmixedIn(picture: Picture, hard: Plane, band: Band, prior: Float32Array, { s0, doubt }: typeof EXACT): ReturnType<typeof unmix> {
  const variance = prior.map((p, k) => 1e-4 + (0.25 * p * (1 - p) + doubt) * band.jump[k]!);
  return unmix(picture, band.pixels, new Statistics(picture, speakersOf(hard, band), band.pixels), prior, variance, s0);
}

/** The Laplacian's coverage and the unmixing's as one. */
const together = (solved: Float32Array, { values, told }: ReturnType<typeof unmix>): Float32Array =>
  solved.map((v, k) => v + (values[k]! - v) * (UNMIXED + ((1 - UNMIXED) * told[k]! ** 2) / (told[k]! ** 2 + TELLING ** 2)));

/** Who speaks for a side before there is a matte: pixels apart from the other side; those beside it hardly. */
function speakersOf({ data }: Plane, { apart }: Band): Speakers {
  const weights = { [APART.far]: 1, [APART.near]: 0.3, [APART.beside]: 0.02 };
  const codes = new Uint8Array(data.length);
  for (let i = 0; i < codes.length; i++) codes[i] = apart[i]! * 2 + (data[i]! > 0.5 ? 1 : 0);
  const front = new Float32Array(6);
  const back = new Float32Array(6);
  for (const [apartness, weight] of Object.entries(weights)) {
    front[Number(apartness) * 2 + 1] = weight;
    back[Number(apartness) * 2] = weight;
  }
  return { codes, front, back };
}

/**
 * The colours of what a matte keeps, premultiplied, with the matte as alpha: where a pixel is shared, the most probable pair of front and
 * back, so that nothing of the old backdrop comes along. Pixels that are wholly covered keep their own light, lamps included.
 */
export function matteColours(picture: Picture, matte: Plane): Picture {
  const { width, height } = picture;
  const n = matte.data.length;
  const codes = new Uint8Array(n);
  let count = 0;
  for (let i = 0; i < n; i++) {
    const a = matte.data[i]!;
    codes[i] = 255 * a + 0.5;
    if (a > 0.002 && a < 0.998) count++;
  }
  // nearly opaque pixels speak for the front, nearly clear ones for the back
  const speaks = (a: number): number => Math.max(smoothstep(0.5, 0.9, a), 1e-4 * a ** 4);
  const front = Float32Array.from({ length: 256 }, (_, c) => speaks(c / 255));
  const back = Float32Array.from({ length: 256 }, (_, c) => speaks(1 - c / 255));
  const pixels = new Int32Array(count);
  for (let i = 0, k = 0; i < n; i++) if (matte.data[i]! > 0.002 && matte.data[i]! < 0.998) pixels[k++] = i;
  const out = newPicture(width, height);
  const [from, to] = [picture.data, out.data];
  for (let i = 0, o = 0; i < n; i++, o += 4) {
    const a = matte.data[i]!;
    if (a === 0) continue;
    to[o] = from[o]! * a;
    to[o + 1] = from[o + 1]! * a;
    to[o + 2] = from[o + 2]! * a;
    to[o + 3] = from[o + 3]! * a;
  }
  if (pixels.length === 0) return out;
  const statistics = new Statistics(picture, { codes, front, back }, pixels);
  const colours = frontColours(
    picture,
    pixels,
    statistics,
    Float32Array.from(pixels, (i) => matte.data[i]!),
    0.02,
  );
  for (let k = 0; k < pixels.length; k++) {
    const o = pixels[k]! * 4;
    const a = matte.data[pixels[k]!]!;
    for (let c = 0; c < 3; c++) out.data[o + c] = colours[k * 3 + c]! * a;
    out.data[o + 3] = a * picture.data[o + 3]!;
  }
  return out;
}
