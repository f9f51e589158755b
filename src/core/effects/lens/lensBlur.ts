import { blurKernel } from '../../kernels/blurKernel';
import { blurShape } from '../../kernels/blurShape';
import { packLight, type LensRadii, type RadiusPicture } from '../../kernels/lensBlurHost';
import { blurRadius, inFocusRange, type ThinLens } from '../../optics';
import { newFloats, type Picture, type Plane } from '../../picture';
import { borrowFloats, returnFloats } from '../../raster/scratch';
import { partOf } from '../../run';
import { smoothstep } from '../../scalar';
import { count, degrees, formatMetres, fStop, metres, percent, pixels, stops, toggle, type ValuesOf } from '../../values/params';
import { defineEffect, type EffectInput, type RenderLens } from '../definition';
import { boostHighlights, LAMP, relabelHighlights } from './radii';

const params = {
  focus: metres({
    section: 'Focus',
    label: 'Distance',
    min: 0.1,
    max: 3000,
    lowest: 0.01,
    highest: 1e6,
    default: 2,
    help: 'What lies here is sharp',
  }),
  aperture: fStop({
    section: 'Focus',
    label: 'Aperture',
    // without a scale a shot may be as far as its far end: blur then takes a very open lens
    min: 0.05,
    max: 22,
    lowest: 0.001,
    highest: 10000,
    default: 2.8,
    help: 'Focal length divided by the opening of the lens: smaller blurs more',
  }),
  strength: percent({
    section: 'Focus',
    label: 'Strength',
    min: 0,
    max: 300,
    highest: 10000,
    default: 100,
    help: 'Scales the blur of the physical lens',
  }),
  mostBefore: pixels({
    section: 'Focus',
    label: 'Before, at most',
    min: 0,
    max: 200,
    highest: 400,
    default: 160,
    help: 'Largest blur radius before the focus',
  }),
  mostBeyond: pixels({
    section: 'Focus',
    label: 'Beyond, at most',
    min: 0,
    max: 200,
    highest: 400,
    default: 160,
    help: 'Largest blur radius beyond the focus',
  }),
  edgeSnap: toggle({
    section: 'Focus',
    label: 'Firm map edges',
    default: true,
    help: 'Pixels on a soft edge of the map join the nearer of the two sides',
  }),
  alsoFrom: metres({
    section: 'Also sharp',
    label: 'Before, by',
    min: 0,
    max: 20,
    highest: 1e6,
    scale: 'linear',
    default: 0,
    help: 'For a subject deeper than the lens allows: so far before the focus all is as sharp',
  }),
  alsoTo: metres({
    section: 'Also sharp',
    label: 'Beyond, by',
    min: 0,
    max: 20,
    highest: 1e6,
    scale: 'linear',
    default: 0,
    help: 'So far beyond the focus',
  }),
  alsoEase: percent({ section: 'Also sharp', label: 'Shoulders', min: 0, max: 100, default: 50, help: 'How softly it gives way, of its depth' }),
  blades: count({
    section: 'Aperture shape',
    label: 'Blades',
    min: 0,
    max: 11,
    default: 0,
    names: { 0: 'round', 1: 'round', 2: 'round' },
    help: 'Round, or a polygon of 3 to 11 blades',
  }),
  rounding: percent({ section: 'Aperture shape', label: 'Rounding', min: 0, max: 100, default: 20 }),
  turn: degrees({ section: 'Aperture shape', label: 'Turn', min: -180, max: 180, decimals: 0, default: 0 }),
  squeeze: percent({ section: 'Aperture shape', label: 'Squeeze', min: 0, max: 70, default: 0, help: 'Makes the opening narrower than it is high' }),
  cat: percent({
    section: 'Aperture shape',
    label: 'Cat’s eye',
    min: 0,
    max: 100,
    default: 0,
    help: 'Towards the border the barrel cuts discs to the shape of a cat’s eye',
  }),
  weight: percent({
    section: 'Aperture shape',
    label: 'Edge weight',
    min: -100,
    max: 100,
    default: 0,
    help: 'Light gathers at the edge of discs, or in their middle where negative',
  }),
  threshold: percent({
    section: 'Highlights',
    label: 'Above',
    min: 0,
    max: 100,
    default: 80,
    help: 'Light, in share of white, from which highlights are raised',
  }),
  boost: stops({ section: 'Highlights', label: 'Boost', min: 0, max: 5, default: 0, help: 'Gives clipped lights their strength back' }),
};

export type LensBlurValues = ValuesOf<typeof params>;

/** Soft edges are firmed where they span more than this, px. */
const FIRM_ABOVE = 1.5;

/** The thin lens that the settings describe; strength scales the opening. */
export const thinLensOf = (p: LensBlurValues, lens: RenderLens): ThinLens => ({
  focalPx: lens.focalPx,
  focus: p.focus,
  apertureDiameter: (lens.focalLength / 1000 / p.aperture) * (p.strength / 100),
});

/** The f-number at which a distance beyond the focus blurs by a radius, px of the output; brought into what may be set. */
export function apertureFor(lens: RenderLens, focus: number, distance: number, radius: number): number {
  const perDiameter = 0.5 * lens.focalPx * (1 / focus - 1 / distance);
  const { min, max } = params.aperture;
  if (!(perDiameter > 0)) return params.aperture.default;
  const number = (lens.focalLength / 1000) * (perDiameter / radius);
  return Number(Math.min(max, Math.max(min, number)).toPrecision(2));
}

