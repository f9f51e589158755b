import { inBuiltPage } from './builtPage';
import { table } from './metrics';

const CHANGES = 24;

/** In the real page: from a change of the focus slider to the first and to the full picture, and the longest task meanwhile. */
export async function pageTable(): Promise<Record<string, number>> {
  return inBuiltPage('Page', async (page) => {
    await page.getByRole('link', { name: /02 Quay lamp/ }).click();
    await page.locator('[data-preview^="full"]').waitFor({ timeout: 60000 });
    await page.waitForTimeout(4000);
    await page.evaluate(() => {
      performance.clearMeasures();
      const tasks: number[] = [];
      new PerformanceObserver((list) => tasks.push(...list.getEntries().map((e) => e.duration))).observe({ type: 'longtask' });
      Object.assign(window, { tasks });
    });
    const distance = page.getByRole('textbox', { name: 'Distance', exact: true });
    for (let i = 0; i < CHANGES; i++) {
      await distance.fill(`${(2.5 + 0.2 * i).toFixed(2)} m`);
      await distance.press('Enter');
      await page.waitForTimeout(700);
    }
    const { quick, full, longest } = await page.evaluate(() => ({
      quick: performance.getEntriesByName('ombrage-quick').map((m) => m.duration),
      full: performance.getEntriesByName('ombrage-full').map((m) => m.duration),
      longest: Math.max(0, ...((window as Window & { tasks?: number[] }).tasks ?? [])),
    }));
    const at = (values: number[], share: number): number => values.sort((a, b) => a - b)[Math.floor(share * (values.length - 1))] ?? NaN;
    const first = quick.length > 0 ? quick : full;
    const rows = [
      ['slider to first picture', at(first, 0.5).toFixed(0), at(first, 0.9).toFixed(0)],
      ['slider to full picture', at(full, 0.5).toFixed(0), at(full, 0.9).toFixed(0)],
      ['longest task on the main thread (over 50 ms)', longest.toFixed(0), ''],
    ];
    console.log(`\nIn the page, 1280x800, ${CHANGES} changes of focus\n${table(['', 'median ms', '90 % ms'], rows)}`);
    return { first: at(first, 0.5), full: at(full, 0.5), longest };
  });
}
