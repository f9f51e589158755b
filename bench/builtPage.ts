import { existsSync } from 'node:fs';
import type { Page } from 'playwright-core';
import { withPage } from '../scripts/chromium';

const PORT = 4190;

/** Measures something in the real page, which has to be built. */
export async function inBuiltPage(name: string, work: (page: Page) => Promise<Record<string, number>>): Promise<Record<string, number>> {
  if (existsSync('.next/BUILD_ID')) return withPage(PORT, work);
  console.log(`\n${name}: not built; run npm run build first.`);
  return {};
}
