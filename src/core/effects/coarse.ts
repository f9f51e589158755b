/** Numbers on a grid of coarse cells, for what is softer than they are; between its places they are bilinear. */
export class CoarseGrid {
  readonly columns: number;
  readonly rows: number;
  readonly data: Float32Array;

  /** `each`: numbers at a place; places lie `cell` px apart from the picture's upper left corner on, to beyond its lower right. */
  constructor(
    width: number,
    height: number,
    private readonly cell: number,
    private readonly each: number,
  ) {
    this.columns = Math.ceil(width / cell) + 2;
    this.rows = Math.ceil(height / cell) + 2;
    this.data = new Float32Array(this.columns * this.rows * each);
  }

  /** Sets or adds up what is at every place: `fill` is given its px and where its numbers stand. */
  fill(fill: (x: number, y: number, o: number, data: Float32Array) => void): this {
    for (let j = 0, o = 0; j < this.rows; j++)
      for (let i = 0; i < this.columns; i++, o += this.each) fill(i * this.cell, j * this.cell, o, this.data);
    return this;
  }

  /** The kth number at a place of the picture, px; within it. */
  at(x: number, y: number, k: number): number {
    const { data, each } = this;
    const u = x / this.cell;
    const v = y / this.cell;
    const i = u | 0;
    const j = v | 0;
    const s = u - i;
    const a = (j * this.columns + i) * each + k;
    const b = a + this.columns * each;
    const top = data[a]! + (data[a + each]! - data[a]!) * s;
    return top + (data[b]! + (data[b + each]! - data[b]!) * s - top) * (v - j);
  }
}
