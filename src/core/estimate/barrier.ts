import { newFloats, type Plane } from '../picture';

/**
 * Minimum barrier distance to seed pixels by raster scans (Zhang et al. 2015, algorithm 1): the smallest range (largest minus
 * smallest value) that a path from the seeds must climb through. Summed over the given planes.
 */
export function barrierDistance(planes: readonly Plane[], isSeed: (x: number, y: number) => boolean, passes = 3): Plane {
  const { width, height } = planes[0]!;
  const total = newFloats(width * height);
  for (const plane of planes) {
    const distance = scan(plane, isSeed, passes);
    for (let i = 0; i < total.length; i++) total[i]! += distance[i]!;
  }
  return { width, height, data: total };
}

function scan({ width, height, data }: Plane, isSeed: (x: number, y: number) => boolean, passes: number): Float32Array {
  const n = width * height;
  const distance = newFloats(n).fill(1e3);
  const high = data.slice();
  const low = data.slice();
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) if (isSeed(x, y)) distance[y * width + x] = 0;
  const relax = (i: number, j: number): void => {
    const v = data[i]!;
    const top = high[j]! > v ? high[j]! : v;
    const bottom = low[j]! < v ? low[j]! : v;
    const d = top - bottom;
    if (d < distance[i]! && distance[j]! < 1e3) {
      distance[i] = d;
      high[i] = top;
      low[i] = bottom;
    }
  };
  for (let pass = 0; pass < passes; pass++) {
    if (pass % 2 === 0)
      for (let y = 0, i = 0; y < height; y++)
        for (let x = 0; x < width; x++, i++) {
          if (x > 0) relax(i, i - 1);
          if (y > 0) relax(i, i - width);
        }
    else
      for (let y = height - 1, i = n - 1; y >= 0; y--)
        for (let x = width - 1; x >= 0; x--, i--) {
          if (x < width - 1) relax(i, i + 1);
          if (y < height - 1) relax(i, i + width);
        }
  }
  return distance;
}
