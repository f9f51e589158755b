import type { Job } from '../../engine/pool/engine';
import type { PlayedFrame } from '../../engine/messages/protocol';
import type { LiveFrame } from '../../live/definition';
import { freeMade } from '../state/liveStore';

interface Works {
  /** so many pictures may be worked on at once */
  hands(): number;
  /** renders a picture */
  make(frame: LiveFrame): Job<PlayedFrame>;
  /** shows it; the one before it is not read any more */
  show(frame: LiveFrame, made: PlayedFrame, milliseconds: number): void;
  /** nobody reads a picture any more */
  free(frame: LiveFrame): void;
  failed(error: unknown): void;
}

/** Renders pictures as they arrive: the newest wins, one at most waits, and none is shown after a newer one. */
export class LiveLoop {
  private readonly inHand = new Map<LiveFrame, Job<PlayedFrame>>();
  private waiting: LiveFrame | null = null;
  /** the picture that is shown: it is kept, so that it can be frozen */
  private last: LiveFrame | null = null;
  private closed = false;
  /** pictures that were overtaken by newer ones before they were shown */
  overtaken = 0;

  constructor(private readonly works: Works) {}

  /** The picture that is shown. */
  get shown(): LiveFrame | null {
    return this.last;
  }

  take(frame: LiveFrame): void {
    if (this.closed) {
      this.works.free(frame);
      return;
    }
    if (this.inHand.size < this.works.hands()) {
      this.begin(frame);
      return;
    }
    if (this.waiting) this.overtake(this.waiting);
    this.waiting = frame;
  }

  /** Ends it; the picture that is shown stays with whoever ends it, who frees it. */
  close(): void {
    this.closed = true;
    for (const job of this.inHand.values()) job.cancel();
    if (this.waiting) this.works.free(this.waiting);
    this.waiting = null;
  }

  private overtake(frame: LiveFrame): void {
    this.overtaken++;
    this.works.free(frame);
  }

  private begin(frame: LiveFrame): void {
    const started = performance.now();
    const job = this.works.make(frame);
    this.inHand.set(frame, job);
    job.done
      .then((made) => {
        if (made && !this.closed && frame.id > (this.last?.id ?? -1)) {
          const before = this.last;
          this.last = frame;
          this.works.show(frame, made, performance.now() - started);
          if (before) this.works.free(before);
          return;
        }
        if (made) freeMade(made);
        if (this.closed) this.works.free(frame);
        else this.overtake(frame);
      })
      .catch((error: unknown) => {
        this.works.free(frame);
        if (!this.closed) this.works.failed(error);
      })
      .finally(() => {
        this.inHand.delete(frame);
        const next = this.waiting;
        this.waiting = null;
        if (next) this.take(next);
      });
  }
}
