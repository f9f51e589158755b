import { expect, test as fresh } from '@playwright/test';
import { test } from './prepared';
import sharp from 'sharp';
import { canvasFigures, chapter, field, makePicture, openShelf, openShot, pictureReady, typeValue, viewer, OFTEN } from './helpers';

test('a picture dropped in the workspace becomes another shot of the same project', async ({ page }) => {
  await openShot(page);
  const bytes = (await makePicture('png')).toString('base64');
  await page.evaluate((s) => {
    const transfer = new DataTransfer();
    transfer.items.add(new File([Uint8Array.from(atob(s), (c) => c.charCodeAt(0))], 'pier.png', { type: 'image/png' }));
    document.querySelector('main')!.dispatchEvent(new DragEvent('drop', { dataTransfer: transfer, bubbles: true, cancelable: true }));
  }, bytes);
  await expect(page.getByRole('textbox', { name: 'Name of the shot' })).toHaveValue('pier');
  await pictureReady(page);
  await typeValue(page, 'Distance', '3 m');
  await page.getByRole('button', { name: 'Shots' }).click();
  await expect(page.getByRole('menuitem')).toHaveCount(8);
  await page.getByRole('menuitem', { name: '02 Quay lamp' }).click();
  await pictureReady(page);
  await expect(field(page, 'Distance')).toHaveValue('2.75 m');
  await page.getByRole('link', { name: 'Ombrage, all shots' }).click();
  await expect(page.getByRole('region', { name: 'Slack Water' }).getByRole('link')).toHaveCount(7);
});

test('a picture pasted from the clipboard becomes a shot', async ({ page, context }) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  await openShelf(page);
  const bytes = (await makePicture('png')).toString('base64');
  await page.evaluate(async (s) => {
    const picture = new Blob([Uint8Array.from(atob(s), (c) => c.charCodeAt(0))], { type: 'image/png' });
    await navigator.clipboard.write([new ClipboardItem({ 'image/png': picture })]);
  }, bytes);
  await page.keyboard.press('Control+v');
  await expect(page.getByRole('textbox', { name: 'Name of the shot' })).toHaveValue('Pasted picture');
  await pictureReady(page);
  await page.keyboard.press('1');
  await expect(page.getByText('480×320 px').first()).toBeVisible();
});

fresh('a project whose last shot is deleted takes new pictures, and the demo comes anew', async ({ page }) => {
  await openShelf(page);
  const group = page.getByRole('region', { name: 'Slack Water' });
  for (const name of ['01 Chart table', '02 Quay lamp', '03 Figurehead', '04 Crossing', '05 Dunes', '06 Signal hut'])
    await group.getByRole('button', { name: `Delete ${name}` }).click();
  await expect(group.getByText('This project holds no shots.')).toBeVisible();
  await page.reload();
  await expect(group.getByRole('link')).toHaveCount(0);
  await group.getByLabel('Pictures for Slack Water').setInputFiles({ name: 'pier.png', mimeType: 'image/png', buffer: await makePicture('png') });
  await pictureReady(page);
  await page.getByRole('link', { name: 'Ombrage, all shots' }).click();
  await expect(group.getByRole('link', { name: /pier/ })).toBeVisible();
  await group.getByRole('button', { name: 'Delete pier' }).click();
  // with no shot of the demo left, it is brought in again
  await page.getByRole('button', { name: 'Open the demo' }).click();
  await expect(page.getByRole('textbox', { name: 'Name of the shot' })).toHaveValue('01 Chart table');
});

test('a shot and a project are renamed where they stand', async ({ page }) => {
  await openShot(page);
  const name = page.getByRole('textbox', { name: 'Name of the shot' });
  await name.fill('Lamp at dusk');
  await name.press('Enter');
  await expect(page).toHaveTitle(/Lamp at dusk/);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(name).toHaveValue('02 Quay lamp');
  await page.getByRole('link', { name: 'Ombrage, all shots' }).click();
  await page.getByRole('textbox', { name: 'Name of the project' }).fill('Harbour film');
  await page.getByRole('textbox', { name: 'Name of the project' }).press('Enter');
  await expect(page.getByRole('region', { name: 'Harbour film' })).toBeVisible();
  await page.reload();
  await expect(page.getByRole('region', { name: 'Harbour film' })).toBeVisible();
});

test('an estimate can be stopped, and run again', async ({ page }, info) => {
  await openShelf(page);
  const file = info.outputPath('large.jpg');
  const noise = Buffer.alloc(3000 * 2000 * 3);
  for (let i = 0; i < noise.length; i++) noise[i] = 90 + ((i * 2654435761) >>> 27) + 40 * Math.sin(i / 9000);
  await sharp(noise, { raw: { width: 3000, height: 2000, channels: 3 } })
    .jpeg({ quality: 70 })
    .toFile(file);
  await page.getByTestId('bring-in').setInputFiles(file);
  const bar = page.getByRole('progressbar', { name: 'Estimating depth, fine' });
  await bar.waitFor({ timeout: 30_000 });
  await page.getByRole('button', { name: 'Cancel', exact: true }).click();
  await expect(page.getByText('The fine estimate was stopped.')).toBeVisible({ timeout: 20_000 });
  await expect(bar).toHaveCount(0);
  await page.keyboard.press('2');
  await expect(page.getByRole('list', { name: /Depth layers/ }).getByText('draft')).toBeVisible();
  await page.getByRole('button', { name: 'Estimate again' }).click();
  await expect(page.getByRole('list', { name: /Depth layers/ }).getByText('fine')).toBeVisible({ timeout: 60_000 });
});

