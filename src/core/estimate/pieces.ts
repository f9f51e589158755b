import type { Plane } from '../picture';

/** Pieces of a plane: the number of each pixel's, 0 where it is in none, and how many pixels each has. */
export interface Pieces {
  readonly labels: Int32Array;
  readonly sizes: number[];
}

/** What hangs together by its sides, among the pixels whose value is `inside`. */
export function piecesOf({ width, height, data }: Plane, inside: (v: number) => boolean): Pieces {
  const labels = new Int32Array(width * height);
  const sizes: number[] = [];
  const waiting: number[] = [];
  for (let first = 0; first < labels.length; first++) {
    if (labels[first] || !inside(data[first]!)) continue;
    const label = sizes.length + 1;
    let size = 0;
    labels[first] = label;
    waiting.push(first);
    while (waiting.length) {
      const i = waiting.pop()!;
      size++;
      const x = i % width;
      for (const [next, there] of [
        [i - 1, x > 0],
        [i + 1, x < width - 1],
        [i - width, i >= width],
        [i + width, i < width * (height - 1)],
      ] as const)
        if (there && !labels[next] && inside(data[next]!)) {
          labels[next] = label;
          waiting.push(next);
        }
    }
    sizes.push(size);
  }
  return { labels, sizes };
}
