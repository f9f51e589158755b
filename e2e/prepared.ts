import { chromium, expect, test as base, type BrowserContext, type Page } from '@playwright/test';
import { existsSync } from 'node:fs';
import { cp, mkdir, mkdtemp, rm, statfs, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromiumOptions } from '../scripts/chromium';
import { estimateKept, openShelf, OUTSIDE, pictureReady, putBack, standStill } from './helpers';

const SHOTS = ['01 Chart table', '02 Quay lamp', '03 Figurehead', '05 Dunes'];

/** Remembers what the browser keeps, on the page from which it will be put back. */
const remember = (keeper: Page): Promise<void> =>
  keeper.evaluate(async () => {
    const result = <T>(request: IDBRequest<T>): Promise<T> =>
      new Promise((done, failed) => {
        request.onsuccess = () => done(request.result);
        request.onerror = () => failed(new Error('the store refused'));
      });
    const db = await result(indexedDB.open('ombrage'));
    const kept: Record<string, { keys: IDBValidKey[]; rows: unknown[] }> = {};
    for (const name of db.objectStoreNames) {
      const store = db.transaction(name).objectStore(name);
      // files are large and never change: their names are enough
      const rows = ['media', 'maps'].includes(name) ? [] : await result(store.getAll());
      kept[name] = { keys: await result(db.transaction(name).objectStore(name).getAllKeys()), rows };
    }
    db.close();
    Object.assign(window, { kept, views: { ...localStorage } });
  });

/** Puts back what the browser kept; false where files are gone that cannot be. */
const putAllBack = (keeper: Page): Promise<boolean> =>
  keeper.evaluate(async () => {
    const { kept, views } = window as unknown as {
      kept: Record<string, { keys: IDBValidKey[]; rows: unknown[] }>;
      views: Record<string, string>;
    };
    localStorage.clear();
    for (const [key, value] of Object.entries(views)) localStorage.setItem(key, value);
    const result = <T>(request: IDBRequest<T>): Promise<T> =>
      new Promise((done, failed) => {
        request.onsuccess = () => done(request.result);
        request.onerror = () => failed(new Error('the store refused'));
      });
    const db = await result(indexedDB.open('ombrage'));
    let whole = db.objectStoreNames.length === Object.keys(kept).length;
    for (const [name, { keys, rows }] of Object.entries(kept)) {
      const store = db.transaction(name, 'readwrite').objectStore(name);
      if (rows.length > 0 || keys.length === 0) {
        store.clear();
        for (const row of rows) store.put(row);
        continue;
      }
      const known = new Set(keys.map((key) => JSON.stringify(key)));
      const now = await result(store.getAllKeys());
      whole &&= now.filter((key) => known.has(JSON.stringify(key))).length === keys.length;
      for (const key of now) if (!known.has(JSON.stringify(key))) store.delete(key);
    }
    db.close();
    return whole;
  });

/** Where the browser keeps what it keeps: in memory where there is room, so that no test waits for a slow disk. */
async function placeOfBrowser(): Promise<string> {
  const memory = '/dev/shm';
  const { bavail, bsize } = await statfs(memory).catch(() => ({ bavail: 0, bsize: 0 }));
  return bavail * bsize > 4e9 ? memory : tmpdir();
}

interface Options {
  readonly baseURL?: string | undefined;
  readonly viewport?: { width: number; height: number } | null | undefined;
}

const launch = (folder: string, { baseURL, viewport }: Options): Promise<BrowserContext> =>
  chromium.launchPersistentContext(folder, { ...chromiumOptions, ...(baseURL && { baseURL }), ...(viewport && { viewport }) });

/** Opens every shot of the demo, without its moves, so that their estimates are kept. */
async function visitAll(folder: string, options: Options): Promise<void> {
  const context = await launch(folder, options);
  const page = await context.newPage();
  await openShelf(page);
  const before = await standStill(page);
  for (const name of SHOTS) {
    await openShelf(page);
    await page.getByRole('link', { name }).first().click();
    await pictureReady(page);
    await estimateKept(page, name);
  }
  await putBack(page, before);
  await context.close();
}

/** Where the runner with this process keeps the browser that was everywhere. */
export const placeOfRun = async (pid: number): Promise<string> => join(await placeOfBrowser(), `ombrage-e2e-${pid}`);

/** The folder of a browser that was everywhere: made by the first that asks, waited for by the others. */
async function visitedOnce(options: Options): Promise<string> {
  const place = await placeOfRun(process.ppid);
  const [folder, ready, failed] = ['browser', 'ready', 'failed'].map((name) => join(place, name)) as [string, string, string];
  const first = await mkdir(folder, { recursive: true });
  if (first !== undefined)
    try {
      await visitAll(folder, options);
      await writeFile(ready, '');
    } catch (error) {
      await writeFile(failed, '');
      throw error;
    }
  await expect.poll(() => existsSync(ready) || existsSync(failed), { timeout: 200_000 }).toBe(true);
  if (existsSync(failed)) throw new Error('the demo could not be visited: the other browser says why');
  return folder;
}

/** A browser that has opened every shot of the demo. */
async function visit(options: Options) {
  const folder = await mkdtemp(join(await placeOfBrowser(), 'ombrage-e2e-'));
  await cp(await visitedOnce(options), folder, { recursive: true });
  const context = await launch(folder, options);
  const keeper = context.pages()[0] ?? (await context.newPage());
  await keeper.goto(OUTSIDE);
  await remember(keeper);
  return {
    context,
    keeper,
    end: async (): Promise<void> => {
      await context.close();
      await rm(folder, { recursive: true, force: true });
    },
  };
}

type Visited = Awaited<ReturnType<typeof visit>>;

/**
 * As Playwright's own test, but in a browser that has opened every shot of the demo before: each test has a page of its own in it, and what
 * the browser keeps is put back after each. What is to be seen in a fresh browser uses Playwright's own.
 */
export const test = base.extend<object, { visited: { current: Visited } }>({
  visited: [
    async ({}, use, info) => {
      const held = { current: await visit(info.project.use) };
      await use(held);
      await held.current.end();
    },
    { scope: 'worker', timeout: 240_000 },
  ],
  context: async ({ visited, baseURL, viewport }, use) => {
    const { context, keeper } = visited.current;
    await use(context);
    for (const page of context.pages()) if (page !== keeper) await page.close();
    await context.clearPermissions();
    if (await putAllBack(keeper)) return;
    console.log('files of the demo are gone: the browser is made anew');
    await visited.current.end();
    visited.current = await visit({ baseURL, viewport });
  },
  page: async ({ context }: { context: BrowserContext }, use) => {
    await use(await context.newPage());
  },
});

export { expect } from '@playwright/test';
