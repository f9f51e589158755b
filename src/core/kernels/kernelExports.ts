import type { BlurExports } from './blurExports';

/** What the built module of kernels gives. Addresses are bytes of its memory; numbers of pixels, rows and the like are whole. */
export interface KernelExports extends WebAssembly.Exports, BlurExports {
  linkPlate(q: number, flags: number, cut: number, w: number, h: number, tau: number): void;
  seedBehind(plan: number): void;
  mixedPlaces(q: number, cut: number, w: number, h: number, tau: number, pixels: number, candidates: number): number;
  listHidden(plan: number, cut: number, pixels: number, off: number, seeded: number, from: number, hiddenAt: number): void;
  linkHidden(
    masks: number,
    sweeps: number,
    count: number,
    pixels: number,
    hiddenAt: number,
    seenAt: number,
    w: number,
    h: number,
    links: number,
    seen: number,
  ): number;
  smoothBehind(
    q: number,
    behind: number,
    hiddenAt: number,
    pixels: number,
    count: number,
    masks: number,
    sweeps: number,
    w: number,
    h: number,
    within: number,
  ): void;
  smoothHidden(colours: number, seen: number, links: number, masks: number, count: number, sweeps: number): void;
  rootPixels(from: number, n: number, out: number): void;
  guidedCoefficients(image: number, w: number, h: number, r: number, eps: number, scratch: number): number;
  guidedApply(
    coefficients: number,
    w: number,
    h: number,
    guide: number,
    width: number,
    height: number,
    y0: number,
    y1: number,
    out: number,
    row: number,
  ): void;
  convolve(
    from: number,
    inputs: number,
    pitch: number,
    rows: number,
    weights: number,
    bias: number,
    outputs: number,
    size: number,
    width: number,
    height: number,
    activation: number,
    out: number,
  ): void;
  depthwise(
    from: number,
    planes: number,
    pitch: number,
    rows: number,
    weights: number,
    bias: number,
    size: number,
    width: number,
    height: number,
    activation: number,
    out: number,
  ): void;
  addRow(source: number, count: number, channels: number, wide: number, table: number, alpha: number, weight: number, sums: number): void;
  lightOfRow(source: number, count: number, channels: number, wide: number, table: number, alpha: number, out: number): void;
  reduceRow(sums: number, columns: number, weights: number, width: number, down: number, outside: number, out: number): void;
  encodePixels(light: number, count: number, table: number, steps: number, out: number): void;
  radiiOfDistances(plane: number, count: number, atInfinity: number, scale: number, least: number, most: number): void;
  packRadii(light: number, radii: number, count: number, found: number): void;
  fetchRow(source: number, width: number, height: number, places: number, count: number, mask: number, out: number): void;
  fetchLine(
    source: number,
    width: number,
    height: number,
    x: number,
    y: number,
    dx: number,
    dy: number,
    count: number,
    how: number,
    strength: number,
    out: number,
  ): void;
  gradeRow(row: number, count: number, plan: number, table: number, how: number): void;
  fogRow(row: number, distances: number, unevens: number, count: number, plan: number, dy: number, rise: number, how: number): void;
  cloudAlong(way: number, along: number, count: number, seed: number, out: number): void;
  patchRow(
    upper: number,
    lower: number,
    slices: number,
    cell: number,
    ty: number,
    start: number,
    first: number,
    perOctave: number,
    distances: number,
    count: number,
    out: number,
  ): void;
  glowDown(upper: number, lower: number, width: number, from: number, inverse: number, share: number, out: number): void;
  halfRow(upper: number, lower: number, width: number, out: number): void;
  octaveRow(fine: number, width: number, weight: number, own: number, next: number, coarse: number, room: number): void;
  glowOver(
    light: number,
    width: number,
    from: number,
    inverse: number,
    share: number,
    own: number,
    next: number,
    coarse: number,
    room: number,
    plain: number,
    red: number,
    green: number,
    blue: number,
  ): void;
  normalNumbers(seed: number, count: number, out: number): void;
  boxPlane(plane: number, width: number, height: number, r: number, rows: number, sums: number, out: number): void;
  toUnitVariance(plane: number, count: number): void;
  grainRow(row: number, count: number, red: number, green: number, blue: number, amount: number, encode: number, decode: number): void;
  cellRow(row: number, width: number, cell: number, weight: number, sums: number): void;
  toDifferences(row: number, count: number, padded: number): void;
  roundBlocks(rows: number, width: number, steps: number, room: number): void;
  toLight(row: number, count: number): void;
  overCells(cells: number, width: number, cell: number, row: number): void;
  fitRow(plane: number, pitch: number, y: number, count: number, step: number, focal: number, v: number, middle: number, out: number): void;
  fallRow(inverse: number, normals: number, seen: number, count: number, plan: number, v: number, out: number): void;
  tentPlane(inverse: number, values: number, width: number, height: number, inside: number, out: number): void;
  enlargeRow(
    inverse: number,
    count: number,
    small: number,
    values: number,
    width: number,
    height: number,
    y: number,
    step: number,
    out: number,
  ): void;
  addFall(light: number, falls: number, count: number, red: number, green: number, blue: number): void;
  relitRow(
    row: number,
    plate: number,
    light: number,
    normals: number,
    open: number,
    count: number,
    keep: number,
    shading: number,
    scale: number,
  ): void;
  isolateRow(
    row: number,
    front: number,
    count: number,
    away: number,
    left: number,
    drain: number,
    tint: number,
    keep: number,
    red: number,
    green: number,
    blue: number,
  ): void;
  backdropRow(row: number, matte: number, front: number, behind: number, step: number, count: number, spill: number): void;
  scanRow(line: number, count: number, slips: number, gain: number, noise: number, y: number, frame: number, seed: number, out: number): void;
  momentRow(light: number, codes: number, front: number, back: number, count: number, share: number, cells: number): void;
  halveCells(fine: number, width: number, height: number, coarse: number): void;
  addCells(fine: number, width: number, height: number, coarse: number): void;
  beamsRow(
    row: number,
    upper: number,
    lower: number,
    width: number,
    t: number,
    scale: number,
    count: number,
    distances: number,
    dense: number,
    red: number,
    green: number,
    blue: number,
  ): void;
  viewRows(plan: number): void;
  sweepLine(
    inverse: number,
    backs: number,
    sums: number,
    crossings: number,
    low: number,
    high: number,
    width: number,
    height: number,
    fromX: number,
    fromY: number,
    fromQ: number,
    borderX: number,
    borderY: number,
  ): void;
  enlargeField(data: number, w: number, h: number, out: number, width: number, height: number, room: number): void;
  flowScratch(width: number, height: number): number;
  searchFlow(first: number, second: number, width: number, height: number, u: number, v: number, scratch: number): void;
  refineFlow(first: number, second: number, width: number, height: number, u: number, v: number, rounds: number, scratch: number): void;
  snapEdges(plane: number, width: number, height: number, threshold: number, scratch: number): void;
  shrinkBytes(
    pixels: number,
    w: number,
    columns: number,
    across: number,
    mostAcross: number,
    rows: number,
    down: number,
    mostDown: number,
    width: number,
    height: number,
    line: number,
    sums: number,
    rgb: number,
    luma: number,
  ): void;
  chainWays(u: number, v: number, seen: number, thenU: number, thenV: number, thenSeen: number, w: number, h: number): void;
  addAlong(
    u: number,
    v: number,
    seen: number,
    map: number,
    there: number,
    here: number,
    w: number,
    h: number,
    near: number,
    hidden: number,
    like: number,
    sum: number,
    total: number,
  ): void;
  carryMean(
    map: number,
    luma: number,
    u: number,
    v: number,
    seen: number,
    last: number,
    w: number,
    h: number,
    most: number,
    soft: number,
    noise: number,
    miss: number,
    old: number,
    share: number,
    off: number,
    value: number,
    count: number,
  ): void;
  weave(a: number, b: number, c: number, n: number, out: number): void;
}
