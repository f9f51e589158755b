import { newBytes } from '../../core/picture';
import { seededRandom } from '../../core/random';
import { clock, type Arrival } from '../arrival';
import type { SimulatedValues } from './params';
import { SignalHut, spoil } from './scene';
import { VIEW } from './view';

/** So many pictures may be looked at by others at a time, besides those that are late on purpose. */
const MOST = 12;

/** A depth camera that is none: it renders a small scene that moves, at a rate, and sends it late, noisy or not at all where it is told to. */
export class SimulatedCamera {
  private readonly hut = new SignalHut();
  private readonly begun = clock();
  private readonly lose = seededRandom(20);
  private readonly spare: Uint8Array[] = [];
  private readonly late = new Set<ReturnType<typeof setTimeout>>();
  /** pictures that are under way, or that somebody reads */
  private out = 0;
  private number = 0;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private closed = false;

  constructor(
    private values: SimulatedValues,
    /** told of each picture; its memory is written again once that is over */
    private readonly send: (frame: Arrival) => Promise<void>,
  ) {
    this.next(this.begun);
  }

  set(values: SimulatedValues): void {
    this.values = values;
  }

  close(): void {
    this.closed = true;
    clearTimeout(this.timer);
    for (const timer of this.late) clearTimeout(timer);
  }

  /** The picture of a time follows when it is that late; those that were slept through are left out. */
  private next(due: number): void {
    this.timer = setTimeout(
      () => {
        if (this.closed) return;
        this.take(due);
        const step = 1000 / Math.max(1, this.values.rate);
        const missed = Math.max(0, Math.floor((clock() - due) / step));
        this.number += 1 + missed;
        this.next(due + (1 + missed) * step);
      },
      Math.max(0, due - clock()),
    );
  }

  private take(at: number): void {
    const { latency, lost, noise, rate } = this.values;
    const { width, height } = VIEW;
    if (this.lose() < lost / 100 || this.out >= MOST + (latency * rate) / 1000) return;
    const data = this.spare.pop() ?? newBytes(4 * width * height, true);
    const channels = { ...this.hut.draw((at - this.begun) / 1000, data) };
    if (noise > 0) spoil(data, noise, this.number);
    const frame: Arrival = { number: this.number, at, raster: { width, height, channels: 4, data, opaque: true }, channels };
    this.out++;
    const send = (): void =>
      void this.send(frame)
        .catch(() => undefined)
        .finally(() => {
          this.out--;
          this.spare.push(data);
        });
    if (latency <= 0) {
      send();
      return;
    }
    const timer = setTimeout(() => {
      this.late.delete(timer);
      send();
    }, latency);
    this.late.add(timer);
  }
}
