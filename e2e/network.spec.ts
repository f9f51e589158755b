import { expect, test } from '@playwright/test';
import { chromiumOptions } from '../scripts/chromium';
import { canvasFigures, makePicture, openShelf, openShot, pictureReady } from './helpers';

// as another machine in the same room sees the page: by a name, without TLS, so that the browser holds back what it grants on localhost
const NAME = 'ombrage.test';
test.use({
  baseURL: `http://${NAME}:${process.env.OMBRAGE_PORT ?? 4180}`,
  launchOptions: { ...chromiumOptions, args: [...(chromiumOptions.args ?? []), `--host-resolver-rules=MAP ${NAME} 127.0.0.1`] },
});

test('everything works on a page that is served without TLS', async ({ page }) => {
  await openShelf(page);
  expect(await page.evaluate(() => isSecureContext)).toBe(false);
  await openShot(page, '01 Chart table');
  // workers share no memory here: the lower part of a blur must come all the same
  for (const y of [0.2, 0.5, 0.7]) expect((await canvasFigures(page, { x: 0.2, y, w: 0.6, h: 0.1 })).detail).toBeGreaterThan(0.3);
  await page.goto('/');
  await page.getByTestId('bring-in').setInputFiles({ name: 'harbour.png', mimeType: 'image/png', buffer: await makePicture('png') });
  await expect(page).toHaveURL(/\/shot\?/);
  await pictureReady(page);
  await page.keyboard.press('2');
  await expect(page.getByRole('list', { name: 'Depth layers' }).getByText('fine')).toBeVisible({ timeout: 30_000 });
  await page.reload();
  await pictureReady(page);
});
