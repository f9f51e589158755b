/** Linear light as 16-bit steps of the cube root, up to 64. */
export const packLight = (v: number): number => Math.round(65535 * Math.cbrt(Math.min(1, Math.max(0, v / 64))));

export const encodeSrgb = (v: number): number => {
  const c = Math.min(1, Math.max(0, v));
  return Math.round(255 * (c <= 0.0031308 ? c * 12.92 : 1.055 * c ** (1 / 2.4) - 0.055));
};
