import { test as fresh } from '@playwright/test';
import { barriers, chapter, makePicture, openShelf, openShot, pictureReady, viewer } from './helpers';
import { expect, test } from './prepared';

fresh('the opening page shows the demo’s shots as pictures', async ({ page }) => {
  await openShelf(page);
  for (const name of ['01 Chart table', '02 Quay lamp', '03 Figurehead', '04 Crossing', '05 Dunes', '06 Signal hut'])
    await expect(page.getByRole('link', { name: new RegExp(name) })).toBeVisible();
  await expect
    .poll(() =>
      page
        .getByRole('region', { name: 'Slack Water' })
        .locator('img')
        .evaluateAll((all) => all.filter((i) => (i as HTMLImageElement).naturalWidth > 300).length),
    )
    .toBe(6);
  expect(await barriers(page)).toEqual([]);
});

fresh('a first visit sees what can be done: loops that stand still where motion is not wanted, each leading to its chapter', async ({ page }) => {
  await page.emulateMedia({ reducedMotion: 'reduce' });
  await openShelf(page);
  const shown = page.getByRole('region', { name: 'What can be done' });
  await expect(shown.getByRole('link')).toHaveCount(3);
  const sources = (): Promise<string[]> =>
    shown
      .locator('img')
      .evaluateAll((all) =>
        all.map((i) => (i as HTMLImageElement).naturalWidth > 0 && new URL((i as HTMLImageElement).currentSrc).pathname),
      ) as Promise<string[]>;
  await expect.poll(sources).toEqual(['/demo/focus.still.webp', '/demo/move.still.webp', '/demo/depth.still.webp']);
  await page.emulateMedia({ reducedMotion: 'no-preference' });
  await expect.poll(sources).toEqual(['/demo/focus.loop.webp', '/demo/move.loop.webp', '/demo/depth.loop.webp']);
  await shown.getByRole('link', { name: /^Find and shape/ }).click();
  await pictureReady(page);
  await expect(chapter(page, 'Depth')).toHaveAttribute('aria-current', /.+/);
  await expect(page.getByRole('group', { name: 'View', exact: true }).getByRole('button', { name: 'Overlay' })).toHaveAttribute(
    'aria-pressed',
    'true',
  );
  // who has a shot of one's own needs it no more
  await page.getByRole('link', { name: 'Ombrage, all shots' }).click();
  await expect(shown).toBeVisible();
  await page.getByTestId('bring-in').setInputFiles({ name: 'good.png', mimeType: 'image/png', buffer: await makePicture('png') });
  await pictureReady(page);
  await page.getByRole('link', { name: 'Ombrage, all shots' }).click();
  await expect(page.getByRole('link', { name: /^good/ })).toBeVisible();
  await expect(shown).toHaveCount(0);
});

