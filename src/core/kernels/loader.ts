import { OmbrageError } from '../error';

export interface KernelExports extends WebAssembly.Exports {
  beginScatter(plan: number): void;
  scatterRows(plan: number, y0: number, y1: number): void;
  hiddenPlate(plan: number): number;
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
}

const PAGE = 65536;
const FIRST_FREE = 4096;

/** A WASM instance with memory that is laid out anew for every call: take(), use, reset(). */
export class Kernels {
  readonly run: KernelExports;
  private readonly memory: WebAssembly.Memory;
  private top = FIRST_FREE;

  constructor(module: WebAssembly.Module) {
    this.memory = new WebAssembly.Memory({ initial: 16 });
    const instance = new WebAssembly.Instance(module, { env: { memory: this.memory } });
    this.run = instance.exports as KernelExports;
  }

  /** bytes of memory it has grown to */
  get size(): number {
    return this.memory.buffer.byteLength;
  }

  reset(): void {
    this.top = FIRST_FREE;
  }

  /** How much of the memory is taken, and back to that. */
  mark(): number {
    return this.top;
  }

  back(mark: number): void {
    this.top = mark;
  }

  /** Address of `bytes` fresh bytes, 64-byte aligned; contents undefined. Views made before are invalid afterwards. */
  take(bytes: number): number {
    const at = this.top;
    this.top = Math.ceil((at + bytes) / 64) * 64;
    const missing = this.top - this.memory.buffer.byteLength;
    if (missing > 0) this.memory.grow(Math.ceil(missing / PAGE) + 16);
    return at;
  }

  /** Address of room for so many floats, 0 each, and as many as a kernel that takes four at a time may go beyond them. */
  room(length: number): number {
    const at = this.take((length + 4) * 4);
    this.floats(at, length + 4).fill(0);
    return at;
  }

  /** Address of a copy of numbers. */
  put(values: Float32Array): number {
    const at = this.take(values.byteLength);
    this.floats(at, values.length).set(values);
    return at;
  }

  putDoubles(values: Float64Array): number {
    const at = this.take(values.byteLength);
    new Float64Array(this.memory.buffer, at, values.length).set(values);
    return at;
  }

  floats(address: number, length: number): Float32Array {
    return new Float32Array(this.memory.buffer, address, length);
  }

  ints(address: number, length: number): Int32Array {
    return new Int32Array(this.memory.buffer, address, length);
  }

  bytes(address: number, length: number): Uint8Array {
    return new Uint8Array(this.memory.buffer, address, length);
  }
}

let compiled: WebAssembly.Module | null = null;
let loaded: Kernels | null = null;

/** Gives this thread its kernels: the built module, base64. A page that only asks workers needs none. */
export function provideKernels(base64: string): void {
  compiled = new WebAssembly.Module(Uint8Array.from(atob(base64), (c) => c.charCodeAt(0)));
}

/** Kernels with memory of their own. Throws before they were provided. */
export function newKernels(): Kernels {
  if (!compiled) throw new OmbrageError('no-kernels', 'The computing kernels are not loaded in this thread.', 'Reload the page.');
  return new Kernels(compiled);
}

/** Memory of kernels only grows: what is larger than this is given back once a large piece of work is over, bytes. */
const KEPT_MEMORY = 96e6;

/** Gives the memory of this thread's kernels back where a large piece of work has left much of it. */
export function releaseKernels(kept = KEPT_MEMORY): void {
  if (loaded && loaded.size > kept) loaded = null;
}

/** The kernels of this thread. */
export const kernels = (): Kernels => (loaded ??= newKernels());
