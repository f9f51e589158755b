/** What one call of the lens blur works on. The host writes these words in this order (see lensBlurHost.ts). */
@unmanaged
export class BlurPlan {
  width: i32;
  height: i32;
  slices: i32;
  /** number of signed radius steps, and the index of radius 0 */
  steps: i32;
  zeroStep: i32;
  maxRow: i32;
  pad: i32;
  slots: i32;
  runCapacity: i32;
  stepsPerPx: f32;
  /** RGB + signed radius, 16 bytes a pixel */
  image: usize;
  hidden: usize;
  out: usize;
  /** per step: slice (u8), last row (i32), address of the span of row 0 (i32) */
  sliceOf: usize;
  lastRow: usize;
  spanOf: usize;
  /** per source row held: runs sorted by slice, colours, first run of each slice */
  runs: usize;
  colours: usize;
  firstRun: usize;
  hiddenRuns: usize;
  hiddenColours: usize;
  firstHiddenRun: usize;
  /** per source row held and slice: largest kernel row; leftmost and rightmost column reached */
  reach: usize;
  columns: usize;
  rowInSlot: usize;
  count: usize;
  scratchRuns: usize;
  /** two row difference buffers, transmittances and accumulators */
  difference: usize;
  differenceBytes: usize;
  transmittance: usize;
  accumulator: usize;
  colourRowBytes: usize;
  hiddenMask: usize;
  blockLow: usize;
  /** pyramid of the hidden plate: per level address, width, height */
  levels: i32;
  levelTable: usize;
  useHidden: i32;
  /** discs laid over each other (0: even ones): scale and share of each (see discLook.ts) */
  layers: i32;
  layerTable: usize;
  /** how far off the circle lies that cuts discs, for each px from the picture's middle; 0 where none does */
  cutPerPx: f32;
  cutX: f32;
  cutY: f32;
  gains: usize;
  /** per source row held and piece of it: how its discs are cut */
  cuts: usize;
  pieces: i32;
  /** a span on its way */
  span: usize;
}
