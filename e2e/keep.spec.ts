import { readFileSync } from 'node:fs';
import { expect, test } from './prepared';
import sharp from 'sharp';
import { unzipSync, zipSync } from 'fflate';
import { barriers, chapter, field, openShot, pictureReady, saved, typeValue } from './helpers';

test('a reload returns to the same state', async ({ page }) => {
  await openShot(page);
  await typeValue(page, 'Distance', '7.5 m');
  await page.getByRole('group', { name: 'View', exact: true }).getByRole('button', { name: 'Overlay' }).click();
  await page.keyboard.press('3');
  await typeValue(page, 'Bend', '1.3');
  await saved(page);
  await page.reload();
  await pictureReady(page);
  await expect(field(page, 'Bend')).toHaveValue('1.30');
  await expect(page.getByRole('group', { name: 'View', exact: true }).getByRole('button', { name: 'Overlay' })).toHaveAttribute(
    'aria-pressed',
    'true',
  );
  await page.keyboard.press('4');
  await expect(field(page, 'Distance')).toHaveValue('7.50 m');
});

test('pictures and depth are exported at output size', async ({ page }) => {
  await openShot(page);
  await chapter(page, 'Output').click();
  const take = async (button: string): Promise<{ name: string; bytes: Buffer }> => {
    const download = page.waitForEvent('download');
    await page.getByRole('button', { name: button }).click();
    const file = await download;
    return { name: file.suggestedFilename(), bytes: readFileSync(await file.path()) };
  };
  for (const [choice, extension, depth] of [
    ['PNG 8', 'png', 'uchar'],
    ['JPEG', 'jpg', 'uchar'],
    ['WebP', 'webp', 'uchar'],
  ] as const) {
    await page.getByRole('group', { name: 'Format of the picture' }).getByRole('button', { name: choice }).click();
    const { name, bytes } = await take('Export picture');
    expect(name).toBe(`02 Quay lamp.${extension}`);
    const meta = await sharp(bytes).metadata();
    expect([meta.width, meta.height, meta.depth]).toEqual([1600, 900, depth]);
  }
  // what was made last is told, seen again and copied
  await expect(page.getByTestId('made')).toHaveText(/^1600×900 px, \d+ kB$/);
  await page.getByRole('button', { name: 'Show again' }).click();
  const again = page.getByRole('img', { name: '02 Quay lamp.webp' });
  await expect.poll(() => again.evaluate((i) => (i as HTMLImageElement).naturalWidth)).toBe(1600);
  expect(await barriers(page, '[role="dialog"]')).toEqual([]);
  await page.getByRole('button', { name: 'Close', exact: true }).click();
  await page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
  await page.getByRole('button', { name: 'Copy', exact: true }).click();
  await expect(page.getByText('02 Quay lamp.webp is copied.')).toBeVisible();
  const copied = await page.evaluate(async () => {
    const [item] = await navigator.clipboard.read();
    const bitmap = await createImageBitmap(await item!.getType('image/png'));
    return [bitmap.width, bitmap.height];
  });
  expect(copied).toEqual([1600, 900]);
  await page.getByRole('group', { name: 'Format of the picture' }).getByRole('button', { name: 'PNG 16' }).click();
  expect((await sharp((await take('Export picture')).bytes).metadata()).depth).toBe('ushort');
  const depth = await take('Export depth');
  expect(depth.name).toBe('02 Quay lamp depth.png');
  expect(await sharp(depth.bytes).metadata()).toMatchObject({ width: 1600, height: 900, depth: 'ushort', channels: 1 });
  await page.getByRole('group', { name: 'Format of the depth' }).getByRole('button', { name: 'PFM' }).click();
  const metres = (await take('Export depth')).bytes;
  expect(metres.toString('latin1', 0, 12)).toBe('Pf\n1600 900\n');
});

test('an export can be stopped', async ({ page }) => {
  await openShot(page);
  await chapter(page, 'Plate').click();
  await typeValue(page, 'Width', '8000');
  await typeValue(page, 'Height', '4500');
  await chapter(page, 'Output').click();
  await page.getByRole('button', { name: 'Export picture' }).click();
  await page.getByRole('complementary', { name: 'Panel' }).getByRole('button', { name: 'Cancel' }).click();
  await expect(page.getByText('Exporting the picture was stopped.')).toBeVisible({ timeout: 30_000 });
  await expect(page.getByRole('button', { name: 'Export picture' })).toBeEnabled();
});

test('a project file goes out and comes back; a changed one is refused', async ({ page }) => {
  await openShot(page);
  await typeValue(page, 'Distance', '9 m');
  const download = page.waitForEvent('download');
  await page.keyboard.press('Control+s');
  const file = await download;
  expect(file.suggestedFilename()).toBe('Slack Water.ombrage');
  const bytes = readFileSync(await file.path());
  await page.goto('/');
  await page.getByTestId('bring-in').setInputFiles({ name: 'copy.ombrage', mimeType: 'application/zip', buffer: bytes });
  await expect(page).toHaveURL(/\/shot\?/);
  await pictureReady(page);
  await page.getByRole('link', { name: 'Ombrage, all shots' }).click();
  await expect(page.getByRole('region', { name: 'Slack Water' })).toHaveCount(2);
  const files = unzipSync(new Uint8Array(bytes));
  const media = Object.keys(files).find((n) => n.startsWith('media/'))!;
  files[media] = files[media]!.slice(0, 100);
  await page.getByTestId('bring-in').setInputFiles({ name: 'changed.ombrage', mimeType: 'application/zip', buffer: Buffer.from(zipSync(files)) });
  await expect(page.getByText('is not the file the project was saved with')).toBeVisible();
  await expect(page.getByRole('region', { name: 'Slack Water' })).toHaveCount(2);
});

test('two tabs on one project: the later one is told, and can keep its work as a copy', async ({ page, context }) => {
  await openShot(page);
  const other = await context.newPage();
  await other.goto(page.url());
  await pictureReady(other);
  await typeValue(other, 'Distance', '5 m');
  await saved(other);
  await typeValue(page, 'Distance', '11 m');
  await expect(page.getByText('This project was changed in another tab.')).toBeVisible();
  await page.getByRole('button', { name: 'Keep as a copy' }).click();
  await pictureReady(page);
  await expect(field(page, 'Distance')).toHaveValue('11.0 m');
  await other.reload();
  await pictureReady(other);
  await expect(field(other, 'Distance')).toHaveValue('5.00 m');
});

test('a full disk is said, the change stays, and is saved when there is room', async ({ page }) => {
  await page.addInitScript(() => {
    const put = IDBObjectStore.prototype.put;
    IDBObjectStore.prototype.put = function (this: IDBObjectStore, ...args: Parameters<typeof put>) {
      if ((window as { diskIsFull?: boolean }).diskIsFull && this.name === 'projects') throw new DOMException('full', 'QuotaExceededError');
      return put.apply(this, args);
    };
  });
  await openShot(page);
  await page.evaluate(() => Object.assign(window, { diskIsFull: true }));
  await typeValue(page, 'Distance', '6 m');
  await expect(page.getByText('The browser has no room left to save this.')).toBeVisible();
  await expect(page.getByTestId('save-state')).toHaveText('not saved');
  await expect(field(page, 'Distance')).toHaveValue('6.00 m');
  await page.evaluate(() => Object.assign(window, { diskIsFull: false }));
  await typeValue(page, 'Aperture', 'f/2');
  await saved(page);
  await page.reload();
  await pictureReady(page);
  await expect(field(page, 'Distance')).toHaveValue('6.00 m');
});