test('shots are called otherwise, copied, put elsewhere by their grip and by keys, moved to another project, and found', async ({ page }) => {
  await openShelf(page);
  const demo = page.getByRole('region', { name: 'Slack Water' });
  const names = (of = demo): Promise<string[]> => of.getByRole('link').evaluateAll((all) => all.map((a) => a.textContent.replace(/\d+×\d+$/, '')));
  const more = async (shot: string, act: string | RegExp): Promise<void> => {
    await page.getByRole('button', { name: `More for ${shot}`, exact: true }).click();
    await page.getByRole('menuitem', { name: act }).click();
  };
  await more('03 Figurehead', 'Rename');
  await page.getByRole('textbox', { name: 'Name of the shot' }).fill('Bust');
  await page.keyboard.press('Enter');
  await expect.poll(() => names()).toEqual(['01 Chart table', '02 Quay lamp', 'Bust', '04 Crossing', '05 Dunes', '06 Signal hut']);
  // Escape leaves the name, and the focus is where it was
  await more('Bust', 'Rename');
  await page.getByRole('textbox', { name: 'Name of the shot' }).fill('Statue');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('button', { name: 'More for Bust', exact: true })).toBeFocused();
  await more('Bust', 'Duplicate');
  await expect.poll(() => names()).toEqual(['01 Chart table', '02 Quay lamp', 'Bust', 'Bust, copy', '04 Crossing', '05 Dunes', '06 Signal hut']);
  // by the grip: before the first
  await demo.getByRole('link', { name: /^Bust \d/ }).hover();
  const grip = (await page.getByRole('button', { name: 'Move Bust', exact: true }).boundingBox())!;
  const first = (await demo.getByRole('link', { name: /^01/ }).boundingBox())!;
  await page.mouse.move(grip.x + 10, grip.y + 10);
  await page.mouse.down();
  await page.mouse.move(first.x + 60, first.y + 40, { steps: 8 });
  await page.mouse.move(first.x + 30, first.y + 30, { steps: 3 });
  await page.mouse.up();
  await expect.poll(() => names()).toEqual(['Bust', '01 Chart table', '02 Quay lamp', 'Bust, copy', '04 Crossing', '05 Dunes', '06 Signal hut']);
  // by keys: one to the right
  await page.getByRole('button', { name: 'Move Bust', exact: true }).focus();
  await page.keyboard.press('Enter');
  await expect(page.getByText('Bust is at place 1 of 7 in Slack Water.')).toHaveCount(1);
  await page.keyboard.press('ArrowRight');
  await expect(page.getByText('Bust is at place 2 of 7 in Slack Water.')).toHaveCount(1);
  await page.keyboard.press('Enter');
  await expect.poll(() => names()).toEqual(['01 Chart table', 'Bust', '02 Quay lamp', 'Bust, copy', '04 Crossing', '05 Dunes', '06 Signal hut']);

  const pictures = await Promise.all(
    [1, 2, 3, 4, 5, 6, 7].map(async (k) => ({ name: `pier-${k}.png`, mimeType: 'image/png', buffer: await makePicture('png') })),
  );
  await page.getByTestId('bring-in').setInputFiles(pictures);
  await pictureReady(page);
  await page.getByRole('link', { name: 'Ombrage, all shots' }).click();
  const own = page.getByRole('region', { name: 'My shots' });
  await expect.poll(async () => (await names(own)).length).toBe(7);
  expect(await barriers(page)).toEqual([]);
  await more('Bust, copy', 'Move to My shots');
  await expect.poll(async () => (await names(own)).at(-1)).toBe('Bust, copy');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect.poll(() => names()).toEqual(['01 Chart table', 'Bust', '02 Quay lamp', 'Bust, copy', '04 Crossing', '05 Dunes', '06 Signal hut']);
  const find = page.getByRole('searchbox', { name: 'Find a shot' });
  await find.fill('BUST');
  await expect(page.getByRole('main').getByRole('link')).toHaveCount(2);
  await find.fill('no such thing');
  await expect(page.getByText('No shot is called that.')).toBeVisible();
});

test('deleting a shot and a project can be undone', async ({ page }) => {
  await openShelf(page);
  await page.getByRole('button', { name: 'Delete 03 Figurehead' }).click();
  await expect(page.getByRole('link', { name: /03 Figurehead/ })).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('link', { name: /03 Figurehead/ })).toBeVisible();
  await page.getByRole('button', { name: 'Delete project Slack Water' }).click();
  await expect(page.getByRole('link', { name: /02 Quay lamp/ })).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo' }).last().click();
  await expect(page.getByRole('link', { name: /02 Quay lamp/ })).toBeVisible();
});

fresh('an empty browser says what to do, and the demo can be brought back', async ({ page }) => {
  await openShelf(page);
  await page.getByRole('button', { name: 'Delete project Slack Water' }).click();
  await expect(page.getByText('There are no shots yet.')).toBeVisible();
  await page.getByRole('button', { name: 'Open the demo' }).click();
  await pictureReady(page);
});

test('a picture brought in becomes a shot with estimated depth, upright and with its own bits', async ({ page }) => {
  for (const kind of ['png16', 'jpeg'] as const) {
    await openShelf(page);
    const extension = kind === 'png16' ? 'png' : kind;
    await page
      .getByTestId('bring-in')
      .setInputFiles({ name: `harbour.${extension}`, mimeType: `image/${extension}`, buffer: await makePicture(kind) });
    await expect(page).toHaveURL(/\/shot\?/);
    await pictureReady(page);
    await page.keyboard.press('2');
    await expect(page.getByRole('list', { name: 'Depth layers' }).getByText('fine')).toBeVisible({ timeout: 30_000 });
    await page.keyboard.press('1');
    // the JPEG is stored lying and turned by its EXIF orientation
    await expect(page.getByText(kind === 'jpeg' ? '320×480 px' : '480×320 px').first()).toBeVisible();
    await expect(page.getByText(kind === 'png16' ? '16 bit' : '8 bit', { exact: true })).toBeVisible();
  }
});

