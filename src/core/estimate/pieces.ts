import type { Size } from '../picture';

/** What hangs together by its sides, each piece as its pixels: those that are `inside`, as far as two neighbours are `joined`. */
export function piecesOf(
  { width, height }: Size,
  inside: (i: number) => boolean,
  joined: (a: number, b: number) => boolean = () => true,
): number[][] {
  const seen = new Uint8Array(width * height);
  const pieces: number[][] = [];
  for (let first = 0; first < seen.length; first++) {
    if (seen[first] || !inside(first)) continue;
    const piece = [first];
    seen[first] = 1;
    for (let k = 0; k < piece.length; k++) {
      const i = piece[k]!;
      const x = i % width;
      for (const [next, there] of [
        [i - 1, x > 0],
        [i + 1, x < width - 1],
        [i - width, i >= width],
        [i + width, i < width * (height - 1)],
      ] as const)
        if (there && !seen[next] && inside(next) && joined(i, next)) {
          seen[next] = 1;
          piece.push(next);
        }
    }
    pieces.push(piece);
  }
  return pieces;
}
