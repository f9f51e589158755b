/** Kernels of the lens blur; plans are laid out as assembly/plan.ts says. */
export interface BlurExports {
  beginScatter(plan: number): void;
  scatterRows(plan: number, y0: number, y1: number): void;
  hiddenPlate(plan: number): number;
  boostLight(pixels: number, count: number, from: number, inverse: number, gain: number): void;
  mixedLamps(pixels: number, width: number, height: number, y0: number, y1: number, changes: number): number;
  halveSheet(
    image: number,
    cover: number,
    width: number,
    height: number,
    least: number,
    beyond: number,
    spreads: number,
    out: number,
    outCover: number,
  ): number;
  firstHalves(plan: number): number;
  takeLamps(
    image: number,
    width: number,
    height: number,
    least: number,
    beyond: number,
    light: number,
    cover: number,
    brightest: number,
    blocks: number,
    used: number,
    sliceOf: number,
    steps: number,
    zeroStep: number,
    stepsPerPx: number,
  ): number;
  hiddenSheet(hidden: number, bits: number, n: number, least: number, beyond: number, spreads: number, out: number, outCover: number): number;
  behindRows(
    out: number,
    through: number,
    width: number,
    y0: number,
    y1: number,
    coarse: number,
    coarseThrough: number,
    coarseWidth: number,
    coarseHeight: number,
    room: number,
    finished: number,
  ): void;
  finishRows(out: number, width: number, y0: number, y1: number): void;
}
