import { chromium, test as base, type BrowserContext } from '@playwright/test';
import { cp, mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromiumOptions } from '../scripts/chromium';
import { openShelf, pictureReady, putBack, standStill } from './helpers';

const SHOTS = ['01 Chart table', '02 Quay lamp', '03 Figurehead', '05 Dunes'];

const newFolder = (): Promise<string> => mkdtemp(join(tmpdir(), 'ombrage-e2e-'));

/**
 * As Playwright's own test, but in a browser that has opened every shot of the demo before, without its moves, so that their estimates
 * are kept: each test gets a copy of that browser's files. What is to be seen in a fresh browser uses Playwright's own.
 */
export const test = base.extend<object, { visited: string }>({
  visited: [
    async ({}, use, info) => {
      const folder = await newFolder();
      const { baseURL, viewport } = info.project.use;
      const context = await chromium.launchPersistentContext(folder, {
        ...chromiumOptions,
        ...(baseURL && { baseURL }),
        ...(viewport && { viewport }),
      });
      const page = await context.newPage();
      await openShelf(page);
      const before = await standStill(page);
      for (const name of SHOTS) {
        await openShelf(page);
        await page.getByRole('link', { name }).first().click();
        await pictureReady(page);
      }
      await putBack(page, before);
      await context.close();
      await use(folder);
      await rm(folder, { recursive: true, force: true });
    },
    { scope: 'worker', timeout: 240_000 },
  ],
  context: async ({ visited, baseURL, viewport }, use) => {
    const folder = await newFolder();
    await cp(visited, folder, { recursive: true });
    const context: BrowserContext = await chromium.launchPersistentContext(folder, {
      ...chromiumOptions,
      ...(baseURL && { baseURL }),
      ...(viewport && { viewport }),
    });
    await use(context);
    await context.close();
    await rm(folder, { recursive: true, force: true });
  },
  page: async ({ context }, use) => {
    await use(context.pages()[0] ?? (await context.newPage()));
  },
});

export { expect } from '@playwright/test';
