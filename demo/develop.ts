import { box } from './tracer/denoise';

/** Straight up to the knee, then a smooth shoulder that reaches white at infinity. */
const shoulder = (v: number): number => {
  const knee = 0.55;
  if (v <= knee) return v;
  return knee + (1 - knee) * (1 - Math.exp(-(v - knee) / (1 - knee)));
};

const encode = (v: number): number => (v <= 0.0031308 ? v * 12.92 : 1.055 * v ** (1 / 2.4) - 0.055);

/**
 * Turns linear light into 8-bit sRGB the way a camera would: a little glare round bright lights, a shoulder for the
 * highlights, slightly darker corners. RGB interleaved in and out.
 */
export function developPicture(rgb: Float32Array, width: number, height: number): Uint8Array {
  const n = width * height;
  const out = new Uint8Array(n * 3);
  for (let k = 0; k < 3; k++) {
    let glare: Float32Array = new Float32Array(n);
    for (let i = 0; i < n; i++) glare[i] = Math.min(30, Math.max(0, rgb[i * 3 + k]! - 1));
    const radius = Math.max(1, Math.round(width / 130));
    for (let pass = 0; pass < 3; pass++) glare = box(glare, width, height, radius);
    for (let i = 0; i < n; i++) {
      const x = ((i % width) + 0.5) / width - 0.5;
      const y = (Math.floor(i / width) + 0.5) / height - 0.5;
      const corner = 1 - 0.55 * (x * x + y * y);
      const v = shoulder((rgb[i * 3 + k]! + 0.12 * glare[i]!) * corner);
      out[i * 3 + k] = Math.round(255 * encode(Math.min(1, Math.max(0, v))));
    }
  }
  return out;
}
