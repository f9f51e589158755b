import { expect, test } from './prepared';
import { barriers, canvasFigures, chapter, clickPicture, field, frames, openShot, pictureReady, still, typeValue, viewer, OFTEN } from './helpers';

test('every chapter and view is free of accessibility faults and page errors', async ({ page }) => {
  const faults: string[] = [];
  page.on('pageerror', (e) => faults.push(e.message));
  page.on('console', (m) => m.type() === 'error' && faults.push(m.text()));
  await openShot(page);
  for (const name of ['Plate', 'Depth', 'Calibrate', 'Effects', 'Camera', 'Output']) {
    await chapter(page, name).click();
    await still(page);
    expect(await barriers(page), name).toEqual([]);
  }
  for (const view of ['Depth', 'Overlay', 'Wipe', 'Picture']) {
    await page.getByRole('group', { name: 'View', exact: true }).getByRole('button', { name: view }).click();
    expect(await barriers(page, '[data-testid="viewer"]', '[aria-label="View"]'), view).toEqual([]);
  }
  await page.keyboard.press('Shift+?');
  await expect(page.getByRole('dialog')).toBeVisible();
  expect(await barriers(page)).toEqual([]);
  expect(faults).toEqual([]);
});

test('a click in the picture focuses on what is there, and the picture changes', async ({ page }) => {
  await openShot(page);
  await clickPicture(page, 0.5, 0.9, 'hover');
  await expect(page.getByTestId('probe')).toContainText('m · nearness');
  await expect(page.getByTestId('rail-probe')).toBeVisible();
  const before = await canvasFigures(page);
  await clickPicture(page, 0.9, 0.25);
  await expect(field(page, 'Distance')).not.toHaveValue('2.75 m');
  await pictureReady(page);
  expect((await canvasFigures(page)).hash).not.toBe(before.hash);
  // what was clicked is in focus now
  await clickPicture(page, 0.9, 0.25, 'hover');
  await expect(page.getByTestId('probe')).toContainText('in focus');
});

test('blur takes detail away; without it the plate shows', async ({ page }) => {
  await openShot(page);
  await typeValue(page, 'Aperture', 'f/0.5');
  await pictureReady(page);
  const blurred = await canvasFigures(page);
  await page.getByRole('switch', { name: 'Lens blur on' }).uncheck();
  await pictureReady(page);
  const plain = await canvasFigures(page);
  expect(blurred.detail).toBeLessThan(plain.detail * 0.7);
  // light is kept: blurring only moves it about
  expect(Math.abs(blurred.mean - plain.mean)).toBeLessThan(8);
});

test('undo and redo walk through every change, one gesture a step', async ({ page }) => {
  await openShot(page);
  const undo = page.getByRole('button', { name: 'Undo' });
  await expect(undo).toBeDisabled();
  await typeValue(page, 'Distance', '4m');
  const track = page.getByRole('slider', { name: 'Strength, track' });
  const box = (await track.locator('xpath=..').boundingBox())!;
  await page.mouse.move(box.x, box.y + box.height / 2);
  await page.mouse.down();
  for (let i = 0; i < 12; i++) await page.mouse.move(box.x - i, box.y + box.height / 2);
  await page.mouse.up();
  await expect(field(page, 'Strength')).not.toHaveValue('100 %');
  await undo.click();
  await expect(field(page, 'Strength')).toHaveValue('100 %');
  await expect(field(page, 'Distance')).toHaveValue('4.00 m');
  await undo.click();
  await expect(field(page, 'Distance')).toHaveValue('2.75 m');
  await expect(undo).toBeDisabled();
  await viewer(page).getByRole('application').focus();
  await page.keyboard.press('Control+Shift+z');
  await expect(field(page, 'Distance')).toHaveValue('4.00 m');
});

test('what cannot be read as a number is marked and changes nothing', async ({ page }) => {
  await openShot(page);
  await field(page, 'Aperture').fill('wide open');
  await field(page, 'Aperture').press('Enter');
  await expect(field(page, 'Aperture')).toHaveAttribute('aria-invalid', 'true');
  await field(page, 'Aperture').press('Escape');
  await expect(field(page, 'Aperture')).toHaveValue('f/1.4');
  await expect(page.getByRole('button', { name: 'Undo' })).toBeDisabled();
});

test('the rail: its handles move by keys and by dragging; pixels light up under it', async ({ page }) => {
  await openShot(page);
  const focus = page.getByRole('slider', { name: 'Lens blur: Distance' });
  await focus.focus();
  for (let i = 0; i < 5; i++) await page.keyboard.press('ArrowRight');
  const stepped = Number((await field(page, 'Distance').inputValue()).replace(' m', ''));
  expect(stepped).toBeCloseTo(2.75 * 1.02 ** 5, 1);
  const box = (await focus.boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + 6);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2 + 160, box.y + 6, { steps: 8 });
  await page.mouse.up();
  expect(Number((await field(page, 'Distance').inputValue()).replace(' m', ''))).toBeGreaterThan(stepped * 1.8);
  await pictureReady(page);
  const before = await canvasFigures(page);
  const rail = (await page.getByTestId('rail').boundingBox())!;
  await page.mouse.move(rail.x + rail.width * 0.3, rail.y + 60);
  await expect.poll(async () => (await canvasFigures(page)).hash, { intervals: OFTEN }).not.toBe(before.hash);
  await page.getByRole('slider', { name: 'Near end' }).focus();
  await page.keyboard.press('PageUp');
  await expect(page.getByTestId('rail')).toContainText('1.46 m to');
});

