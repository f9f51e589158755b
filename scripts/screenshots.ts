import type { Page } from 'playwright-core';
import { withPage } from './chromium';

/** Takes the pictures in docs/screenshots from the demo project. `npm run build` first. */
const PORT = 4191;
const FOLDER = 'docs/screenshots';

const ready = async (page: Page): Promise<void> => {
  await page.locator('[data-preview^="full"]').waitFor({ timeout: 60000 });
  await page.waitForTimeout(1500);
};

const open = async (page: Page, name: string): Promise<void> => {
  await page.goto(`http://localhost:${PORT}/`);
  await page.getByRole('link', { name: new RegExp(name) }).click();
  await ready(page);
  await page.getByRole('progressbar').waitFor({ state: 'detached', timeout: 60000 });
};

const view = (page: Page, name: string): Promise<void> =>
  page.getByRole('group', { name: 'View', exact: true }).getByRole('button', { name }).click();

await withPage(PORT, async (page) => {
  await page.getByText('05 Dunes').waitFor();
  const shoot = async (name: string): Promise<void> => {
    await page.waitForTimeout(600);
    await page.screenshot({ path: `${FOLDER}/${name}.png` });
  };
  for (const shot of ['01 Chart table', '03 Figurehead', '05 Dunes', '02 Quay lamp']) await open(page, shot);
  await page.mouse.move(505, 470);
  await shoot('effects');
  await page.keyboard.press('1');
  await page.mouse.move(640, 20);
  await shoot('plate');
  await page.keyboard.press('3');
  await page.mouse.click(505, 560);
  await page.waitForTimeout(400);
  await page.mouse.click(440, 395);
  await view(page, 'Overlay');
  await page.mouse.move(640, 20);
  await shoot('calibrate');
  await page.keyboard.press('5');
  await view(page, 'Picture');
  await shoot('output');
  await open(page, '01 Chart table');
  await page.keyboard.press('2');
  await page.getByRole('switch', { name: 'Exact depth on' }).uncheck();
  await view(page, 'Depth');
  await page
    .getByRole('button', { name: /^Estimate/ })
    .first()
    .click();
  await shoot('depth');
  await open(page, '03 Figurehead');
  await page.keyboard.press('4');
  await view(page, 'Wipe');
  await shoot('wipe');
  await page.goto(`http://localhost:${PORT}/`);
  await page.waitForTimeout(1200);
  await shoot('shelf');
});
