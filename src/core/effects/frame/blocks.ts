import { workedRows } from '../../kernels/workedRows';
import type { Picture } from '../../picture';
import { count, percent, type ValuesOf } from '../../values/params';
import { defineEffect, type EffectInput } from '../definition';

const params = {
  quality: percent({ label: 'Quality', min: 1, max: 100, lowest: 0, default: 12 }),
  size: count({ label: 'Coarser', min: 1, max: 8, default: 1, help: 'Px of the output that one px of a block stands for' }),
};
export type BlocksValues = ValuesOf<typeof params>;

/** Px of a side of a block. */
export const N = 8;
/** Steps of the coefficients, of a full scale of 1: coarser towards fine detail, and for colour. */
const stepOf = (u: number, v: number, quality: number, colour: boolean): number =>
  ((colour ? 0.16 : 0.09) * (1 + 0.55 * (u + v)) * (100 - quality) ** 1.5) / 900;

/** The steps of all coefficients of a block, and their inverses; 0 where nothing is rounded. */
export function stepsOf(quality: number, colour: boolean): { readonly step: Float64Array; readonly inverse: Float64Array } {
  const step = Float64Array.from({ length: N * N }, (_, i) => stepOf(i % N, Math.floor(i / N), quality, colour));
  return { step, inverse: step.map((s) => (s > 0 ? 1 / s : 0)) };
}

/** The steps of every coefficient as four lanes, brightness and two differences, and then their inverses. */
function stepLanes(quality: number): Float32Array {
  const [luma, colour] = [stepsOf(quality, false), stepsOf(quality, true)];
  const lanes = (which: 'step' | 'inverse'): number[] =>
    Array.from({ length: N * N }, (_, i) => [luma[which][i]!, colour[which][i]!, colour[which][i]!, 0]).flat();
  return Float32Array.from([...lanes('step'), ...lanes('inverse')]);
}

function apply({ picture, params: p, pxScale, run }: EffectInput<BlocksValues>): Picture {
  const { width, height, data } = picture;
  const cell = Math.max(1, Math.round(p.size * pxScale));
  const [cells, lines] = [Math.ceil(width / cell), Math.ceil(height / cell)];
  const padded = Math.ceil(cells / N) * N;
  return workedRows(picture, run, (k, row) => {
    const steps = k.put(stepLanes(p.quality));
    const [strip, source, room] = [k.room(padded * N * 4), k.room(width * 4), k.room(N * N * 4)];
    const line = padded * 16;
    /** Eight lines of cells from `first` on; what lies beyond the last line is as that. */
    const fill = (first: number): void => {
      k.floats(strip, padded * N * 4).fill(0);
      for (let n = 0; n < N; n++) {
        const at = strip + n * line;
        if (first + n >= lines) {
          k.bytes(at, line).set(k.bytes(at - line, line));
          continue;
        }
        const [from, to] = [(first + n) * cell, Math.min(height, (first + n + 1) * cell)];
        for (let y = from; y < to; y++) {
          k.floats(source, width * 4).set(data.subarray(y * width * 4, (y + 1) * width * 4));
          k.run.cellRow(source, width, cell, 1 / (to - from), at);
        }
        k.run.toDifferences(at, cells, padded);
      }
      // at full quality nothing is rounded
      if (p.quality < 100) k.run.roundBlocks(strip, padded, steps, room);
      k.run.toLight(strip, padded * N);
    };
    return (y) => {
      const n = Math.floor(y / cell);
      if (y % (cell * N) === 0) fill(n);
      k.run.overCells(strip + (n % N) * line, width, cell, row);
    };
  });
}

/** What coarse coding leaves of a picture: cosine blocks of 8x8, their coefficients rounded. */
export const blocks = defineEffect({
  kind: 'blocks',
  group: 'frame',
  label: 'Blocks',
  help: 'Blocks of coarse coding, by quality and size',
  params,
  reach: true,
  needs: () => [],
  summary: (p) => `${p.quality.toFixed(0)} %`,
  apply,
});
