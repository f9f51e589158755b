import type { Page } from '@playwright/test';
import { existsSync, readFileSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import sharp from 'sharp';
import { openShelf, openShot, pictureReady } from './helpers';
import { expect, test } from './prepared';

/** A task of the page may take so much of a processor, ms: what takes longer is felt. */
const MOST_MS = 50;

interface TraceEvent {
  readonly name: string;
  readonly ph: string;
  readonly pid: number;
  readonly tid: number;
  /** of the thread's own time, microseconds: other work may share the machine */
  readonly tdur?: number;
}

/** The longest tasks of the page's own thread while something is done, ms of processor time. */
async function tasksDuring(page: Page, work: () => Promise<void>): Promise<readonly number[]> {
  const cdp = await page.context().newCDPSession(page);
  const events: TraceEvent[] = [];
  cdp.on('Tracing.dataCollected', ({ value }) => void events.push(...(value as unknown as TraceEvent[])));
  const over = new Promise((done) => cdp.once('Tracing.tracingComplete', done));
  await cdp.send('Tracing.start', { transferMode: 'ReportEvents', traceConfig: { includedCategories: ['toplevel', 'devtools.timeline'] } });
  await work();
  await cdp.send('Tracing.end');
  await over;
  await cdp.detach();
  const thread = (e: TraceEvent): string => `${e.pid}/${e.tid}`;
  const main = new Set(events.filter((e) => e.name === 'EventDispatch').map(thread));
  return events
    .filter((e) => e.ph === 'X' && e.name === 'ThreadControllerImpl::RunTask' && main.has(thread(e)))
    .map((e) => (e.tdur ?? 0) / 1000)
    .sort((a, b) => b - a);
}

/** A machine that is lent may be taken away for moments, which count as the thread's own: so much of its time at the most, or it is measured again. */
const MOST_STOLEN = 0.03;
const TIMES = 4;

/** Time that others took of this machine's processors since it began, seconds. */
const stolen = (): number => (existsSync('/proc/stat') ? Number(readFileSync('/proc/stat', 'utf8').split(/\s+/)[8]) / 100 : 0);

/** The longest tasks while something is done, measured while the machine was ours. */
async function quietly(page: Page, work: () => Promise<void>): Promise<readonly number[]> {
  for (let time = 1; ; time++) {
    const [taken, started] = [stolen(), performance.now()];
    const tasks = await tasksDuring(page, work);
    const share = (1000 * (stolen() - taken)) / ((performance.now() - started) * availableParallelism());
    if ((tasks[0] ?? 0) < MOST_MS || share < MOST_STOLEN || time === TIMES) return tasks;
    console.log(`${Math.round(100 * share)} % of the machine was taken away: measured again`);
  }
}

for (const shot of ['01 Chart table', '02 Quay lamp', '03 Figurehead', '04 Crossing', '05 Dunes'])
  test(`no task of the page is long while numbers are dragged (${shot})`, async ({ page }) => {
    await openShot(page, shot, true);
    const tracks = page.locator('aside input[type=range]');
    expect(await tracks.count()).toBeGreaterThan(2);
    for (const k of [0, 2]) {
      const box = (await tracks.nth(k).boundingBox())!;
      const y = box.y + box.height / 2;
      const drag = async (): Promise<void> => {
        for (let i = 0; i < 24; i++) await page.mouse.move(box.x + box.width * (0.5 + 0.3 * Math.sin(i / 3)), y);
      };
      await page.mouse.move(box.x + box.width / 2, y);
      await page.mouse.down();
      // the first steps are compiled
      await drag();
      const tasks = await quietly(page, drag);
      await page.mouse.up();
      expect(tasks.length).toBeGreaterThan(20);
      expect(tasks[0]).toBeLessThan(MOST_MS);
    }
  });

test('the pixels of a large picture never hold up the page', async ({ page }, info) => {
  await openShelf(page);
  // noise compresses badly and takes its time: 12 megapixels of it
  const noise = Buffer.alloc(4000 * 3000 * 3);
  for (let i = 0; i < noise.length; i++) noise[i] = (i * 2654435761) >>> 24;
  const file = info.outputPath('noise.jpg');
  await sharp(noise, { raw: { width: 4000, height: 3000, channels: 3 } })
    .jpeg({ quality: 60 })
    .toFile(file);
  /** Brings a picture in and tells the longest task of the page until its fine depth is there, ms. */
  const longestWith = async (path: string): Promise<number> => {
    await openShelf(page);
    await page.evaluate(() => {
      const gaps: number[] = [];
      new PerformanceObserver((list) => gaps.push(...list.getEntries().map((e) => e.duration))).observe({ type: 'longtask' });
      Object.assign(window, { gaps });
    });
    await page.getByTestId('bring-in').setInputFiles(path);
    await pictureReady(page);
    await page.keyboard.press('2');
    await expect(page.getByRole('list', { name: 'Depth layers' }).getByText('fine')).toBeVisible({ timeout: 60_000 });
    return page.evaluate(() => Math.max(50, ...(window as unknown as { gaps: number[] }).gaps));
  };
  const small = info.outputPath('small.jpg');
  await sharp(noise.subarray(0, 400 * 300 * 3), { raw: { width: 400, height: 300, channels: 3 } })
    .jpeg()
    .toFile(small);
  // the page builds its screens for either; decoding, estimating and rendering a hundred times the pixels, which takes seconds, adds nothing
  const before = await longestWith(small);
  const large = await longestWith(file);
  // the machine may be busier at one time than at another: the small one is taken before and after
  const after = await longestWith(small);
  expect(large).toBeLessThan(1.4 * Math.max(before, after) + 60);
});