test('stakes tie grey to distance', async ({ page }) => {
  await openShot(page);
  await page.keyboard.press('3');
  await clickPicture(page, 0.5, 0.95);
  await expect(page.getByRole('button', { name: /Stake 1 at/ })).toBeVisible();
  const near = Number((await field(page, 'Near end').inputValue()).replace(' m', ''));
  const staked = Number((await field(page, 'Stake 1').inputValue()).replace(' m', ''));
  // one stake scales: twice the distance, twice the near end
  await typeValue(page, 'Stake 1', `${staked * 2} m`);
  await expect.poll(async () => Number((await field(page, 'Near end').inputValue()).replace(' m', '')) / near).toBeCloseTo(2, 1);
  await expect(page.getByText('met exactly')).toBeVisible();
  await pictureReady(page);
  await clickPicture(page, 0.55, 0.55);
  await expect(page.getByText('set both ends')).toBeVisible();
  const stake = page.getByRole('button', { name: /Stake 2 at/ });
  await stake.focus();
  await page.keyboard.press('ArrowUp');
  await page.keyboard.press('Delete');
  await expect(page.getByRole('button', { name: /Stake 2 at/ })).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('button', { name: /Stake 2 at/ })).toBeVisible();
});

test('depth: the estimate beside the truth, order, opacity, turning over', async ({ page }) => {
  await openShot(page);
  await page.keyboard.press('2');
  await page.getByRole('group', { name: 'View', exact: true }).getByRole('button', { name: 'Depth' }).click();
  const exact = await canvasFigures(page);
  await page.getByRole('switch', { name: 'Exact depth on' }).uncheck();
  await pictureReady(page);
  const estimated = await canvasFigures(page);
  expect(estimated.hash).not.toBe(exact.hash);
  await page
    .getByRole('list', { name: /Depth layers/ })
    .getByRole('button', { name: /^Estimate/ })
    .click();
  await page.getByRole('switch', { name: 'Turn over' }).check();
  await pictureReady(page);
  expect((await canvasFigures(page)).hash).not.toBe(estimated.hash);
  await page.getByRole('button', { name: 'Draft' }).click();
  await expect(page.getByRole('list', { name: /Depth layers/ }).getByText('draft')).toBeVisible({ timeout: 20_000 });
  await page
    .getByRole('list', { name: /Depth layers/ })
    .getByRole('button', { name: /^Estimate/ })
    .focus();
  for (let k = 0; k < 3; k++) await page.keyboard.press('Alt+ArrowUp');
  await expect(page.getByRole('listitem').first()).toContainText('Estimate');
});

test('a map from a file becomes a layer', async ({ page }) => {
  await openShot(page);
  await page.keyboard.press('2');
  await page.getByTestId('import-map').setInputFiles('public/demo/quayLamp.depth.png');
  await expect(page.getByRole('listitem').first()).toContainText('quayLamp.depth.png');
  const layers = page.getByRole('list', { name: /Depth layers/ }).getByRole('listitem');
  await expect(layers).toHaveCount(5);
  await page.getByTestId('import-map').setInputFiles({ name: 'note.png', mimeType: 'image/png', buffer: Buffer.from('text') });
  await expect(page.getByText('note.png is not a picture')).toBeVisible();
  await expect(layers).toHaveCount(5);
});

test('framing: depth stays with the plate', async ({ page }) => {
  await openShot(page);
  await clickPicture(page, 0.49, 0.92, 'hover');
  const before = (await page.getByTestId('probe').innerText()).split(' m')[0];
  await page.keyboard.press('1');
  await typeValue(page, 'Scale', '50 %');
  await pictureReady(page);
  // what was at 49 %, 92 % is now halfway to the middle
  await clickPicture(page, 0.5 + (0.49 - 0.5) / 2, 0.5 + (0.92 - 0.5) / 2, 'hover');
  await expect.poll(async () => Number((await page.getByTestId('probe').innerText()).split(' m')[0]) / Number(before)).toBeCloseTo(1, 1);
  await page.getByRole('button', { name: 'Turn right by 90°' }).click();
  await expect(field(page, 'Width')).toHaveValue('900 px');
  await page.getByRole('button', { name: '1920×1080' }).click();
  await expect(field(page, 'Width')).toHaveValue('1920 px');
  await typeValue(page, 'Focal length', '50 mm');
  await expect(field(page, 'Field of view')).toHaveValue('39.6°');
});

