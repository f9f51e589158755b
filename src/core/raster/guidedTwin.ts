import { boxMean } from './filters';
import { newPlane, type Picture, type Plane } from '../picture';

/** The colour guided filter at full size, written to be read: He, Sun & Tang 2013, eq. 14–16. */
export function guidedTwin(guide: Picture, map: Plane, radius: number, eps: number): Plane {
  const { width, height } = guide;
  const n = width * height;
  const mean = (f: (i: number) => number): Float32Array =>
    boxMean({ width, height, data: Float32Array.from({ length: n }, (_, i) => f(i)) }, radius).data;
  const channel = (i: number, c: number): number => guide.data[i * 4 + c]!;
  const means = [0, 1, 2].map((c) => mean((i) => channel(i, c)));
  const mapMean = mean((i) => map.data[i]!);
  const products = [0, 1, 2].map((a) => [0, 1, 2].map((b) => mean((i) => channel(i, a) * channel(i, b))));
  const withMap = [0, 1, 2].map((c) => mean((i) => channel(i, c) * map.data[i]!));
  const coefficients = [0, 1, 2, 3].map(() => new Float32Array(n));
  for (let i = 0; i < n; i++) {
    const sigma = (a: number, b: number): number => products[a]![b]![i]! - means[a]![i]! * means[b]![i]! + (a === b ? eps : 0);
    const v = [0, 1, 2].map((c) => withMap[c]![i]! - means[c]![i]! * mapMean[i]!);
    const [a, b, c, d, e, f] = [sigma(0, 0), sigma(0, 1), sigma(0, 2), sigma(1, 1), sigma(1, 2), sigma(2, 2)];
    const inverse = [
      [d * f - e * e, c * e - b * f, b * e - c * d],
      [c * e - b * f, a * f - c * c, b * c - a * e],
      [b * e - c * d, b * c - a * e, a * d - b * b],
    ];
    const det = a * inverse[0]![0]! + b * inverse[0]![1]! + c * inverse[0]![2]!;
    let offset = mapMean[i]!;
    for (let k = 0; k < 3; k++) {
      const x = (inverse[k]![0]! * v[0]! + inverse[k]![1]! * v[1]! + inverse[k]![2]! * v[2]!) / det;
      coefficients[k]![i] = x;
      offset -= x * means[k]![i]!;
    }
    coefficients[3]![i] = offset;
  }
  const smooth = coefficients.map((data) => boxMean({ width, height, data }, radius).data);
  const out = newPlane(width, height);
  for (let i = 0; i < n; i++)
    out.data[i] = smooth[0]![i]! * channel(i, 0) + smooth[1]![i]! * channel(i, 1) + smooth[2]![i]! * channel(i, 2) + smooth[3]![i]!;
  return out;
}
