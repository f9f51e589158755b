/**
 * What one call of the scatter works on: one sheet of the lens blur, the whole picture or a coarser one of what is far out of focus. The host
 * writes these words in this order (see lensBlurLayout.ts).
 */
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
  /** light and signed radius, 16 bytes a pixel; at coarser sheets the light is times the coverage */
  image: usize;
  /** coverage of the pixels, 4 bytes each; 0: all whole */
  cover: usize;
  /** what lies behind them, alike; on the whole picture's sheet it is half as wide and high */
  hidden: usize;
  hiddenCover: usize;
  /** on the whole picture's sheet: by which of four pixels it is owned (see hidden.ts); 0 on others */
  hiddenBits: usize;
  /** radii of this sheet, px: least ≤ ρ < beyond; pixels outside belong to another one */
  least: f32;
  beyond: f32;
  /** RGBA, times its coverage, one row more than there are */
  out: usize;
  /** what lies in front of this sheet, at half its size, alike; 0: nothing */
  front: usize;
  frontWidth: i32;
  frontHeight: i32;
  /** what is left to be covered by this sheet, 4 bytes a pixel; 0: all */
  through: usize;
  /** where what this sheet leaves open goes, at half its size, means of 2x2; 0: not asked for */
  leaves: usize;
  /** of each slice the share of its light that is seen, one map a slice, 4 bytes a pixel; 0: not asked for */
  shares: usize;
  /** lamps alone, at full size: what they are brighter than, at half the size (see lampLight.ts); 0: this is no sheet of lamps */
  lampsAbove: usize;
  /** how many times the sheet that the shares are of is halved, and its size */
  halvings: i32;
  shareWidth: i32;
  shareHeight: i32;
  /** what the sheets beyond the focus began with, at half the size, where lamps lie beyond; 0: before */
  openAtHalf: usize;
  halfWidth: i32;
  halfHeight: i32;
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
  /** two row difference buffers, two rows of transmittance, and room for a row of the sheet in front */
  difference: usize;
  differenceBytes: usize;
  transmittance: usize;
  room: usize;
  colourRowBytes: usize;
  /** discs laid over each other (0: even ones): scale and share of each (see discProfile.ts) */
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

/** What the plate behind the foreground is made from (see hidden.ts). */
@unmanaged
export class HiddenPlan {
  width: i32;
  height: i32;
  /** light and signed radius, 16 bytes a pixel */
  image: usize;
  /** at half the size: light and radius of what lies behind, and one byte that says behind which of the four pixels */
  hidden: usize;
  bits: usize;
  /** at half the size: the nearest radius of four pixels, as firstHalves makes it; room for the nearest of blocks of 8x8 pixels of the whole */
  nearest: usize;
  blockLow: usize;
  /** pyramid: per level address, width, height; the first is there already */
  levels: i32;
  levelTable: usize;
  /** slice of each radius step of the whole picture */
  sliceOf: usize;
  steps: i32;
  zeroStep: i32;
  stepsPerPx: f32;
}

/** The whole picture at half the size (see firstHalves of sheets.ts); addresses, 0 where something is not asked for. */
@unmanaged
export class HalvesPlan {
  width: i32;
  height: i32;
  image: usize;
  farthest: usize;
  nearest: usize;
  /** light times coverage beside the radius, coverage, and the strongest light of each 2x2, undefined where nothing is covered */
  before: usize;
  beforeCover: usize;
  beforeBrightest: usize;
  after: usize;
  afterCover: usize;
  afterBrightest: usize;
  /** what is before is nearer than the one, what is after at least the other; px */
  beforeEnd: f32;
  afterFrom: f32;
  spreads: f32;
}
