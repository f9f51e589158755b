/** Full-frame width, mm: focal lengths are 35 mm-equivalent. */
export const FRAME_WIDTH_MM = 36;

const radians = (degrees: number): number => (degrees * Math.PI) / 180;

/** Focal length in pixels for a picture of `width` px: (width/2)/tan(hfov/2). */
export const focalPx = (width: number, hfovDegrees: number): number => width / 2 / Math.tan(radians(hfovDegrees) / 2);

/** Horizontal field of view of a 35 mm-equivalent focal length, and back. */
export const hfovOfFocalLength = (mm: number): number => (2 * Math.atan(FRAME_WIDTH_MM / 2 / mm) * 180) / Math.PI;
export const focalLengthOfHfov = (hfovDegrees: number): number => FRAME_WIDTH_MM / 2 / Math.tan(radians(hfovDegrees) / 2);

export interface ThinLens {
  focalPx: number;
  /** aperture diameter, metres: focal length / f-number */
  apertureDiameter: number;
  /** focus distance, metres */
  focus: number;
}

/** Signed blur radius in px, positive beyond focus: ρ = ½·focalPx·A·(1/S − 1/D); at infinity ½·focalPx·A/S. */
export function blurRadius(lens: ThinLens, distance: number): number {
  return 0.5 * lens.focalPx * lens.apertureDiameter * (1 / lens.focus - 1 / distance);
}

/** Distances between which the blur stays under `radius` px; far may be Infinity. */
export function inFocusRange(lens: ThinLens, radius: number): { near: number; far: number } {
  const k = radius / (0.5 * lens.focalPx * lens.apertureDiameter);
  const far = 1 / lens.focus - k;
  return { near: 1 / (1 / lens.focus + k), far: far > 0 ? 1 / far : Infinity };
}
