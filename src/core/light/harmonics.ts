import type { Picture } from '../picture';

/** Light from all round as 27 numbers: nine spherical harmonics of radiance, for red, green and blue (Ramamoorthi & Hanrahan 2001). */
export type Harmonics = readonly number[];

/** The nine basis functions, for a direction with y up. */
const basis = (x: number, y: number, z: number): readonly number[] => [
  0.282095,
  0.488603 * y,
  0.488603 * z,
  0.488603 * x,
  1.092548 * x * y,
  1.092548 * y * z,
  0.315392 * (3 * z * z - 1),
  1.092548 * x * z,
  0.546274 * (x * x - y * y),
];

/** What a cosine lobe keeps of each band: π, 2π/3, π/4. */
const LOBES = [Math.PI, ...Array.from({ length: 3 }, () => (2 * Math.PI) / 3), ...Array.from({ length: 5 }, () => Math.PI / 4)];

/** Sums up an equirectangular picture of surroundings row by row: its middle lies straight ahead, its top above. */
export class SurroundSum {
  private readonly sum = new Array<number>(27).fill(0);
  /** sine and cosine of the way round, by column */
  private readonly round: Float64Array;

  constructor(
    private readonly width: number,
    private readonly height: number,
  ) {
    this.round = Float64Array.from({ length: width * 2 }, (_, i) => {
      const a = (((i >> 1) + 0.5) / width - 0.5) * 2 * Math.PI;
      return i % 2 === 0 ? Math.sin(a) : Math.cos(a);
    });
  }

  /** Adds row `y`: linear light, `channels` samples a pixel, the first three red, green and blue. */
  row(y: number, light: ArrayLike<number>, channels: number): void {
    const { width, height, sum, round } = this;
    const polar = ((y + 0.5) / height) * Math.PI;
    const [up, level] = [Math.cos(polar), Math.sin(polar)];
    const solid = ((2 * Math.PI) / width) * (Math.PI / height) * level;
    for (let x = 0; x < width; x++) {
      const b = basis(level * round[2 * x]!, up, level * round[2 * x + 1]!);
      for (let k = 0; k < 3; k++) {
        const v = light[x * channels + k]! * solid;
        for (let n = 0; n < 9; n++) sum[n * 3 + k]! += v * b[n]!;
      }
    }
  }

  result(): Harmonics {
    return this.sum.map((v) => (Number.isFinite(v) ? Number(v.toPrecision(9)) : 0));
  }
}

/** Harmonics of a whole picture of surroundings, linear light. */
export function harmonicsOf({ width, height, data }: Picture): Harmonics {
  const sum = new SurroundSum(width, height);
  for (let y = 0; y < height; y++) sum.row(y, data.subarray(y * width * 4, (y + 1) * width * 4), 4);
  return sum.result();
}

/** Irradiance over π that reaches a surface: its normal, y down as the camera has it; `turn`: the surroundings turned to the right, radians. */
export function irradianceAt(h: Harmonics, nx: number, ny: number, nz: number, turn: number, out: Float64Array): void {
  const [c, s] = [Math.cos(turn), Math.sin(turn)];
  const b = basis(c * nx - s * nz, -ny, s * nx + c * nz);
  out[0] = out[1] = out[2] = 0;
  for (let n = 0; n < 9; n++) for (let k = 0; k < 3; k++) out[k]! += (LOBES[n]! / Math.PI) * h[n * 3 + k]! * b[n]!;
  for (let k = 0; k < 3; k++) out[k] = Math.max(0, out[k]!);
}
