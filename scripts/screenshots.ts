import type { Page } from 'playwright-core';
import { withPage } from './chromium';

/** Takes the pictures in docs/screenshots from the demo project. `npm run build` first. */
const PORT = 4191;
const FOLDER = 'docs/screenshots';

const ready = async (page: Page): Promise<void> => {
  await page.locator('[data-preview^="full"][aria-busy="false"]').waitFor({ timeout: 60000 });
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
  await page.keyboard.press('3');
  await page.mouse.click(505, 560);
  await page.waitForTimeout(400);
  await page.mouse.click(440, 395);
  await view(page, 'Overlay');
  await page.mouse.move(640, 20);
  await shoot('calibrate');
  await page.keyboard.press('6');
  await view(page, 'Picture');
  await shoot('output');
  const layer = (name: RegExp): Promise<void> =>
    page
      .getByRole('list', { name: /Depth layers/ })
      .getByRole('button', { name })
      .click();
  const check = async (from: string, to: string | RegExp): Promise<void> => {
    await page.getByRole('button', { name: from, exact: true }).click();
    await page.getByRole('menuitem', { name: to }).click();
    await page.waitForTimeout(1500);
  };
  await open(page, '01 Chart table');
  await page.keyboard.press('2');
  await page.getByRole('switch', { name: 'Exact depth on' }).uncheck();
  await view(page, 'Depth');
  await layer(/^Estimate/);
  await page.getByRole('switch', { name: 'Edge care on' }).check();
  await page.getByRole('switch', { name: 'De-band on' }).check();
  await page.waitForTimeout(2500);
  await page.mouse.move(520, 420);
  await shoot('depth');
  await open(page, '02 Quay lamp');
  await page.keyboard.press('2');
  await layer(/^Lamp and pier/);
  await page.getByRole('list', { name: 'Shapes' }).getByRole('button', { name: /^Pier/ }).click();
  await page.mouse.move(640, 20);
  await ready(page);
  await shoot('depth-shapes');
  await layer(/^Brush/);
  await page.mouse.move(420, 400);
  await page.mouse.down();
  for (let k = 1; k <= 30; k++) await page.mouse.move(420 + 7 * k, 400 + 24 * Math.sin(k / 6));
  await page.waitForTimeout(700);
  await shoot('depth-brush');
  await page.mouse.up();
  await ready(page);
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByRole('button', { name: 'Add layer' }).click();
  await page.getByRole('menuitem', { name: /^Flats/ }).click();
  for (const words of ['Tarn Haven', 'Slack Water']) {
    await page.getByLabel('Words for a new flat').fill(words);
    await page.getByRole('button', { name: 'Add words' }).click();
    await page.waitForTimeout(900);
  }
  await page.getByRole('textbox', { name: 'Distance', exact: true }).fill('9m');
  await page.getByRole('textbox', { name: 'Distance', exact: true }).press('Enter');
  const foot = (await page.getByRole('button', { name: 'Foot of Slack Water' }).boundingBox())!;
  await page.mouse.move(foot.x + 11, foot.y + 11);
  await page.mouse.down();
  await page.mouse.move(560, 372, { steps: 8 });
  await page.mouse.up();
  await page.getByRole('textbox', { name: 'Height', exact: true }).fill('16');
  await page.getByRole('textbox', { name: 'Height', exact: true }).press('Enter');
  await page.waitForTimeout(1500);
  await page.mouse.move(640, 20);
  await shoot('depth-flats');
  await page.getByRole('button', { name: 'Delete Flats', exact: true }).click();
  await view(page, 'Picture');
  await check('Checks', /^Against estimate/);
  await shoot('depth-check');
  await check('Against estimate', 'No check');
  await open(page, '04 Crossing');
  await page.keyboard.press('2');
  await page.getByRole('slider', { name: 'Playhead' }).focus();
  for (let k = 0; k < 4; k++) await page.keyboard.press('PageUp');
  await page.getByRole('button', { name: 'Make all frames steady' }).click();
  await page.getByText(/^All 96 frames/).waitFor({ timeout: 240000 });
  await page.getByTestId('flicker').scrollIntoViewIfNeeded();
  await view(page, 'Overlay');
  await ready(page);
  await page.mouse.move(640, 20);
  await shoot('clip');
  await view(page, 'Picture');
  await open(page, '02 Quay lamp');
  await page.keyboard.press('5');
  await view(page, 'Relief');
  await page.locator('[data-testid=relief][data-state=whole]').waitFor({ timeout: 60000 });
  await page.getByRole('application', { name: /^The scene in space/ }).focus();
  for (const key of ['ArrowUp', '-', '-', '-']) await page.keyboard.press(key);
  await page.locator('canvas[data-shown^=whole]').waitFor({ timeout: 60000 });
  await page.waitForTimeout(1500);
  await page.mouse.move(640, 20);
  await shoot('relief');
  await view(page, 'Picture');
  await open(page, '03 Figurehead');
  await page.keyboard.press('2');
  await page.getByRole('switch', { name: 'Exact depth on' }).uncheck();
  await layer(/^Bust/);
  await page.mouse.move(640, 20);
  await ready(page);
  await shoot('depth-head');
  await page.getByRole('switch', { name: 'Exact depth on' }).check();
  await open(page, '03 Figurehead');
  await page.keyboard.press('4');
  await page
    .getByRole('list', { name: /^Surface effects/ })
    .getByRole('button', { name: /^Relight/ })
    .click();
  await page.mouse.move(640, 20);
  await ready(page);
  await shoot('relight');
  await page.getByRole('button', { name: 'Looks' }).click();
  await page.locator('canvas[data-made]').nth(11).waitFor({ timeout: 60000 });
  await shoot('looks');
  await page.keyboard.press('Escape');
  await page.keyboard.press('5');
  await page.keyboard.press('End');
  await ready(page);
  await shoot('camera');
  await page.getByRole('switch', { name: 'Two eyes' }).click();
  await ready(page);
  await page.getByTestId('comfort').scrollIntoViewIfNeeded();
  await shoot('two-eyes');
  await page.getByRole('switch', { name: 'Two eyes' }).click();
  await page.keyboard.press('4');
  await page.getByRole('button', { name: 'Add effect' }).click();
  await page.getByRole('textbox', { name: 'Find an effect' }).fill('isolate');
  await page.keyboard.press('Enter');
  await page.getByRole('group', { name: 'See' }).getByRole('button', { name: 'White' }).click();
  await page.mouse.move(640, 20);
  await ready(page);
  await shoot('matte');
  await check('Matte over white', 'No check');
  await open(page, '02 Quay lamp');
  await page.keyboard.press('4');
  await ready(page);
  await page.getByText('all frames ready').waitFor({ timeout: 120_000 });
  await page.getByRole('slider', { name: 'Playhead' }).focus();
  for (let k = 0; k < 6; k++) await page.keyboard.press('PageUp');
  await page.mouse.move(640, 20);
  await ready(page);
  await shoot('timeline');
  await page.goto(`http://localhost:${PORT}/`);
  await page.waitForTimeout(1200);
  await shoot('shelf');
  await page.getByRole('link', { name: /06 Signal hut/ }).click();
  await page.locator('[data-testid=live][data-state=running]').waitFor({ timeout: 60000 });
  await page.keyboard.press('1');
  await page.getByRole('list', { name: 'Channels' }).getByRole('listitem').nth(4).waitFor();
  // ten seconds of each channel
  await page.waitForTimeout(10_500);
  await page.mouse.move(640, 20);
  await shoot('plate');
});
