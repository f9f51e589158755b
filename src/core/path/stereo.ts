import type { Stereo } from '../document/schema';
import { linearToSrgb, srgbToLinear } from '../raster/colour';
import { newPicture, type Picture, type Size } from '../picture';
import type { PlateLens } from '../camera/pose';
import type { StereoForm } from '../camera/stereoForms';

/** From both eyes' sRGB (left R, G, B, right R, G, B) to what is shown, sRGB: rows R, G, B. */
type Mix = readonly (readonly [number, number, number, number, number, number])[];

/**
 * Colours for red-cyan glasses by least squares in the space of cone responses, with the leak of usual glasses and a usual screen
 * (Dubois 2001, "A projection method to generate anaglyph stereo images", matrices for red-cyan).
 */
const LEAST_SQUARES: Mix = [
  [0.437, 0.449, 0.164, -0.011, -0.032, -0.007],
  [-0.062, -0.062, -0.024, 0.377, 0.761, 0.009],
  [-0.048, -0.05, -0.017, -0.026, -0.093, 1.234],
];

const MIXES: Readonly<Partial<Record<StereoForm, Mix>>> = {
  'red-cyan': LEAST_SQUARES,
  // the left eye sees its grey, the right eye its own colours
  'half-colour': [
    [0.299, 0.587, 0.114, 0, 0, 0],
    [0, 0, 0, 0, 1, 0],
    [0, 0, 0, 0, 0, 1],
  ],
  grey: [
    [0.299, 0.587, 0.114, 0, 0, 0],
    [0, 0, 0, 0.299, 0.587, 0.114],
    [0, 0, 0, 0.299, 0.587, 0.114],
  ],
};

/** The size at which two eyes of a size are shown. */
export function stereoSize(form: StereoForm, { width, height }: Size): Size {
  if (form === 'side-by-side') return { width: 2 * width, height };
  if (form === 'over-under') return { width, height: 2 * height };
  return { width, height };
}

/** Two eyes in one picture. */
export function combineEyes(form: StereoForm, left: Picture, right: Picture, shared = false): Picture {
  const mix = MIXES[form];
  const size = stereoSize(form, left);
  const out = newPicture(size.width, size.height, shared);
  if (mix) mixEyes(mix, left, right, out);
  else if (form === 'over-under') {
    out.data.set(left.data);
    out.data.set(right.data, left.data.length);
  } else putAside(left, right, out);
  return out;
}

function mixEyes(mix: Mix, left: Picture, right: Picture, out: Picture): void {
  const eyes = [0, 0, 0, 0, 0, 0];
  for (let i = 0; i < out.data.length; i += 4) {
    for (let k = 0; k < 3; k++) {
      eyes[k] = linearToSrgb(Math.min(1, Math.max(0, left.data[i + k]!)));
      eyes[k + 3] = linearToSrgb(Math.min(1, Math.max(0, right.data[i + k]!)));
    }
    const [a, b, c, d, e, f] = eyes as [number, number, number, number, number, number];
    for (let k = 0; k < 3; k++) {
      const m = mix[k]!;
      const v = m[0] * a + m[1] * b + m[2] * c + m[3] * d + m[4] * e + m[5] * f;
      out.data[i + k] = srgbToLinear(Math.min(1, Math.max(0, v)));
    }
    out.data[i + 3] = Math.max(left.data[i + 3]!, right.data[i + 3]!);
  }
}

/** Left beside right, each as wide as there is room: whole, or half as wide as it is. */
function putAside(left: Picture, right: Picture, out: Picture): void {
  const half = Math.floor(out.width / 2);
  for (const [eye, from] of [
    [left, 0],
    [right, half],
  ] as const) {
    const width = from === 0 ? half : out.width - half;
    for (let y = 0; y < out.height; y++)
      for (let x = 0; x < width; x++) {
        // the mean of what a pixel covers
        const [a, b] = [(x * eye.width) / width, ((x + 1) * eye.width) / width];
        for (let k = 0; k < 4; k++) {
          let sum = 0;
          for (let u = Math.floor(a); u < Math.ceil(b - 1e-9); u++)
            sum += (Math.min(b, u + 1) - Math.max(a, u)) * eye.data[(y * eye.width + u) * 4 + k]!;
          out.data[(y * out.width + from + x) * 4 + k] = sum / (b - a);
        }
      }
  }
}

/** Parallax beyond which eyes tire, per cent of the width. */
export const COMFORT = 2;

/** Parallax of what lies at an inverse distance, per cent of the picture's width; above 0 it lies before the screen. */
export function parallaxOf({ eyes, screen }: Pick<Stereo, 'eyes' | 'screen'>, lens: PlateLens, q: number): number {
  const inScreen = screen === 'infinite' ? 0 : 1 / screen;
  return (100 * lens.focalPx * (eyes / 1000) * (q - inScreen)) / lens.width;
}