test('views: wipe, overlay, peek keys, zoom, checks', async ({ page }) => {
  await openShot(page);
  await page.mouse.move(10, 300);
  const picture = await canvasFigures(page);
  await page.keyboard.press('w');
  const divider = page.getByRole('slider', { name: 'Wipe between before and after' });
  await divider.focus();
  await page.keyboard.press('End');
  const before = await canvasFigures(page, { x: 0.2, y: 0.3, w: 0.6, h: 0.4 });
  await page.keyboard.press('Home');
  const after = await canvasFigures(page, { x: 0.2, y: 0.3, w: 0.6, h: 0.4 });
  expect(before.detail).toBeGreaterThan(after.detail * 1.1);
  await page.keyboard.press('w');
  await page.keyboard.down('q');
  expect((await canvasFigures(page)).hash).not.toBe(picture.hash);
  await page.keyboard.up('q');
  await expect.poll(async () => (await canvasFigures(page)).hash, { intervals: OFTEN }).toBe(picture.hash);
  await page.keyboard.press('9');
  await expect(viewer(page)).toHaveAttribute('data-preview', 'full 1600x900');
  await expect(page.getByText('100 %', { exact: true }).first()).toBeVisible();
  await page.keyboard.press('0');
  await page.getByRole('button', { name: 'Checks' }).click();
  await page.getByRole('menuitem', { name: /Clipping/ }).click();
  await expect(page.getByText('% of the picture')).toBeVisible();
});

test('takes keep variants to flip between', async ({ page }) => {
  await openShot(page);
  const save = async (): Promise<void> => {
    await page.getByRole('button', { name: /^Takes?( [A-Z])?$/ }).click();
    await page.getByRole('menuitem', { name: 'Save this as a take' }).click();
  };
  await save();
  await typeValue(page, 'Aperture', 'f/4');
  await save();
  await page.getByRole('button', { name: 'Flip' }).click();
  await expect(field(page, 'Aperture')).toHaveValue('f/1.4');
  await viewer(page).getByRole('application').focus();
  await page.keyboard.press('t');
  await expect(field(page, 'Aperture')).toHaveValue('f/4.0');
});

test('everything can be done with the keyboard: focus, stake, export', async ({ page }) => {
  await openShot(page);
  const canvas = viewer(page).getByRole('application');
  await canvas.focus();
  for (let i = 0; i < 6; i++) await page.keyboard.press('ArrowDown');
  await expect(page.getByTestId('probe')).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(field(page, 'Distance')).not.toHaveValue('2.75 m');
  await page.keyboard.press('3');
  await canvas.focus();
  await page.keyboard.press('ArrowUp');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: /Stake 1 at/ })).toBeVisible();
  await page.keyboard.press('6');
  await page.getByRole('button', { name: 'Export picture' }).focus();
  const download = page.waitForEvent('download');
  await page.keyboard.press('Enter');
  expect((await download).suggestedFilename()).toBe('02 Quay lamp.png');
});

test('dragging writes no style rules: each would have the whole page styled anew', async ({ page }) => {
  await openShot(page);
  const rules = (): Promise<number> => page.evaluate(() => [...document.styleSheets].reduce((n, sheet) => n + sheet.cssRules.length, 0));
  /** drags by dx, a little first, for the looks of being taken hold of; the rules that the rest of the way adds */
  const added = async (x: number, y: number, dx: number): Promise<number> => {
    await page.mouse.move(x, y);
    await page.mouse.down();
    await page.mouse.move(x + 4, y);
    await page.mouse.move(x + 8, y);
    await frames(page, 6);
    const before = await rules();
    await page.mouse.move(x + dx, y, { steps: 12 });
    await frames(page, 6);
    const more = (await rules()) - before;
    await page.mouse.up();
    return more;
  };
  const middleOf = async (name: string): Promise<{ x: number; y: number }> => {
    const box = (await page.getByRole('slider', { name, exact: true }).boundingBox())!;
    return { x: box.x + box.width / 2, y: box.y + box.height / 2 };
  };
  for (const name of ['Distance, track', 'Aperture, track', 'Lens blur: Distance']) {
    const at = await middleOf(name);
    expect({ name, rules: await added(at.x, at.y, 60) }).toEqual({ name, rules: 0 });
  }
  await page.getByRole('button', { name: 'Wipe', exact: true }).click();
  const divider = await middleOf('Wipe between before and after');
  expect(await added(divider.x, divider.y, 200)).toBe(0);
  await page.keyboard.press('3');
  await clickPicture(page, 0.5, 0.9);
  await expect(page.getByRole('button', { name: /Stake 1 at/ })).toBeVisible();
  const near = await middleOf('Near end, track');
  expect(await added(near.x, near.y, 40)).toBe(0);
  const stake = (await page.getByRole('button', { name: /Stake 1 at/ }).boundingBox())!;
  expect(await added(stake.x + 9, stake.y + 8, 120)).toBe(0);
  // the probe follows the pointer
  const picture = (await viewer(page).boundingBox())!;
  await page.mouse.move(picture.x + 300, picture.y + 200);
  await frames(page, 6);
  const before = await rules();
  await page.mouse.move(picture.x + 500, picture.y + 260, { steps: 12 });
  await expect(page.getByTestId('probe')).toBeVisible();
  expect((await rules()) - before).toBe(0);
});
