/** The number of the newest request, in memory that both sides see. Work for an older one stops at its next look. */
export class Newest {
  /** where this thread counts its looks, as a sign that it lives */
  static beats: Int32Array | null = null;
  readonly words: Int32Array;

  constructor(words?: Int32Array) {
    this.words = words ?? new Int32Array(typeof SharedArrayBuffer === 'undefined' ? new ArrayBuffer(4) : new SharedArrayBuffer(4));
  }

  /** Begins a request: every earlier one is out of date. */
  next(): number {
    return Atomics.add(this.words, 0, 1) + 1;
  }

  is(id: number): boolean {
    if (Newest.beats) Atomics.add(Newest.beats, 0, 1);
    return Atomics.load(this.words, 0) === id;
  }
}
