import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Page } from 'playwright-core';
import { withPage } from '../scripts/chromium';
import { pageMemory } from './memory';
import { table } from './metrics';

const PORT = 4191;
const FRAMES = 96;
const LOOK_MS = 250;

/** Shot 04 at 1920x1080 with some grain, as H.264: what a camera would hand over. Null where there is no ffmpeg. */
function fullSizeClip(folder: string): string | null {
  const file = join(folder, 'crossing-1080p.mp4');
  const filters = `scale=1920:1080:flags=lanczos,noise=alls=4:allf=t,tpad=stop_mode=clone:stop=${FRAMES}`;
  const codec = ['-c:v', 'libx264', '-preset', 'veryfast', '-crf', '20', '-g', '48', '-pix_fmt', 'yuv420p'];
  try {
    execFileSync('ffmpeg', ['-v', 'error', '-i', 'public/demo/crossing.webm', '-vf', filters, '-frames:v', String(FRAMES), ...codec, file]);
    return file;
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'ENOENT') throw error;
    return null;
  }
}

/** The most memory that the page took while something was done, MB, and how long that was, s. */
async function watched(work: () => Promise<unknown>): Promise<{ readonly most: number; readonly seconds: number }> {
  const started = performance.now();
  let most = pageMemory();
  const timer = setInterval(() => (most = Math.max(most, pageMemory())), LOOK_MS);
  try {
    await work();
    return { most, seconds: (performance.now() - started) / 1000 };
  } finally {
    clearInterval(timer);
  }
}

/** Milliseconds from each press of a key to a picture, as the page itself sees it, frame by frame: one that had been made, or the first of one that had not. */
async function timesOfKey(page: Page, key: string, presses: number, made: boolean): Promise<readonly number[]> {
  const times: number[] = [];
  for (let k = 0; k < presses; k++) {
    await page.evaluate((fromMade) => {
      const began: number[] = [];
      window.addEventListener('keydown', () => began.push(performance.now()), { once: true, capture: true });
      const canvas = document.querySelector<HTMLElement>('[data-testid=playing]')!;
      (window as Window & { took?: Promise<number> }).took = (async () => {
        for (;;) {
          await new Promise(requestAnimationFrame);
          const [start] = began;
          if (start === undefined) continue;
          const shown = performance.getEntriesByType('measure').some((m) => m.startTime >= start && m.name.startsWith('ombrage-'));
          if (shown || (fromMade && canvas.dataset.showing === 'yes')) return performance.now() - start;
        }
      })();
    }, made);
    await page.keyboard.press(key);
    times.push(await page.evaluate(() => (window as Window & { took?: Promise<number> }).took!));
    await page.locator('[data-testid=viewer][aria-busy=false]').waitFor({ timeout: 60_000 });
    await page.waitForTimeout(300);
  }
  return times.sort((a, b) => a - b);
}

const median = (values: readonly number[]): number => values[values.length >> 1] ?? NaN;

/** Depth for all frames, in a quality. */
async function findDepth(page: Page, quality: 'Draft' | 'Fine'): Promise<void> {
  await page.getByRole('button', { name: quality, exact: true }).click();
  await page.getByRole('button', { name: /^(Find depth for all frames|Go on finding depth)$/ }).click();
  await page.getByText(`All ${FRAMES} frames have steady depth.`).waitFor({ timeout: 900_000 });
}

/** In the real page: a clip of 96 frames at 1080p is opened, gets depth, is scrubbed and played. Seconds, milliseconds, megabytes. */
export async function clipPageTable(): Promise<Record<string, number>> {
  if (!existsSync('.next/BUILD_ID')) return {};
  const folder = mkdtempSync(join(tmpdir(), 'ombrage-bench-'));
  const file = fullSizeClip(folder);
  if (!file) {
    console.log('\nClips in the page: ffmpeg, which makes the clip, is not installed.');
    return {};
  }
  try {
    return await withPage(PORT, async (page) => {
      const results: Record<string, number> = {};
      await page.getByText('05 Dunes').waitFor();
      // whoever drops a clip has looked at the page for a moment
      await page.waitForTimeout(3000);
      const opening = performance.now();
      await page.getByTestId('bring-in').setInputFiles(file);
      const shown = async (what: string, selector: string): Promise<void> => {
        await page.locator(selector).first().waitFor({ timeout: 60_000 });
        results[`${what}, s`] = (performance.now() - opening) / 1000;
      };
      const finished = '[data-preview^="quick"], [data-preview^="full"]';
      await shown('opens at its first frame', `[data-look=small], ${finished}`);
      await shown('with the draft’s depth', finished);
      await page.locator('[data-testid=viewer][aria-busy=false]').waitFor({ timeout: 60_000 });
      await page.getByRole('progressbar').waitFor({ state: 'detached', timeout: 60_000 });
      await page.waitForTimeout(2000);
      await page.keyboard.press('2');
      for (const quality of ['Draft', 'Fine'] as const) {
        const { most, seconds } = await watched(() => findDepth(page, quality));
        results[`${quality.toLowerCase()} depth of all frames, s`] = seconds;
        results[`memory of the page meanwhile (${quality.toLowerCase()}), MB`] = most;
        const after = await watched(() => page.waitForTimeout(12_000));
        results[`memory of the page afterwards (${quality.toLowerCase()}), MB`] = after.most;
      }
      await page.getByRole('slider', { name: 'Playhead' }).focus();
      await page.keyboard.press('Home');
      await page.waitForTimeout(1500);
      results['a frame that was not made yet, ms'] = median(await timesOfKey(page, 'PageUp', 9, false));
      const played = await watched(async () => {
        await page.keyboard.press('Home');
        await page.keyboard.press('Space');
        await page.getByText('all frames ready').waitFor({ timeout: 300_000 });
        await page.waitForTimeout(20_000);
        await page.keyboard.press('Space');
      });
      results['memory of the page while it plays, MB'] = played.most;
      await page.keyboard.press('End');
      await page.waitForTimeout(2000);
      results['a frame that has been made, ms'] = median(await timesOfKey(page, 'ArrowLeft', 20, true));
      console.log(
        `\n${`In the page: ${FRAMES} frames of 1920×1080, H.264`}\n${table(
          ['', ''],
          Object.entries(results).map(([name, v]) => [name, v.toFixed(v < 20 ? 1 : 0)]),
        )}`,
      );
      return results;
    });
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
