import { kernels } from '../kernels/loader';
import { eachRow, workedRows } from '../kernels/workedRows';
import { newPicture, newPlane, type Picture, type Plane } from '../picture';
import type { Run } from '../run';
import type { Places } from './definition';

/** A place brought into 0..n by mirrors at both ends. */
export function mirrored(v: number, n: number): number {
  if (v >= 0 && v <= n) return v;
  const t = ((v % (2 * n)) + 2 * n) % (2 * n);
  return t <= n ? t : 2 * n - t;
}

const ALL = [0, 1, 2, 3];

/**
 * A picture whose pixels are fetched from elsewhere: `places` writes where the light of each pixel of row y comes from, x and y of one after
 * the other, px; pixel centres lie at halves. Bilinear; the border is mirrored. Only the given channels are written to `out`. By a kernel,
 * whose readable twin is fetchTwin.
 */
export function fetched(
  { width, height, data }: Picture,
  run: Run,
  places: Places,
  out: Picture = newPicture(width, height, run.shared),
  channels: readonly number[] = ALL,
): Picture {
  const k = kernels();
  const bookmark = k.bookmark();
  const source = k.take(data.length * 4);
  const [at, mask, row] = [k.take(width * 8), k.take(16), k.take(width * 16)];
  k.floats(source, data.length).set(data);
  k.ints(mask, 4).set([0, 1, 2, 3].map((c) => (channels.includes(c) ? -1 : 0)));
  const to = k.floats(at, width * 2);
  const light = k.floats(row, width * 4);
  const partly = channels.length < 4;
  try {
    eachRow(run, height, (y) => {
      places(y, to);
      const line = out.data.subarray(y * width * 4, (y + 1) * width * 4);
      if (partly) light.set(line);
      k.run.fetchRow(source, width, height, at, width, mask, row);
      line.set(light);
    });
  } finally {
    k.back(bookmark);
  }
  return out;
}

/** A picture as an effect bends it; null leaves it as it is. */
export const bent = (picture: Picture, run: Run, places: Places | null): Picture => (places ? fetched(picture, run, places) : picture);

/** A plane whose values are fetched from elsewhere, as those of a picture: the nearest one, or between them. At the border it is mirrored. */
export function fetchedPlane({ width, height, data }: Plane, places: Places, how: 'nearest' | 'between'): Plane {
  const out = newPlane(width, height);
  const to = new Float32Array(2 * width);
  const offset = how === 'nearest' ? 0 : 0.5;
  for (let y = 0, o = 0; y < height; y++) {
    places(y, to);
    for (let x = 0; x < width; x++, o++) {
      const u = Math.min(width - 1, Math.max(0, mirrored(to[2 * x]!, width) - offset));
      const v = Math.min(height - 1, Math.max(0, mirrored(to[2 * x + 1]!, height) - offset));
      const i = Math.floor(u);
      const j = Math.floor(v);
      const at = j * width + i;
      if (how === 'nearest') {
        out.data[o] = data[at]!;
        continue;
      }
      const right = i < width - 1 ? 1 : 0;
      const down = j < height - 1 ? width : 0;
      const top = data[at]! + (u - i) * (data[at + right]! - data[at]!);
      const low = data[at + down]! + (u - i) * (data[at + down + right]! - data[at + down]!);
      out.data[o] = top + (v - j) * (low - top);
    }
  }
  return out;
}

/** A copy of a picture, turned and scaled about the frame's middle, then moved. */
export interface Copy {
  /** px that the picture has been moved by */
  readonly x: number;
  readonly y: number;
  /** radians, clockwise */
  readonly turn: number;
  readonly scale: number;
  readonly strength: number;
}

/** How copies are laid over each other: as numbers of the kernel. */
const OVER = { added: 1, lighter: 2 } as const;

/** Copies of a picture over each other, bilinear, mirrored at the border: their light added up, or the lightest of them. */
export function overlaid(picture: Picture, run: Run, copies: readonly Copy[], how: keyof typeof OVER): Picture {
  const { width, height, data } = picture;
  const [mx, my] = [width / 2, height / 2];
  const lines = copies.map(({ x, y, turn, scale, strength }) => {
    const [cos, sin] = [Math.cos(turn) / scale, Math.sin(turn) / scale];
    const [u, v] = [0.5 - mx - x, 0.5 - my - y];
    const asIs = x === 0 && y === 0 && turn === 0 && scale === 1 && strength === 1;
    return { cos, sin, strength, x: mx + cos * u + sin * v, y: my - sin * u + cos * v, asIs };
  });
  return workedRows(picture, run, (k, row) => {
    const source = k.put(data);
    return (r) =>
      lines.forEach(({ cos, sin, strength, x, y, asIs }, n) => {
        // the row holds the picture itself to begin with
        if (n === 0 && asIs) return;
        k.run.fetchLine(source, width, height, x + r * sin, y + r * cos, cos, -sin, width, n === 0 ? 0 : OVER[how], strength, row);
      });
  });
}

/** What the kernel does, one pixel: the light at a place, px, of a picture; RGBA to `out`. */
export function fetchTwin({ width, height, data }: Picture, x: number, y: number, out: Float32Array): void {
  const u = Math.min(width - 1, Math.max(0, mirrored(x, width) - 0.5));
  const v = Math.min(height - 1, Math.max(0, mirrored(y, height) - 0.5));
  const [x0, y0] = [Math.floor(u), Math.floor(v)];
  const [x1, y1] = [Math.min(width - 1, x0 + 1), Math.min(height - 1, y0 + 1)];
  const [tx, ty] = [u - x0, v - y0];
  for (let k = 0; k < 4; k++) {
    const of = (i: number, j: number): number => data[(j * width + i) * 4 + k]!;
    const top = of(x0, y0) + tx * (of(x1, y0) - of(x0, y0));
    const low = of(x0, y1) + tx * (of(x1, y1) - of(x0, y1));
    out[k] = top + ty * (low - top);
  }
}

/** A picture made row by row: `make` reads at o up to `end` and writes there, four numbers a pixel. Inputs are not written. */
export function madeRows({ width, height }: Picture, run: Run, make: (o: number, end: number, y: number, out: Float32Array) => void): Picture {
  const out = newPicture(width, height, run.shared);
  eachRow(run, height, (y) => make(y * width * 4, (y + 1) * width * 4, y, out.data));
  return out;
}
