import { defineConfig } from '@playwright/test';
import { chromiumOptions } from './scripts/chromium';

const port = Number(process.env.OMBRAGE_PORT ?? 4180);

export default defineConfig({
  testDir: 'e2e',
  timeout: 90_000,
  expect: { timeout: 20_000 },
  workers: 1,
  retries: 0,
  reporter: [['list'], ['json', { outputFile: 'test-results/report.json' }]],
  use: {
    baseURL: `http://localhost:${port}`,
    // the smaller the picture, the sooner it is there; what is about the window's size sets its own
    viewport: { width: 1280, height: 660 },
    launchOptions: chromiumOptions,
  },
  webServer: { command: `npx next start -p ${port}`, url: `http://localhost:${port}`, reuseExistingServer: false, timeout: 60_000 },
});
