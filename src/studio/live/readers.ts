import type { LiveFrame } from '../../live/definition';

/** Who reads which picture: one that nobody reads any more is freed. */
export class Readers {
  private readonly counts = new Map<LiveFrame, number>();

  constructor(private readonly freed: (frame: LiveFrame) => void) {}

  /** A picture came, and is read by whoever took it. */
  take(frame: LiveFrame): void {
    this.counts.set(frame, 1);
  }

  /** One more reads it. */
  read(frame: LiveFrame): void {
    this.counts.set(frame, (this.counts.get(frame) ?? 0) + 1);
  }

  /** One less does. */
  free(frame: LiveFrame): void {
    const left = (this.counts.get(frame) ?? 1) - 1;
    if (left > 0) {
      this.counts.set(frame, left);
      return;
    }
    this.counts.delete(frame);
    this.freed(frame);
  }
}