test('several pictures dropped at once become several shots', async ({ page }) => {
  await openShelf(page);
  const kinds = ['png', 'webp', 'avif'] as const;
  const pictures = await Promise.all(kinds.map(async (kind) => [kind, (await makePicture(kind)).toString('base64')] as const));
  await page.evaluate((given) => {
    const bytes = (s: string): Uint8Array<ArrayBuffer> => Uint8Array.from(atob(s), (c) => c.charCodeAt(0));
    const transfer = new DataTransfer();
    for (const [kind, data] of given) transfer.items.add(new File([bytes(data)], `a-${kind}.${kind}`, { type: `image/${kind}` }));
    document.querySelector('main')!.dispatchEvent(new DragEvent('drop', { dataTransfer: transfer, bubbles: true, cancelable: true }));
  }, pictures);
  await pictureReady(page);
  await page.getByRole('link', { name: 'Ombrage, all shots' }).click();
  for (const kind of kinds) await expect(page.getByRole('link', { name: new RegExp(`^a-${kind}`) })).toBeVisible();
});

test('bad files are refused by name, each with its reason, and the good one among them comes in', async ({ page }) => {
  await openShelf(page);
  const jpeg = await makePicture('jpeg');
  const huge = Buffer.from(await makePicture('png'));
  huge.writeUInt32BE(20000, 16);
  huge.writeUInt32BE(20000, 20);
  await page.getByTestId('bring-in').setInputFiles([
    { name: 'empty.png', mimeType: 'image/png', buffer: Buffer.alloc(0) },
    { name: 'letter.png', mimeType: 'image/png', buffer: Buffer.from('Dear harbour master') },
    { name: 'half.jpg', mimeType: 'image/jpeg', buffer: jpeg.subarray(0, jpeg.length >> 1) },
    { name: 'dot.png', mimeType: 'image/png', buffer: await makePicture('png', 1, 1) },
    { name: 'wall.png', mimeType: 'image/png', buffer: huge },
    { name: 'drawing.svg', mimeType: 'image/svg+xml', buffer: Buffer.from('<svg xmlns="http://www.w3.org/2000/svg"/>') },
    { name: 'torn.ombrage', mimeType: 'application/zip', buffer: Buffer.from('not a zip') },
  ]);
  for (const text of [
    'empty.png is empty',
    'letter.png is not a picture',
    'half.jpg is damaged',
    'dot.png is 1x1 px',
    'wall.png is 20000x20000 px',
    'drawing.svg is an SVG drawing',
    'torn.ombrage is not a zip',
  ])
    await expect(page.getByRole('status').getByText(text)).toBeVisible();
  await expect(page.getByRole('link', { name: /02 Quay lamp/ })).toBeVisible();
  await page.getByTestId('bring-in').setInputFiles({ name: 'good.png', mimeType: 'image/png', buffer: await makePicture('png') });
  await pictureReady(page);
});

test('a shot that is not there says so and leads back', async ({ page }) => {
  await openShot(page);
  await page.goto('/shot?project=none&shot=none');
  await expect(page.getByText('This project is not in this browser.')).toBeVisible();
  await page.getByRole('link', { name: 'All shots', exact: true }).click();
  await expect(page.getByRole('link', { name: /02 Quay lamp/ })).toBeVisible();
  await expect(viewer(page)).toHaveCount(0);
});

test('CMYK and grey pictures come in, and what was done is said; an animated one is a clip', async ({ page }) => {
  await openShelf(page);
  const { default: sharp } = await import('sharp');
  const frame = (value: number) =>
    sharp({ create: { width: 64, height: 64, channels: 3, background: { r: value, g: 90, b: 90 } } })
      .png()
      .toBuffer();
  const frames = await sharp([await frame(20), await frame(220)], { join: { animated: true } })
    .webp()
    .toBuffer();
  const still = sharp(await makePicture('png'));
  await page.getByTestId('bring-in').setInputFiles([
    { name: 'print.jpg', mimeType: 'image/jpeg', buffer: await still.clone().toColourspace('cmyk').jpeg().toBuffer() },
    { name: 'grey.png', mimeType: 'image/png', buffer: await still.clone().toColourspace('b-w').png().toBuffer() },
    { name: 'waves.webp', mimeType: 'image/webp', buffer: frames },
  ]);
  await expect(page.getByText('print.jpg is a CMYK picture.')).toBeVisible();
  await pictureReady(page);
  await page.getByRole('button', { name: 'Shots' }).click();
  await expect(page.getByRole('menuitem')).toHaveCount(4);
  await page.getByRole('menuitem', { name: /waves/ }).click();
  await pictureReady(page);
  await expect(page.getByTestId('time')).toContainText('frame 0/1');
});
