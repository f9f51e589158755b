import * as Comlink from 'comlink';
import { OmbrageError } from '../../core/error';
import { errorsCross } from '../messages/errors';
import { Holdings } from '../messages/holdings';
import { LivingWorker, WorkerLost, type Patience, type Remote } from './life';
import { Newest } from '../messages/newest';

/** Work that runs in the background: what is being done, how far it is, and a way to stop it. */
export interface Job<T> {
  readonly done: Promise<T | null>;
  cancel(): void;
}

/** Workers: one for the picture being looked at, at least one for what takes its time, one for errands that someone waits for. */
const poolSize = (): number => Math.min(8, Math.max(3, (globalThis.navigator?.hardwareConcurrency ?? 2) - 1));

/** There may be more workers than processors; one processor is left to the page. */
export const mostAtOnce = (): number => Math.max(1, (globalThis.navigator?.hardwareConcurrency ?? 2) - 1);

/** Work looks up often; reading or writing a large file takes minutes without a look. */
const PATIENCE: Record<'viewer' | 'other', Patience> = { viewer: { seconds: 6 }, other: { seconds: 12 } };
export const FILES_SECONDS = 150;
/** So often something is asked for where workers end before they answer. */
const TIMES = 2;

/** So many fresh workers in a row may end without a word before no more are begun. */
const MOST_DEAD_BORN = 6;

errorsCross();

const startWorker = (): Worker => new Worker(new URL('../worker/worker.ts', import.meta.url), { type: 'module' });

/** What is said of what a worker threw, or of its end. */
function errorOf(error: unknown): Error {
  if (error instanceof WorkerLost)
    return new OmbrageError(
      'worker-lost',
      'The computation ended twice without an answer: this machine may have run out of memory.',
      'Close other programs or choose a smaller output, then try again.',
    );
  return error instanceof Error ? error : new Error(String(error));
}

/** The workers of the page: started, watched, replaced where they end, and given work. */
export class Workers {
  protected viewer: LivingWorker;
  /** null: not begun yet, since nothing has been given to it */
  protected readonly others: (LivingWorker | null)[];
  /** of each of the others: how many things it has been given and not done */
  private readonly busy: Int32Array;
  protected readonly holdings = new Holdings((kind, name) => this.everywhere((w) => w.letGo(kind, name)));
  /** workers in a row that ended before they ever answered */
  private deadBorn = 0;
  private closed = false;
  /** hears that a worker ended, or answered no more, and that another has taken its place */
  onReplaced: () => void = () => undefined;

  constructor() {
    this.viewer = this.startViewer();
    const others = poolSize() - 1;
    // more workers than processors would only hold up the first picture: those beyond begin with their first work
    this.others = Array.from({ length: others }, (_, i) => (i < others - mostAtOnce() ? null : this.startOther(i)));
    this.busy = new Int32Array(
      typeof SharedArrayBuffer === 'undefined' ? new ArrayBuffer(this.others.length * 4) : new SharedArrayBuffer(this.others.length * 4),
    );
    this.introduce();
  }

  private startViewer(): LivingWorker {
    return new LivingWorker(startWorker, PATIENCE.viewer, (lived) => this.replace(lived, () => (this.viewer = this.startViewer())));
  }

  private startOther(index: number): LivingWorker {
    return new LivingWorker(startWorker, PATIENCE.other, (lived) => this.replace(lived, () => (this.others[index] = this.startOther(index))));
  }

  /** Puts a fresh worker in the place of one that ended; where even fresh ones end at once, not for ever. */
  private replace(lived: boolean, start: () => LivingWorker): void {
    if (this.closed) return;
    if (lived) this.deadBorn = 0;
    else if (++this.deadBorn > MOST_DEAD_BORN) return;
    this.equip(start());
    this.introduce();
    if (lived) this.onReplaced();
  }

  /** Gives a fresh worker what the others hold. */
  private equip(worker: LivingWorker): void {
    for (const { kind, name, value } of this.holdings.all()) worker.remote.hold(kind, name, value).catch(() => undefined);
  }

  /** Lets the viewer know the others, which lend it a hand with rows. */
  private introduce(): void {
    const ports = this.others.map((other) => {
      if (!other) return null;
      const { port1, port2 } = new MessageChannel();
      other.remote.serveHelper(Comlink.transfer(port2, [port2])).catch(() => undefined);
      return port1;
    });
    const given = ports.filter((port) => port !== null);
    this.viewer.remote.meetHelpers(Comlink.transfer(ports, given), this.busy).catch(() => undefined);
  }

  /** One of the others, begun where it is not yet. */
  private other(index: number): LivingWorker {
    const begun = this.others[index];
    if (begun) return begun;
    const fresh = (this.others[index] = this.startOther(index));
    this.equip(fresh);
    this.introduce();
    return fresh;
  }

  private all(): LivingWorker[] {
    return [this.viewer, ...this.others].filter((worker) => worker !== null);
  }

  /** Ends every worker. */
  close(): void {
    this.closed = true;
    for (const worker of this.all()) worker.lose();
  }

  protected everywhere(tell: (worker: Remote) => Promise<void>): Promise<void>[] {
    return this.all().map(({ remote }) => tell(remote));
  }

  /** Asks a worker; where that one is lost its place is taken by a fresh one, which is asked again. */
  protected async persist<T>(worker: () => LivingWorker, work: (worker: Remote) => Promise<T>, seconds?: number): Promise<T> {
    for (let time = 1; ; time++)
      try {
        return await worker().ask(work, seconds);
      } catch (error) {
        if (!(error instanceof WorkerLost) || time >= TIMES) throw errorOf(error);
      }
  }

  /**
   * Runs one thing on a background worker, which does not lend itself to blurs meanwhile. The last one takes nothing long, so that a file
   * is read at once while an estimate runs.
   */
  protected async background<T>(work: (worker: Remote) => Promise<T>, long = false, seconds?: number): Promise<T> {
    // beginning a worker takes about as long as waiting for one thing
    const waiting = this.others.slice(0, long ? -1 : undefined).map((other, i) => Atomics.load(this.busy, i) + (other ? 0 : 1));
    const index = waiting.lastIndexOf(Math.min(...waiting));
    Atomics.add(this.busy, index, 1);
    try {
      return await this.persist(() => this.other(index), work, seconds);
    } finally {
      Atomics.sub(this.busy, index, 1);
    }
  }

  /** Work that can be stopped, on a worker that does little else. */
  protected job<T>(work: (worker: Remote, id: number, words: Int32Array) => Promise<T>, long = true, seconds?: number): Job<T> {
    return this.stoppable((id, words) => this.background((worker) => work(worker, id, words), long, seconds));
  }

  /** Work that can be stopped, on the viewer's worker: it holds what the picture was made of. */
  protected viewersJob<T>(work: (worker: Remote, id: number, words: Int32Array) => Promise<T>): Job<T> {
    return this.stoppable((id, words) =>
      this.persist(
        () => this.viewer,
        (worker) => work(worker, id, words),
      ),
    );
  }

  private stoppable<T>(work: (id: number, words: Int32Array) => Promise<T>): Job<T> {
    const stop = new Newest();
    const id = stop.next();
    let stopped: () => void = () => undefined;
    // a worker that hangs hears nothing: whoever waits is let go all the same
    const given = new Promise<null>((done) => (stopped = () => done(null)));
    const done = Promise.race([work(id, stop.words), given]);
    return {
      done,
      cancel: () => {
        stop.next();
        stopped();
      },
    };
  }
}
