import { RATES } from '../../core/values/moment';
import type { LiveFigures } from '../state/liveStore';

/** Rates are told of so long a time, ms. */
const WINDOW_MS = 1000;
/** The picture is made smaller in such steps, and larger again only where there is this much room. */
const STEP = 0.125;
const LEAST = 0.375;
const ROOM = 1.25;
/** A rate that differs by less is one of those in use. */
const NEAR = 0.008;
/** A picture may take so long at the most, ms: where it took longer it would be old when it is shown. */
const LONGEST_MS = 66;

/** How pictures arrive and are shown, and how large they may be so that the machine keeps up. */
export class Pace {
  private readonly arrived: number[] = [];
  /** the first picture of late, by which the source's own rate is told */
  private first: { readonly number: number; readonly at: number } | null = null;
  private steps = 0;
  private readonly shown: number[] = [];
  /** of each that was shown how old it was */
  private readonly ages: number[] = [];
  private lastNumber: number | null = null;
  private lost = 0;
  private age = 0;
  private perPixel = 0;
  private share = 1;

  constructor(private readonly now: () => number = () => performance.now()) {}

  /** A picture arrived that was taken at a time, ms; those before it that did not are counted as lost. */
  arrive(number: number, at: number): void {
    this.arrived.push(this.now());
    // a source that begins anew counts from the beginning
    if (!this.first || at < this.first.at || number <= (this.lastNumber ?? -1)) this.first = { number, at };
    else if (number > this.first.number) this.steps = (at - this.first.at) / (number - this.first.number);
    if (this.lastNumber !== null && number > this.lastNumber) this.lost += number - this.lastNumber - 1;
    this.lastNumber = number;
    trim(this.arrived, this.now());
  }

  /** A picture was shown, so old, ms, and took so long for so many px; null: it is none of those that arrive. */
  show(age: number, milliseconds: number, pixels: number | null): void {
    this.shown.push(this.now());
    this.ages.push(age);
    this.trimShown();
    this.age = this.age === 0 ? age : 0.8 * this.age + 0.2 * age;
    if (pixels === null) return;
    const took = milliseconds / Math.max(1, pixels);
    this.perPixel = this.perPixel === 0 ? took : 0.9 * this.perPixel + 0.1 * took;
  }

  /** Pictures that arrive in a second. */
  get rate(): number {
    trim(this.arrived, this.now());
    return (this.arrived.length * 1000) / WINDOW_MS;
  }

  /** Pictures a second as the source counts them, whatever is lost on the way; rates in use are told exactly. */
  get ownRate(): number {
    const rate = this.steps > 0 ? 1000 / this.steps : this.rate;
    const off = (r: number): number => Math.abs(r / rate - 1);
    const nearest = [...RATES].sort((a, b) => off(a) - off(b))[0]!;
    return off(nearest) < NEAR ? nearest : Math.max(1, Math.round(rate));
  }

  figures(overtaken: number, size: LiveFigures['size']): LiveFigures {
    const { rate, age, lost } = this;
    this.trimShown();
    const sorted = [...this.ages].sort((a, b) => a - b);
    const oldest = sorted[Math.ceil(0.9 * sorted.length) - 1] ?? 0;
    return { rate, shown: (this.shown.length * 1000) / WINDOW_MS, age: this.shown.length > 0 ? age : 0, oldest, lost, overtaken, size };
  }

  private trimShown(): void {
    trim(this.shown, this.now());
    this.ages.splice(0, this.ages.length - this.shown.length);
  }

  /** The share of each side at which so many workers keep up with what arrives. */
  shareFor(pixels: number, hands: number): number {
    const wanted = Math.max(10, this.rate);
    if (this.perPixel === 0) return this.share;
    const room = Math.sqrt(Math.min((hands * 1000) / wanted, LONGEST_MS) / (this.perPixel * pixels));
    const fits = Math.max(LEAST, Math.min(1, Math.floor(room / STEP) * STEP));
    const grows = room >= ROOM * (this.share + STEP) || (fits === 1 && room >= ROOM);
    if (fits < this.share) this.share = Math.max(LEAST, Math.min(this.share - STEP, Math.max(fits, this.share - 2 * STEP)));
    else if (fits > this.share && grows) this.share = Math.min(1, this.share + STEP);
    return this.share;
  }
}

function trim(times: number[], now: number): void {
  while (times.length > 0 && times[0]! < now - WINDOW_MS) times.shift();
}
