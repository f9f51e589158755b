import { box } from '../demo/tracer/denoise';

/** Peak signal-to-noise ratio of two 8-bit sRGB pictures, dB. */
export function psnr(a: Uint8Array, b: Uint8Array): number {
  let sum = 0;
  for (let i = 0; i < a.length; i++) sum += (a[i]! - b[i]!) ** 2;
  return 10 * Math.log10((255 * 255) / Math.max(1e-9, sum / a.length));
}

/** Structural similarity of the luma of two RGB pictures (Wang et al. 2004), with box windows of 7 px. */
export function ssim(a: Uint8Array, b: Uint8Array, width: number, height: number): number {
  const luma = (s: Uint8Array): Float32Array =>
    Float32Array.from({ length: width * height }, (_, i) => 0.299 * s[3 * i]! + 0.587 * s[3 * i + 1]! + 0.114 * s[3 * i + 2]!);
  const [x, y] = [luma(a), luma(b)];
  const mean = (f: (i: number) => number): Float32Array =>
    box(
      Float32Array.from({ length: x.length }, (_, i) => f(i)),
      width,
      height,
      3,
    );
  const [mx, my, xx, yy, xy] = [mean((i) => x[i]!), mean((i) => y[i]!), mean((i) => x[i]! ** 2), mean((i) => y[i]! ** 2), mean((i) => x[i]! * y[i]!)];
  const [c1, c2] = [(0.01 * 255) ** 2, (0.03 * 255) ** 2];
  let sum = 0;
  for (let i = 0; i < x.length; i++) {
    const [u, v] = [mx[i]!, my[i]!];
    sum += ((2 * u * v + c1) * (2 * (xy[i]! - u * v) + c2)) / ((u * u + v * v + c1) * (xx[i]! - u * u + (yy[i]! - v * v) + c2));
  }
  return sum / x.length;
}

/** Text of a table with aligned columns. */
export function table(head: readonly string[], rows: readonly (readonly string[])[]): string {
  const widths = head.map((h, i) => Math.max(h.length, ...rows.map((r) => r[i]!.length)));
  const line = (r: readonly string[]): string => r.map((c, i) => (i === 0 ? c.padEnd(widths[i]!) : c.padStart(widths[i]!))).join('  ');
  return [line(head), line(widths.map((w) => '-'.repeat(w))), ...rows.map(line)].join('\n');
}

/** Best of several runs, ms: what the machine can do when it is not disturbed. */
export async function fastest(work: () => unknown, runs = 5): Promise<number> {
  let best = Infinity;
  for (let i = 0; i < runs; i++) {
    const started = performance.now();
    await work();
    best = Math.min(best, performance.now() - started);
  }
  return best;
}

/** ms of one pass over memory, the unit of all tables: a float RGBA picture of this size is read and written once, its memory touched before. */
export async function onePass(width: number, height: number): Promise<number> {
  const [from, to] = [new Float32Array(width * height * 4).fill(0.5), new Float32Array(width * height * 4).fill(0.25)];
  return fastest(() => to.set(from), 12);
}
