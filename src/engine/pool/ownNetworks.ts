import * as Comlink from 'comlink';
import { OmbrageError } from '../../core/error';
import type { FoundUse } from '../../core/estimate/own/guess';
import type { NetworkAnswer, NetworkRun } from '../../core/estimate/own/runs';
import type { NetworkUse } from '../../core/need/networkUse';
import { NETWORK_STOPPED, type NetworkCall, type NetworkWorkerApi } from '../messages/networkCalls';
import type { Job } from './workers';

/** Where the files of networks lie; told by whoever keeps them. */
let fileOf: (use: NetworkUse) => Promise<Blob> = () => Promise.reject(new Error('nobody keeps networks'));
export const provideNetworkFiles = (source: typeof fileOf): void => void (fileOf = source);

const stopped = (): OmbrageError => new OmbrageError(NETWORK_STOPPED, 'The network was stopped.');

/** A network that nobody asks for so long gives its memory back, ms. */
const REST_MS = 30_000;

interface Running {
  readonly worker: Worker;
  readonly remote: Comlink.Remote<NetworkWorkerApi>;
  /** fails when the worker ends */
  readonly ended: Promise<never>;
  end(error: Error): void;
  sha256: string | null;
  opening: Promise<void>;
}

/**
 * Runs networks of somebody's own, one at a time, in a worker that begins with the first and ends when it is stopped, fails, or nothing has been asked for a while: with it
 * all of its memory is given back.
 */
export class OwnNetworks {
  private running: Running | null = null;
  /** what is being done, each with whether it was stopped */
  private readonly jobs = new Set<{ stopped: boolean }>();
  private readonly costs = new Map<string, number>();
  /** one thing at a time: what is asked of one network is never answered by another */
  private last: Promise<unknown> = Promise.resolve();
  private resting: ReturnType<typeof setTimeout> | null = null;

  private begin(): Running {
    const worker = new Worker(new URL('../worker/networkWorker.ts', import.meta.url), { type: 'module' });
    let end: (error: Error) => void = () => undefined;
    const ended = new Promise<never>((_, fail) => (end = fail));
    ended.catch(() => undefined);
    const running = { worker, remote: Comlink.wrap<NetworkWorkerApi>(worker), ended, end, sha256: null, opening: Promise.resolve() };
    worker.onerror = (event) => {
      event.preventDefault?.();
      end(
        new OmbrageError(
          'no-memory',
          'The network ended without an answer: this machine may have run out of memory.',
          'Close other programs, or choose a smaller network.',
        ),
      );
      this.drop(running);
    };
    return running;
  }

  private drop(running: Running): void {
    running.worker.terminate();
    if (this.running === running) this.running = null;
  }

  private now(): Running {
    if (this.resting) clearTimeout(this.resting);
    this.resting = null;
    return (this.running ??= this.begin());
  }

  private rest(): void {
    if (this.resting) clearTimeout(this.resting);
    this.resting = setTimeout(() => this.jobs.size === 0 && this.stop(), REST_MS);
  }

  /** Gives up what is running; whatever waits for it ends as stopped. */
  stop(): void {
    const { running } = this;
    if (this.resting) clearTimeout(this.resting);
    this.resting = null;
    for (const job of this.jobs) job.stopped = true;
    if (!running) return;
    running.end(stopped());
    this.drop(running);
  }

  /** What a file tells of its network. Throws OmbrageError that names it. */
  async read(file: Blob, name: string): Promise<FoundUse> {
    const running = this.now();
    try {
      return await Promise.race([running.remote.read(file, name), running.ended]);
    } finally {
      this.rest();
    }
  }

  /** Readies a network. */
  private async open(use: NetworkUse): Promise<Running> {
    const running = this.now();
    if (running.sha256 !== use.sha256) {
      running.sha256 = use.sha256;
      running.opening = fileOf(use).then((file) => Promise.race([running.remote.open(file, use.name), running.ended]));
    }
    try {
      await running.opening;
    } catch (error) {
      if (running.sha256 === use.sha256) this.drop(running);
      throw error;
    }
    return running;
  }

  /** What a run of a network took last, s; null where none was seen. */
  secondsOf({ sha256 }: NetworkUse): number | null {
    return this.costs.get(sha256) ?? null;
  }

  private async ask(use: NetworkUse, asked: NetworkRun): Promise<NetworkAnswer> {
    const running = await this.open(use);
    const answer = await Promise.race([running.remote.run(Comlink.transfer(asked, [asked.data.buffer as ArrayBuffer])), running.ended]);
    if (answer.seconds !== undefined) this.costs.set(use.sha256, answer.seconds);
    return Comlink.transfer(answer, [answer.data.buffer as ArrayBuffer]);
  }

  /** Work that asks a network: `begin` is given the way to it. Where it fails the memory is given back. */
  job<T>(use: NetworkUse, begin: (call: NetworkCall) => Job<T>): Job<T> {
    const state = { stopped: false };
    this.jobs.add(state);
    const call: NetworkCall = (asked) => {
      const answer = this.last.then(() => {
        if (state.stopped) throw stopped();
        return this.ask(use, asked);
      });
      this.last = answer.catch(() => undefined);
      return answer;
    };
    const inner = begin(call);
    const done = inner.done
      .catch((error: unknown) => {
        this.stop();
        throw error;
      })
      .finally(() => {
        this.jobs.delete(state);
        if (this.running) this.rest();
      });
    return {
      done,
      cancel: () => {
        inner.cancel();
        this.stop();
      },
    };
  }
}