test('every setting of the lens acts: blades, highlights, limits, strength', async ({ page }) => {
  await openShot(page);
  // far focus: both sides of it are in the picture
  await typeValue(page, 'Distance', '12 m');
  await typeValue(page, 'Aperture', 'f/0.4');
  await pictureReady(page);
  let last = (await canvasFigures(page)).hash;
  for (const [label, value] of [
    ['Blades', '5'],
    ['Turn', '20'],
    ['Rounding', '0'],
    ['Cat’s eye', '80'],
    ['Edge weight', '70'],
    ['Boost', '2'],
    ['Above', '50'],
    ['Strength', '60'],
    ['Beyond, at most', '1'],
    ['Before, at most', '0'],
  ] as const) {
    await typeValue(page, label, value);
    await expect.poll(async () => (await canvasFigures(page)).hash, { message: label, intervals: OFTEN }).not.toBe(last);
    last = (await canvasFigures(page)).hash;
  }
  await page.getByRole('button', { name: 'Delete Lens blur' }).click();
  await expect(page.getByText('No effect yet.')).toBeVisible();
  await page.getByRole('button', { name: 'Add effect' }).click();
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /^Lens blur/ })
    .click();
  await expect(field(page, 'Aperture')).toHaveValue('f/2.8');
});

test('every setting of the calibration acts, and infinity can be typed', async ({ page }) => {
  await openShot(page);
  await page.keyboard.press('3');
  await page.getByRole('group', { name: 'View', exact: true }).getByRole('button', { name: 'Depth' }).click();
  await page.getByRole('button', { name: 'Grey', exact: true }).click();
  await pictureReady(page);
  let last = (await canvasFigures(page)).hash;
  const acts = async (what: string): Promise<void> => {
    await expect.poll(async () => (await canvasFigures(page)).hash, { message: what }).not.toBe(last);
    last = (await canvasFigures(page)).hash;
  };
  await typeValue(page, 'White from', '60');
  await acts('white');
  await typeValue(page, 'Black from', '5');
  await acts('black');
  await typeValue(page, 'Bend', '0.5');
  await acts('bend');
  await page.getByRole('switch', { name: 'Turn over' }).check();
  await acts('turn over');
  await typeValue(page, 'Far end', '∞');
  await expect(page.getByRole('switch', { name: 'Far end at infinity' })).toBeChecked();
  await expect(page.getByTestId('rail')).toContainText('to ∞');
  await page.getByRole('button', { name: 'Even' }).click();
  await expect(page.getByRole('button', { name: 'Even' })).toHaveAttribute('aria-pressed', 'true');
  await page.getByRole('button', { name: /^ruler/ }).click();
  await page.getByRole('menuitem', { name: 'even', exact: true }).click();
  await expect(page.getByRole('button', { name: 'ruler: even' })).toBeVisible();
});

test('wheel and keys zoom about the pointer, dragging moves the picture', async ({ page }) => {
  await openShot(page);
  const box = (await viewer(page).boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.7, box.y + box.height * 0.4);
  await page.mouse.wheel(0, -400);
  await expect(page.getByRole('button', { name: 'Fit', exact: true })).toBeVisible();
  await expect(viewer(page)).not.toHaveAttribute('data-preview', /820x/);
  await pictureReady(page);
  const before = await canvasFigures(page);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.5, box.y + box.height * 0.5, { steps: 5 });
  await page.mouse.up();
  expect((await canvasFigures(page)).hash).not.toBe(before.hash);
  // a drag is no click: the focus is where it was
  await expect(field(page, 'Distance')).toHaveValue('2.75 m');
  await page.keyboard.press('0');
  await expect(page.getByText(/^fit/)).toBeVisible();
});

test('the workspace is usable at 1024x700', async ({ page }) => {
  await page.setViewportSize({ width: 1024, height: 700 });
  await openShot(page);
  for (const name of ['Plate', 'Depth', 'Calibrate', 'Effects', 'Camera', 'Output']) {
    await chapter(page, name).click();
    const overflow = await page.evaluate(() => [
      document.documentElement.scrollWidth - window.innerWidth,
      document.querySelector('aside')!.scrollWidth - document.querySelector('aside')!.clientWidth,
    ]);
    expect(overflow, name).toEqual([0, 0]);
  }
  const head = await page.getByRole('button', { name: 'Export…' }).boundingBox();
  expect(head!.x + head!.width).toBeLessThanOrEqual(1024);
});
