import type { Reporter, TestCase, TestResult } from '@playwright/test/reporter';

const LISTED = 10;

/** Says at the end which tests took longest. */
class Slowest implements Reporter {
  private readonly times: { readonly title: string; readonly seconds: number }[] = [];

  onTestEnd(test: TestCase, { duration }: TestResult): void {
    this.times.push({ title: test.titlePath().slice(2).join(' › '), seconds: duration / 1000 });
  }

  onEnd(): void {
    const slowest = [...this.times].sort((a, b) => b.seconds - a.seconds).slice(0, LISTED);
    console.log(`\nThe slowest of ${this.times.length}, seconds:`);
    for (const { title, seconds } of slowest) console.log(`${seconds.toFixed(0).padStart(4)}  ${title}`);
  }
}

// eslint-disable-next-line no-restricted-syntax -- the runner asks for a default
export default Slowest;
