import { spawn } from 'node:child_process';
import type { Browser, Page } from 'playwright-core';

/** Debian's Chromium, quiet and without a sandbox of its own. */
export const chromiumOptions = {
  executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
    '--no-first-run',
    '--disable-quic',
  ],
};

/** Serves the built app, opens it in a window of 1280x800 and ends both when the work is done. */
export async function withPage<T>(port: number, work: (page: Page, address: string) => Promise<T>): Promise<T> {
  const { chromium } = await import('playwright-core');
  const address = `http://localhost:${port}/`;
  const server = spawn('npx', ['next', 'start', '-p', String(port)], { stdio: 'ignore', detached: true });
  const browser: Browser = await chromium.launch(chromiumOptions);
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    const opens = (): Promise<boolean> =>
      page.goto(address).then(
        () => true,
        () => false,
      );
    for (let i = 0; i < 60 && !(await opens()); i++) await page.waitForTimeout(250);
    return await work(page, address);
  } finally {
    await browser.close();
    process.kill(-server.pid!);
  }
}
