import { defineConfig } from '@playwright/test';
import { availableParallelism, freemem } from 'node:os';
import { chromiumOptions } from './scripts/chromium';

const port = Number(process.env.OMBRAGE_PORT ?? 4180);
/** A browser with a clip open takes so much, bytes. */
const BROWSER_BYTES = 3e9;

export default defineConfig({
  testDir: 'e2e',
  globalSetup: './e2e/cleared.ts',
  globalTeardown: './e2e/cleared.ts',
  // two browsers share the processors: what hangs is found out all the same
  timeout: 150_000,
  expect: { timeout: 30_000 },
  // two browsers wait for different things most of the time
  workers: availableParallelism() > 1 && freemem() > 2 * BROWSER_BYTES ? 2 : 1,
  fullyParallel: true,
  retries: 0,
  reporter: [['list'], ['json', { outputFile: 'test-results/report.json' }], ['./e2e/slowest.ts']],
  use: {
    baseURL: `http://localhost:${port}`,
    // the smaller the picture, the sooner it is there; what is about the window's size sets its own
    viewport: { width: 1280, height: 660 },
    launchOptions: chromiumOptions,
  },
  projects: [
    { name: 'pages', testIgnore: 'fluent.spec.ts' },
    // what is measured has the machine to itself: it comes when all else is over
    { name: 'measured', testMatch: 'fluent.spec.ts', dependencies: process.env.EVERYTHING ? ['pages'] : [], fullyParallel: false },
  ],
  webServer: { command: `npx next start -p ${port}`, url: `http://localhost:${port}`, reuseExistingServer: false, timeout: 60_000 },
});
