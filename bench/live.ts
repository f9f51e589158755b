import { inBuiltPage } from './builtPage';
import { pageMemory } from './memory';
import { table } from './metrics';

/** So long it is looked at, s; `LIVE_SECONDS=7200` for two hours by night. */
const SECONDS = Number(process.env.LIVE_SECONDS ?? 60);
/** So long until memory has come to rest, s. */
const SETTLES = 20;

/** In the real page: the demo's live plate with its lens blur, 640x360 at 30 pictures a second; how many are shown, how old they are, and memory. */
export async function liveTable(): Promise<Record<string, number>> {
  return inBuiltPage('Live', async (page) => {
    await page.getByRole('link', { name: /06 Signal hut/ }).click();
    await page.locator('[data-testid="live"][data-state="running"]').waitFor({ timeout: 60000 });
    await page.waitForTimeout(SETTLES * 1000);
    const began = pageMemory();
    const [shown, ages]: [number[], number[]] = [[], []];
    let most = began;
    for (let second = 0; second < SECONDS; second++) {
      await page.waitForTimeout(1000);
      const figures = page.getByTestId('live-figures');
      shown.push(Number(/shown (\d+)/.exec((await figures.textContent()) ?? '')?.[1] ?? 0));
      ages.push(Number(await figures.getAttribute('data-oldest')));
      if (second % 10 === 9) most = Math.max(most, pageMemory());
    }
    const mean = (values: number[]): number => values.reduce((a, b) => a + b, 0) / values.length;
    const ended = pageMemory();
    const rows = [
      ['shown a second, of 30', mean(shown).toFixed(1)],
      ['nine of ten no older than, ms, in the mean of all seconds', mean(ages).toFixed(0)],
      ['memory at first, MB', began.toFixed(0)],
      ['at the end, and at most', `${ended.toFixed(0)}, ${most.toFixed(0)}`],
    ];
    console.log(`\nLive, 640x360 with lens blur, ${SECONDS} s\n${table(['', ''], rows)}`);
    return { shown: mean(shown), oldest: mean(ages), began, ended };
  });
}
