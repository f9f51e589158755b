import { kernels } from '../kernels/loader';
import { newPicture, type Picture } from '../raster/picture';
import type { Run } from '../run';

const ROWS_PER_LOOK = 32;

/** Goes through the rows of a picture, and looks now and then whether the work is still wanted. Throws Stopped. */
export function eachRow(run: Run, height: number, row: (y: number) => void): void {
  for (let y = 0; y < height; y++) {
    if (y % ROWS_PER_LOOK === 0) run.checkpoint(y / height);
    row(y);
  }
}

/** A place in a picture, px; pixel centres lie at halves. */
export interface Place {
  x: number;
  y: number;
}

/** A place brought into 0..n by mirrors at both ends. */
export function mirrored(v: number, n: number): number {
  if (v >= 0 && v <= n) return v;
  const t = ((v % (2 * n)) + 2 * n) % (2 * n);
  return t <= n ? t : 2 * n - t;
}

const ALL = [0, 1, 2, 3];

/**
 * A picture whose pixels are fetched from elsewhere: `place` turns the middle of a pixel into where its light comes from. Bilinear; the border
 * is mirrored. Only the given channels are written to `out`. By a kernel, whose readable twin is fetchTwin.
 */
export function fetched(
  { width, height, data }: Picture,
  run: Run,
  place: (at: Place) => void,
  out: Picture = newPicture(width, height, run.shared),
  channels: readonly number[] = ALL,
): Picture {
  const k = kernels();
  const mark = k.mark();
  const source = k.take(data.length * 4);
  const [places, mask, row] = [k.take(width * 8), k.take(16), k.take(width * 16)];
  k.floats(source, data.length).set(data);
  k.ints(mask, 4).set([0, 1, 2, 3].map((c) => (channels.includes(c) ? -1 : 0)));
  // fractions from the first: whole numbers would make it another kind of object, and slow
  const at: Place = { x: 0.5, y: 0.5 };
  const to = k.floats(places, width * 2);
  const light = k.floats(row, width * 4);
  const partly = channels.length < 4;
  try {
    eachRow(run, height, (y) => {
      for (let x = 0, p = 0; x < width; x++, p += 2) {
        at.x = x + 0.5;
        at.y = y + 0.5;
        place(at);
        to[p] = at.x;
        to[p + 1] = at.y;
      }
      const line = out.data.subarray(y * width * 4, (y + 1) * width * 4);
      if (partly) light.set(line);
      k.run.fetchRow(source, width, height, places, width, mask, row);
      line.set(light);
    });
  } finally {
    k.back(mark);
  }
  return out;
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

/** A picture whose light is multiplied, pixel by pixel and colour by colour; coverage is kept. `write` gives its three factors. */
export function multiplied(picture: Picture, run: Run, write: (x: number, y: number, out: Float64Array) => void): Picture {
  const { data } = picture;
  const by = new Float64Array(3);
  return madePixels(picture, run, (o, x, y, out) => {
    write(x, y, by);
    out[o] = data[o]! * by[0]!;
    out[o + 1] = data[o + 1]! * by[1]!;
    out[o + 2] = data[o + 2]! * by[2]!;
    out[o + 3] = data[o + 3]!;
  });
}

/** A picture made pixel by pixel: `make` reads at `o` and writes there. Inputs are not written. */
export function madePixels({ width, height }: Picture, run: Run, make: (o: number, x: number, y: number, out: Float32Array) => void): Picture {
  const out = newPicture(width, height, run.shared);
  eachRow(run, height, (y) => {
    for (let x = 0; x < width; x++) make((y * width + x) * 4, x, y, out.data);
  });
  return out;
}
