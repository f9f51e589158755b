import * as Comlink from 'comlink';
import type { WorkerApi } from '../messages/protocol';

export type Remote = Comlink.Remote<WorkerApi>;

/** Thrown where a worker ended before it answered. */
export class WorkerLost extends Error {}

/** How long a worker may show no sign of life while it is being waited for, s, before it counts as stuck. */
export interface Patience {
  readonly seconds: number;
}

/** Every how often a worker that is waited for is asked whether it lives. */
const PING_MS = 1000;
/** A timer that comes later than this was held up with the whole page (a closed lid, a tab asleep): it says nothing of the worker. */
const LATE_MS = 5000;

let nextName = 1;
const pageName = `ombrage-${Math.random().toString(36).slice(2)}`;

/**
 * A worker with its life watched. Where the browser has locks the worker holds one for as long as it lives, so its end is known at once,
 * however busy it is; and while something is waited for, a worker whose counter of looks stands still and that answers no ping counts as
 * stuck.
 */
export class LivingWorker {
  readonly remote: Remote;
  private readonly worker: Worker;
  private readonly beats: Int32Array | null;
  private readonly watching = new AbortController();
  /** what is waited for: who is told that it is lost, and how long it may be silent, s */
  private readonly waiting = new Map<(lost: WorkerLost) => void, number>();
  private timer: ReturnType<typeof setInterval> | null = null;
  private ended = false;
  /** whether it has ever answered: one that never did would not do so when it is begun again */
  private answered = false;

  constructor(
    start: () => Worker,
    private readonly patience: Patience,
    /** called once, when it has ended or is given up; `lived`: it had answered before */
    private readonly onLost: (lived: boolean) => void,
  ) {
    this.worker = start();
    this.beats = typeof SharedArrayBuffer === 'undefined' ? null : new Int32Array(new SharedArrayBuffer(4));
    this.remote = Comlink.wrap<WorkerApi>(this.worker);
    this.worker.onerror = (event) => {
      event.preventDefault?.();
      this.lose();
    };
    this.worker.onmessageerror = () => this.lose();
    const locks = globalThis.navigator?.locks as LockManager | undefined;
    const name = `${pageName}-${nextName++}`;
    const held = this.remote.live(locks ? name : null, this.beats).then((holds) => {
      this.answered = true;
      return holds;
    });
    // a worker that is lost before it answers says so in `ask`
    if (locks)
      void held
        .then((holds) => (holds ? locks.request(name, { signal: this.watching.signal }, () => this.lose()) : undefined))
        .catch(() => undefined);
    else held.catch(() => undefined);
  }

  /** Runs one thing on the worker, which may be silent for so long meanwhile. Throws WorkerLost where it ends before it has answered. */
  async ask<T>(work: (remote: Remote) => Promise<T>, seconds = this.patience.seconds): Promise<T> {
    if (this.ended) throw new WorkerLost();
    let give: (lost: WorkerLost) => void = () => undefined;
    const lost = new Promise<never>((_, fail) => (give = fail));
    this.waiting.set(give, seconds);
    this.watch();
    try {
      return await Promise.race([work(this.remote), lost]);
    } finally {
      this.waiting.delete(give);
    }
  }

  /** Gives the worker up: what is waited for fails. */
  lose(): void {
    if (this.ended) return;
    this.ended = true;
    this.watching.abort();
    if (this.timer) clearInterval(this.timer);
    this.worker.terminate();
    for (const fail of this.waiting.keys()) fail(new WorkerLost());
    this.onLost(this.answered);
  }

  private watch(): void {
    if (this.timer || this.ended) return;
    let silent = 0;
    let beat = this.beat();
    let asked = false;
    let before = performance.now();
    this.timer = setInterval(() => {
      if (this.waiting.size === 0) {
        clearInterval(this.timer!);
        this.timer = null;
        return;
      }
      const now = performance.now();
      const elapsed = now - before;
      const late = elapsed > LATE_MS;
      before = now;
      const latest = this.beat();
      // where the page itself comes late the machine is busy, and silence says less
      silent = late || latest !== beat ? 0 : silent + (PING_MS / 1000) * Math.min(1, PING_MS / Math.max(1, elapsed));
      beat = latest;
      if (silent >= Math.max(...this.waiting.values())) {
        this.lose();
        return;
      }
      if (asked) return;
      asked = true;
      void this.remote.ping().then(
        () => {
          asked = false;
          silent = 0;
        },
        () => undefined,
      );
    }, PING_MS);
  }

  private beat(): number {
    return this.beats ? Atomics.load(this.beats, 0) : 0;
  }
}
