import { defineConfig } from '@playwright/test';
import { chromiumOptions } from './scripts/chromium';

const port = Number(process.env.OMBRAGE_PORT ?? 4180);

export default defineConfig({
  testDir: 'e2e',
  timeout: 90_000,
  expect: { timeout: 20_000 },
  workers: 1,
  // a loaded machine may miss a pointer's timing once; what needed a second try is told at the end
  retries: 1,
  reporter: [['list'], ['json', { outputFile: 'test-results/report.json' }]],
  use: {
    baseURL: `http://localhost:${port}`,
    viewport: { width: 1280, height: 800 },
    launchOptions: chromiumOptions,
  },
  webServer: { command: `npx next start -p ${port}`, url: `http://localhost:${port}`, reuseExistingServer: false, timeout: 60_000 },
});
