import { newKernels, type Kernels } from '../kernels/loader';
import type { RowKernel } from '../run';
import type { LayeredPlate } from './layered';
import { ViewGeometry, type CameraPose, type PlateLens } from './pose';

/** One view of a layered plate. What `distance` and `uncovered` name is written row by row as the picture is. */
export interface ViewInput {
  readonly plate: LayeredPlate;
  /** of the plate without its pad; the view has the same size */
  readonly lens: PlateLens;
  readonly pose: CameraPose;
  /** how much the view is enlarged about its middle */
  readonly enlarged: number;
  /** cubic inside surfaces (Keys 1981), for what is kept; otherwise linear, for what passes */
  readonly cubic: boolean;
  /** metres */
  readonly distance: Float32Array;
  /** 1 where what is seen was hidden in the plate; not written where absent */
  readonly uncovered?: Uint8Array;
}

/** The pad that leaves every pixel of the plate to be drawn: taps reach beyond a pixel. */
export const LEAST_PAD = 4;
/** Pixels of a view in one piece, so that its memory stays bounded. */
const BAND_PIXELS = 600e3;

/** Memory of its own: a plate stays in it from one view to the next. */
let own: { readonly kernels: Kernels; readonly plate: string; readonly at: PlatePlaces } | null = null;

interface PlatePlaces {
  readonly words: readonly number[];
  readonly rows: number;
  readonly hidden: number;
}

function place(k: Kernels, plate: LayeredPlate): PlatePlaces {
  const floats = (data: Float32Array): number => {
    const at = k.take(Math.max(4, data.length * 4));
    k.floats(at, data.length).set(data);
    return at;
  };
  const ints = (data: Int32Array): number => {
    const at = k.take(Math.max(4, data.length * 4));
    k.ints(at, data.length).set(data);
    return at;
  };
  const { q, colour, flags, hidden, hiddenAt, rim, rimCover, rowRange, width } = plate;
  const flagsAt = k.take(flags.length);
  k.bytes(flagsAt, flags.length).set(flags);
  const words = [
    floats(q),
    floats(colour),
    flagsAt,
    ints(hiddenAt),
    ints(hidden.pixel),
    floats(hidden.q),
    floats(hidden.colour),
    ints(hidden.rowStart),
    ints(rim.pixel),
    floats(rim.q),
    floats(rim.colour),
    ints(rim.rowStart),
    floats(rimCover),
    floats(rowRange),
  ];
  return { words, rows: k.take(width * 48), hidden: k.take((hidden.q.length + 4) * 12) };
}

/** The plate in the kernels' memory, where it stays until another one is asked for. */
function placed(plate: LayeredPlate): { readonly k: Kernels; readonly at: PlatePlaces; readonly free: number } {
  if (own?.plate !== plate.name) {
    // memory only grows: that of a much larger plate is given back
    const bytes = plate.data.byteLength;
    const kernels = own && own.kernels.size < 4 * bytes + 32e6 ? own.kernels : newKernels();
    kernels.reset();
    own = { kernels, plate: plate.name, at: place(kernels, plate) };
  }
  const { kernels, at } = own;
  return { k: kernels, at, free: kernels.bookmark() };
}

/** Lets go of the plate that the kernels hold. */
export const releaseViews = (): void => void (own = null);

/**
 * A view of a layered plate: depth forward, colour backward (Mori et al. 2009; relief texture mapping: Oliveira, Bishop & McAllister 2000).
 * RGBA, linear light, premultiplied. Every row depends on the plate alone: bands give the same bits as the whole. The readable twin is
 * viewTwin.ts.
 */
export const viewKernel: RowKernel<ViewInput> = {
  name: 'camera view',
  step: 2,
  make(input, y0, y1, out, onProgress) {
    const { plate, lens, pose, enlarged, cubic, distance, uncovered } = input;
    const { width } = lens;
    const { k, at, free } = placed(plate);
    const g = new ViewGeometry(lens, pose, enlarged, plate.pad);
    const rows = Math.max(16, Math.floor(BAND_PIXELS / width));
    const most = Math.min(rows, y1 - y0) * width;
    const plan = k.take(256);
    const [bandQ, bandId, light, far, mask] = [k.take(most * 12), k.take(most * 12), k.take(most * 16), k.take(most * 4), k.take(most)];
    for (let y = y0; y < y1; y += rows) {
      onProgress((y - y0) / Math.max(1, y1 - y0));
      const end = Math.min(y1, y + rows);
      const n = (end - y) * width;
      const head = [width, y, end, cubic ? 1 : 0, plate.width, plate.height, plate.hidden.pixel.length, plate.rim.pixel.length];
      const numbers = [plate.tau, g.f, g.f2, g.cx, g.cy, g.cx2, g.cy2, g.tx, g.ty, g.tz, ...g.r, 1 / g.f, 1 / g.f2];
      k.ints(plan, head.length).set(head);
      k.floats(plan + head.length * 4, numbers.length).set(numbers);
      k.ints(plan + (head.length + numbers.length) * 4, at.words.length + 7).set([...at.words, at.rows, at.hidden, bandQ, bandId, light, far, mask]);
      k.run.viewRows(plan);
      out.set(k.floats(light, n * 4), y * width * 4);
      distance.set(k.floats(far, n), y * width);
      uncovered?.set(k.bytes(mask, n), y * width);
    }
    k.back(free);
  },
};