/** Signed blur radius at a distance, px of a picture whose px are `pxScale` of the output's; positive beyond focus. */
export function lensBlurRadius(p: LensBlurValues, lens: RenderLens, pxScale: number, distance: number): number {
  const rho = blurRadius(thinLensOf(p, lens), distance);
  return Math.min(p.mostBeyond * pxScale, Math.max(-p.mostBefore * pxScale, rho));
}

/** Coverage from which a pixel counts as solid: sampling rounds. */
const OPAQUE = 0.9995;

/**
 * Distances as the lens takes them: those that are to be sharp too stand at the focus, and give way over the shoulders. The plane itself where
 * none are.
 */
export function alsoSharp(p: Pick<LensBlurValues, 'focus' | 'alsoFrom' | 'alsoTo' | 'alsoEase'>, { width, height, data }: Plane): Plane {
  if (p.alsoFrom <= 0 && p.alsoTo <= 0) return { width, height, data };
  const ease = 1 + p.alsoEase / 100;
  const [first, last] = [Math.max(1e-3, p.focus - p.alsoFrom), p.focus + p.alsoTo];
  const [before, beyond] = [Math.max(1e-3, p.focus - p.alsoFrom * ease), p.focus + p.alsoTo * ease];
  const out = new Float32Array(data.length);
  for (let i = 0; i < out.length; i++) {
    const z = data[i]!;
    if (z >= first && z <= last) out[i] = p.focus;
    else if (z < first) out[i] = p.focus + (z - p.focus) * smoothstep(first, before === first ? first - 1e-6 : before, z);
    else out[i] = z < beyond ? p.focus + (z - p.focus) * smoothstep(last, beyond, z) : z;
  }
  return { width, height, data: out };
}

/** What lensBlurRadius says, with what is the same for every pixel worked out. */
function radiiOf(p: LensBlurValues, lens: RenderLens, pxScale: number): LensRadii {
  const thin = thinLensOf(p, lens);
  const scale = 0.5 * thin.focalPx * thin.apertureDiameter;
  return {
    atInfinity: scale / thin.focus,
    scale,
    least: -p.mostBefore * pxScale,
    most: p.mostBeyond * pxScale,
    snapAbove: p.edgeSnap ? FIRM_ABOVE : Infinity,
  };
}

async function apply({ picture, distance: measured, params: p, lens, pxScale, run }: EffectInput<LensBlurValues>): Promise<Picture> {
  const distance = alsoSharp(p, measured);
  const { width, height } = picture;
  const n = width * height;
  const packed = borrowFloats(n * 4, run.shared);
  try {
    const source: RadiusPicture = { width, height, data: packed };
    const { lowest, highest, brightest, thinnest } = packLight(picture.data, distance.data, width, radiiOf(p, lens, pxScale), packed);
    const opaque = thinnest >= OPAQUE;
    const out: Picture = { width, height, data: newFloats(n * 4, run.shared) };
    boostHighlights(source, p.threshold / 100, p.boost);
    if (brightest * 2 ** p.boost > LAMP) relabelHighlights(source);
    const shape = blurShape(
      { blades: p.blades, rounding: p.rounding / 100, turn: (p.turn * Math.PI) / 180, squeeze: 1 - p.squeeze / 100 },
      lowest,
      highest,
      p.cat / 100,
      p.weight / 100,
    );
    await partOf(run, 0, opaque ? 1 : 0.5).rows(blurKernel, height, { picture: source, shape }, out.data);
    if (opaque) return out;
    // coverage is blurred like light: a second pass carries alpha in the red channel
    const alpha: RadiusPicture = { width, height, data: newFloats(n * 4, run.shared) };
    for (let i = 0; i < alpha.data.length; i += 4) {
      alpha.data[i] = picture.data[i + 3]!;
      alpha.data[i + 3] = source.data[i + 3]!;
    }
    const blurred = newFloats(n * 4, run.shared);
    await partOf(run, 0.5, 1).rows(blurKernel, height, { picture: alpha, shape }, blurred);
    for (let i = 0; i < out.data.length; i += 4) out.data[i + 3] = Math.min(1, blurred[i]!);
    return out;
  } finally {
    returnFloats(packed);
  }
}

/**
 * Lens blur by a thin lens: ρ = ½·focalPx·A·(1/S − 1/D), scattered in linear light by depth slices with a hidden plate behind
 * the foreground (see docs/methods.md).
 */
export const lensBlur = defineEffect({
  kind: 'lens-blur',
  group: 'lens',
  label: 'Lens blur',
  help: 'Sharp at one distance, softer before and beyond it',
  params,
  needs: () => ['distance', 'lens'],
  picking: { param: 'focus', label: 'Pick focus in picture', prompt: 'Click what should be sharp' },
  summary: (p) => `f/${p.aperture.toFixed(1)}`,
  lane: (p, lens) => {
    const thin = thinLensOf(p, lens);
    const sharp = inFocusRange(thin, 1);
    const soft = inFocusRange(thin, 8);
    return {
      caption: `Lens blur: in focus ${formatMetres(sharp.near)} to ${formatMetres(sharp.far)}`,
      points: [
        { distance: soft.near, strength: 1 },
        { distance: sharp.near, strength: 0 },
        { distance: sharp.far, strength: 0 },
        { distance: soft.far, strength: 1 },
      ],
      solid: { from: sharp.near, to: sharp.far },
      handles: [{ param: 'focus', distance: p.focus }],
    };
  },
  apply,
});
