import { three, type Vec3 } from '../demo/tracer/mesh';

/** Draws from one seeded stream, so that a scene is known by its number. */
export class Dice {
  constructor(readonly next: () => number) {}
  between = (a: number, b: number): number => a + (b - a) * this.next();
  /** evenly spread in the logarithm */
  scaled = (a: number, b: number): number => a * (b / a) ** this.next();
  whole = (a: number, b: number): number => Math.floor(this.between(a, b + 1));
  chance = (p: number): boolean => this.next() < p;
  of = <T>(list: readonly T[]): T => list[Math.floor(this.next() * list.length)]!;
  colour = (darkest = 0.02, brightest = 0.7): Vec3 => {
    const l = this.scaled(darkest, brightest);
    const s = this.chance(0.6) ? this.between(0, 0.3) : this.between(0.2, 0.8);
    const h = this.next() * 3;
    return three((k) => l * (1 - s + s * Math.max(0, 1 - Math.abs(((h - k + 4.5) % 3) - 1.5))));
  };
}
