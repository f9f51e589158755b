import type { Page } from '@playwright/test';
import { expect, test } from './prepared';
import { readFileSync } from 'node:fs';
import sharp from 'sharp';
import { encodeExr } from '../src/formats/exr/exr';
import { encodePlanePfm } from '../src/formats/pfm/pfm';
import {
  barriers,
  canvasFigures,
  chapter,
  clickPicture,
  field,
  frames,
  makePicture,
  openShelf,
  openShot,
  pictureReady,
  saved,
  still,
  typeValue,
  viewer,
} from './helpers';

/** Screen px of a place of a 16:9 output that is fitted. */
async function screenAt(page: Page, x: number, y: number): Promise<{ x: number; y: number }> {
  const box = (await viewer(page).boundingBox())!;
  const scale = Math.min(box.width / 1600, box.height / 900);
  return { x: box.x + (box.width - 1600 * scale) / 2 + x * 1600 * scale, y: box.y + (box.height - 900 * scale) / 2 + y * 900 * scale };
}

/** What the probe reads of the depth stack, the cleaned map and the distance at a place. */
async function readAt(page: Page, x: number, y: number): Promise<{ raw: number; cleaned: number; metres: number }> {
  await pictureReady(page);
  await clickPicture(page, x, y, 'hover');
  await frames(page);
  const text = await page.getByTestId('probe').innerText();
  const [, metres, raw, cleaned] = /^([\d.∞]+)(?: m)? · raw ([\d.]+|unknown) → cleaned ([\d.]+)/.exec(text) ?? [];
  return { metres: metres === '∞' ? Infinity : Number(metres), raw: Number(raw), cleaned: Number(cleaned) };
}

const addLayer = async (page: Page, name: RegExp): Promise<void> => {
  await page.getByRole('button', { name: 'Add layer' }).click();
  await page.getByRole('menuitem', { name }).click();
};

const layerRows = (page: Page) => page.getByRole('list', { name: /Depth layers/ }).getByRole('listitem');

/** Opens a shot in Depth. The quay's own brush and shapes are taken away, so that what is read is what the test makes. */
async function openDepth(page: Page, name = '02 Quay lamp'): Promise<void> {
  await openShot(page, name);
  await page.keyboard.press('2');
  for (const own of ['Brush', 'Lamp and pier']) {
    const row = page.getByRole('list', { name: /Depth layers/ }).getByRole('button', { name: new RegExp(`^${own}`) });
    if (name !== '02 Quay lamp') break;
    await row.click();
    await page.getByRole('button', { name: `Delete ${own}`, exact: true }).click();
  }
  await pictureReady(page);
}

async function drag(page: Page, path: readonly (readonly [number, number])[]): Promise<void> {
  const places = await Promise.all(path.map(([x, y]) => screenAt(page, x, y)));
  await page.mouse.move(places[0]!.x, places[0]!.y);
  await page.mouse.down();
  for (const p of places.slice(1)) await page.mouse.move(p.x, p.y, { steps: 6 });
  await frames(page, 4);
  await page.mouse.up();
}

test('a stroke is painted once, listed, changed and taken back in one step', async ({ page }) => {
  await openDepth(page);
  await addLayer(page, /^Brush/);
  await typeValue(page, 'Softness', '0');
  const before = await readAt(page, 0.5, 0.2);
  // there and back again over the same place, in one stroke
  await drag(page, [
    [0.4, 0.2],
    [0.6, 0.2],
    [0.4, 0.2],
  ]);
  const once = await readAt(page, 0.5, 0.2);
  expect(once.raw - before.raw).toBeCloseTo(0.2, 2);
  await expect(page.getByRole('list', { name: 'Strokes, the latest first' }).getByRole('listitem')).toHaveCount(1);
  await drag(page, [
    [0.45, 0.2],
    [0.55, 0.2],
  ]);
  expect((await readAt(page, 0.5, 0.2)).raw - before.raw).toBeCloseTo(0.4, 2);
  await page.getByRole('button', { name: 'Undo' }).click();
  expect((await readAt(page, 0.5, 0.2)).raw - before.raw).toBeCloseTo(0.2, 2);
  await page.getByRole('button', { name: /^1 ?Nearer/ }).click();
  await typeValue(page, 'Amount', '50');
  expect((await readAt(page, 0.5, 0.2)).raw - before.raw).toBeCloseTo(0.5, 2);
  await page.getByRole('button', { name: 'Delete stroke 1' }).click();
  expect((await readAt(page, 0.5, 0.2)).raw).toBeCloseTo(before.raw, 3);
});

test('a pen that is pressed harder paints wider', async ({ page, context }) => {
  await openDepth(page);
  await addLayer(page, /^Brush/);
  await typeValue(page, 'Softness', '0');
  await typeValue(page, 'Size', '200 px');
  const before = { middle: await readAt(page, 0.5, 0.2), beside: await readAt(page, 0.5, 0.27) };
  const pen = await context.newCDPSession(page);
  const stroke = async (force: number): Promise<void> => {
    const [from, to] = [await screenAt(page, 0.45, 0.2), await screenAt(page, 0.55, 0.2)];
    const send = (type: 'mousePressed' | 'mouseMoved' | 'mouseReleased', x: number): Promise<unknown> =>
      pen.send('Input.dispatchMouseEvent', {
        type,
        x,
        y: from.y,
        button: 'left',
        buttons: type === 'mouseReleased' ? 0 : 1,
        clickCount: 1,
        pointerType: 'pen',
        force,
      });
    await send('mousePressed', from.x);
    for (let k = 1; k <= 10; k++) await send('mouseMoved', from.x + ((to.x - from.x) * k) / 10);
    await send('mouseReleased', to.x);
  };
  // at a quarter of the pressure the stroke is a quarter as wide: 63 px beside its line is inside only when it is pressed fully
  await stroke(0.25);
  expect((await readAt(page, 0.5, 0.2)).raw - before.middle.raw).toBeCloseTo(0.2, 2);
  expect((await readAt(page, 0.5, 0.27)).raw).toBeCloseTo(before.beside.raw, 3);
  await page.getByRole('button', { name: 'Undo' }).click();
  await stroke(1);
  expect((await readAt(page, 0.5, 0.27)).raw - before.beside.raw).toBeCloseTo(0.2, 2);
});

test('the brush sets a distance picked in the picture; its size follows z and x; locked it paints nothing', async ({ page }) => {
  await openDepth(page);
  await addLayer(page, /^Brush/);
  await page.getByRole('button', { name: 'Set', exact: true }).click();
  await page.keyboard.press('s');
  const there = await readAt(page, 0.5, 0.95);
  await clickPicture(page, 0.5, 0.95);
  await typeValue(page, 'Amount', '100');
  await typeValue(page, 'Softness', '0');
  await page.getByRole('button', { name: 'Set', exact: true }).focus();
  await page.keyboard.press('x');
  await expect(field(page, 'Size')).toHaveValue('69 px');
  await page.keyboard.press('z');
  await expect(field(page, 'Size')).toHaveValue('60 px');
  await drag(page, [
    [0.2, 0.2],
    [0.3, 0.2],
  ]);
  expect((await readAt(page, 0.25, 0.2)).raw).toBeCloseTo(there.raw, 2);
  await page.getByRole('button', { name: 'Lock Brush' }).click();
  await drag(page, [
    [0.2, 0.5],
    [0.3, 0.5],
  ]);
  await expect(page.getByText('Brush is locked.')).toBeVisible();
  await page.getByRole('button', { name: 'Unlock Brush' }).click();
  await expect(page.getByRole('list', { name: 'Strokes, the latest first' }).getByRole('listitem')).toHaveCount(1);
});

test('ink follows the pointer within a frame, with a big brush too', async ({ page }) => {
  await openDepth(page);
  await addLayer(page, /^Brush/);
  await typeValue(page, 'Size', '400');
  const from = await screenAt(page, 0.3, 0.5);
  await page.mouse.move(from.x, from.y);
  await page.evaluate(() => {
    const times: number[] = [];
    const ink = document.querySelector<HTMLCanvasElement>('[data-testid="ink"]')!;
    let begun = 0;
    // from before any handler of the page sees the event to after the last
    window.addEventListener('pointermove', () => (begun = performance.now()), true);
    window.addEventListener('pointermove', () => times.push(performance.now() - begun));
    ink.addEventListener('pointermove', () => times.push(performance.now() - begun));
    Object.assign(window, { inkTimes: times });
  });
  await page.mouse.down();
  for (let k = 1; k <= 40; k++) await page.mouse.move(from.x + k * 6, from.y + 40 * Math.sin(k / 4));
  const inked = await page.evaluate(() => {
    const ink = document.querySelector<HTMLCanvasElement>('[data-testid="ink"]')!;
    const { data } = ink.getContext('2d')!.getImageData(0, 0, ink.width, ink.height);
    return data.filter((v, i) => i % 4 === 3 && v > 0).length / (data.length / 4);
  });
  await page.mouse.up();
  expect(inked).toBeGreaterThan(0.2);
  const times = (await page.evaluate(() => (window as unknown as { inkTimes: number[] }).inkTimes)).sort((a, b) => a - b);
  expect(times.length).toBeGreaterThan(20);
  expect(times[Math.floor(times.length * 0.9)]).toBeLessThan(16);
});

test('a shape is drawn, put at a distance, edited by its points and moved as a whole', async ({ page }) => {
  await openDepth(page);
  await addLayer(page, /^Shapes/);
  await page.getByRole('button', { name: 'Draw a shape' }).click();
  const before = await readAt(page, 0.75, 0.3);
  for (const [x, y] of [
    [0.4, 0.2],
    [0.6, 0.2],
    [0.6, 0.5],
    [0.4, 0.5],
  ] as const) {
    const p = await screenAt(page, x, y);
    await page.mouse.click(p.x, p.y);
  }
  await page.keyboard.press('Enter');
  await typeValue(page, 'Distance', '2m');
  expect((await readAt(page, 0.5, 0.3)).metres).toBeCloseTo(2, 2);
  expect((await readAt(page, 0.75, 0.3)).raw).toBe(before.raw);
  // the second point out to the right, by the keyboard
  await page.getByRole('button', { name: 'Point 2 of Shape 1' }).focus();
  for (let k = 0; k < 30; k++) await page.keyboard.press('Shift+ArrowRight');
  for (let k = 0; k < 30; k++) await page.keyboard.press('Shift+ArrowDown');
  await expect.poll(async () => (await readAt(page, 0.65, 0.46)).metres).toBeCloseTo(2, 2);
  await page.getByRole('button', { name: 'Undo' }).click();
  // dragged from its middle to the left
  await drag(page, [
    [0.5, 0.35],
    [0.3, 0.35],
  ]);
  await expect.poll(async () => (await readAt(page, 0.25, 0.35)).metres).toBeCloseTo(2, 2);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect.poll(async () => (await readAt(page, 0.25, 0.35)).metres).not.toBeCloseTo(2, 1);
  // its distance along the rail
  const handle = page.getByTestId('rail').getByRole('slider', { name: 'Shape 1: distance' });
  await handle.focus();
  await page.keyboard.press('PageUp');
  await expect.poll(async () => (await readAt(page, 0.5, 0.3)).metres).toBeGreaterThan(2.2);
  await page
    .getByRole('list', { name: 'Shapes' })
    .getByRole('button', { name: /^Shape 1/ })
    .click();
  await page.getByRole('button', { name: 'Delete', exact: true }).click();
  await expect(page.getByRole('list', { name: 'Shapes' }).getByRole('listitem')).toHaveCount(0);
});

test('a horizon is found and dragged; the ground lies under it', async ({ page }) => {
  await openDepth(page, '05 Dunes');
  // it lies over what was made by hand
  await page.getByRole('switch', { name: 'Exact depth on' }).uncheck();
  await page
    .getByRole('list', { name: /Depth layers/ })
    .getByRole('button', { name: /^Beach/ })
    .click();
  await page.getByRole('button', { name: 'Find the horizon' }).click();
  await expect(page.getByRole('button', { name: 'Find the horizon' })).toBeEnabled({ timeout: 20_000 });
  const found = Number((await field(page, 'Horizon').inputValue()).replace(' %', ''));
  // the camera of this scene is level and looks down a little: its horizon lies at 34.7 %
  expect(Math.abs(found - 34.7)).toBeLessThan(4);
  await typeValue(page, 'Horizon', '34.7');
  const low = await readAt(page, 0.5, 0.95);
  const high = await readAt(page, 0.5, 0.5);
  expect(low.raw / high.raw).toBeCloseTo((0.95 - 0.347) / (0.5 - 0.347), 1);
  await drag(page, [
    [0.5, 0.347],
    [0.5, 0.447],
  ]);
  await expect(field(page, 'Horizon')).toHaveValue(/^44\.[5-9] %$/);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(field(page, 'Horizon')).toHaveValue('34.7 %');
});

test('a head follows its marks, and a reload loses nothing', async ({ page }) => {
  await openDepth(page, '03 Figurehead');
  await addLayer(page, /^Head form/);
  await page.getByRole('button', { name: 'Three-quarter right' }).click();
  await expect(field(page, 'Turn')).toHaveValue('42.0°');
  const marks = {
    'Left eye': [0.347, 0.359],
    'Right eye': [0.409, 0.356],
    'Tip of the nose': [0.3925, 0.413],
    Chin: [0.3875, 0.556],
    Crown: [0.34, 0.161],
  };
  for (const [name, [x, y]] of Object.entries(marks)) {
    const box = (await page.getByRole('button', { name, exact: true }).boundingBox())!;
    const to = await screenAt(page, x!, y!);
    await page.mouse.move(box.x + 11, box.y + 11);
    await page.mouse.down();
    await page.mouse.move(to.x, to.y, { steps: 8 });
    await page.mouse.up();
  }
  await expect(page.getByText('5 of 9 marks placed.')).toBeVisible();
  const turn = Number((await field(page, 'Turn').inputValue()).replace('°', '').replace('−', '-'));
  // it looks to the right of the picture, about half way to the side
  expect(turn).toBeGreaterThan(8);
  expect(turn).toBeLessThan(40);
  await saved(page);
  await page.reload();
  await pictureReady(page);
  await page
    .getByRole('list', { name: /Depth layers/ })
    .getByRole('button', { name: /^Head form/ })
    .click();
  await expect(page.getByText('5 of 9 marks placed.')).toBeVisible();
  await page.getByRole('button', { name: 'Lips', exact: true }).click();
  await page.getByRole('button', { name: 'Lock Lips' }).click();
  await expect(page.getByRole('button', { name: 'Unlock Lips' })).toBeVisible();
});

test('the head is fitted to the face by itself, can be stopped, and is one step', async ({ page }) => {
  await openDepth(page, '03 Figurehead');
  await addLayer(page, /^Head form/);
  const fit = page.getByRole('button', { name: 'Fit to the face' });
  await fit.click();
  await page.getByRole('progressbar', { name: 'Looking for a face' }).waitFor();
  await page.getByRole('button', { name: 'Cancel', exact: true }).click();
  await expect(page.getByRole('progressbar')).toHaveCount(0);
  await expect(page.getByText(/Drag the marks onto the face/)).toBeVisible();
  await fit.click();
  await expect(page.getByText('6 of 9 marks placed.')).toBeVisible({ timeout: 60_000 });
  // the tip of the nose of the carved head, which looks to the right of the picture
  const at = (await page.getByRole('button', { name: 'Tip of the nose, placed' }).boundingBox())!;
  const nose = await screenAt(page, 0.3925, 0.413);
  expect(Math.hypot(at.x + at.width / 2 - nose.x, at.y + at.height / 2 - nose.y)).toBeLessThan(25);
  const turn = Number((await field(page, 'Turn').inputValue()).replace('°', '').replace('−', '-'));
  expect(turn).toBeGreaterThan(5);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText(/Drag the marks onto the face/)).toBeVisible();
});

test('flats stand at exact distances, in the picture and in depth', async ({ page }) => {
  await openDepth(page);
  const before = await canvasFigures(page);
  await addLayer(page, /^Flats/);
  await page.getByRole('button', { name: 'Add a card' }).click();
  await typeValue(page, 'Distance', '1.5m');
  expect((await readAt(page, 0.5, 0.7)).metres).toBeCloseTo(1.5, 2);
  expect((await canvasFigures(page)).hash).not.toBe(before.hash);
  await page.getByLabel('Words for a new flat').fill('Tarn Haven');
  await page.getByRole('button', { name: 'Add words' }).click();
  await expect(page.getByRole('list', { name: 'Flats, the nearest first' }).getByRole('listitem')).toHaveCount(2);
  await page.getByTestId('add-flats').setInputFiles({ name: 'sign.png', mimeType: 'image/png', buffer: await makePicture('png', 60, 40) });
  await expect(page.getByRole('list', { name: 'Flats, the nearest first' }).getByRole('listitem')).toHaveCount(3);
  await expect(page.getByTestId('rail').getByRole('slider', { name: 'sign: distance' })).toBeVisible();
  await typeValue(page, 'Distance', '40 cm');
  await expect(page.getByRole('list', { name: 'Flats, the nearest first' }).getByRole('listitem').first()).toContainText('sign');
});

test('distances from an EXR are read as metres and give the calibration', async ({ page }) => {
  await openDepth(page);
  const [w, h] = [160, 90];
  const z = { width: w, height: h, data: Float32Array.from({ length: w * h }, (_, i) => 20 - (18 * Math.floor(i / w)) / (h - 1)) };
  await page.getByTestId('import-map').setInputFiles({ name: 'z.exr', mimeType: 'image/x-exr', buffer: Buffer.from(encodeExr({ Z: z })) });
  await expect(page.getByText('small numbers, the file says so', { exact: false })).toBeVisible();
  await page.getByRole('button', { name: 'Use its distances in Calibrate' }).click();
  const at = await readAt(page, 0.5, 0.5);
  expect(at.metres).toBeGreaterThan(9);
  expect(at.metres).toBeLessThan(13);
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByRole('button', { name: 'Greys', exact: true }).click();
  await pictureReady(page);
});

test('a map the wrong way round is turned, a colour picture is noticed and can be swapped with the plate', async ({ page }) => {
  await openDepth(page);
  const turned = await sharp(readFileSync('public/demo/quayLamp.depth.png')).toColourspace('b-w').negate().resize(400).png().toBuffer();
  await page.getByTestId('import-map').setInputFiles({ name: 'turned.png', mimeType: 'image/png', buffer: turned });
  await expect(page.getByText('black, told from the picture', { exact: false })).toBeVisible();
  await expect(page.getByRole('switch', { name: 'Turn over' })).toBeChecked();
  await page.getByTestId('import-map').setInputFiles('public/demo/dunes.jpg');
  await expect(page.getByText('dunes.jpg is a colour picture.')).toBeVisible();
  await page.getByRole('button', { name: 'Swap with the plate' }).first().click();
  await pictureReady(page);
  await expect(layerRows(page).first()).toContainText('quayLamp.jpg');
  await page.keyboard.press('1');
  await expect(page.getByText('dunes.jpg', { exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText('quayLamp.jpg', { exact: true })).toBeVisible();
  await pictureReady(page);
});

test('clean-up says what it did and is compared before and after', async ({ page }) => {
  await openDepth(page);
  // 24 greys: plain bands
  const bands = Float32Array.from({ length: 1600 * 900 }, (_, i) => Math.round((Math.floor(i / 1600) / 899) * 23) / 23);
  await page.getByTestId('import-map').setInputFiles({
    name: 'bands.pfm',
    mimeType: 'application/octet-stream',
    buffer: Buffer.from(encodePlanePfm({ width: 1600, height: 900, data: bands })),
  });
  await expect(layerRows(page).first()).toContainText('bands.pfm');
  await page.getByRole('group', { name: 'View', exact: true }).getByRole('button', { name: 'Depth' }).click();
  const cleanup = page.getByRole('region', { name: 'Clean-up' });
  await cleanup.getByRole('switch', { name: 'De-band on' }).check();
  await expect(cleanup.getByText(/→|%/).first()).toBeVisible();
  await cleanup.getByRole('switch', { name: 'Fill holes on' }).check();
  await cleanup.getByRole('switch', { name: 'Edge care on' }).check();
  await cleanup.getByRole('button', { name: 'Compare' }).click();
  await expect(page.getByRole('slider', { name: 'Wipe between before and after' })).toBeVisible();
  const { raw, cleaned } = await readAt(page, 0.35, 0.513);
  expect(Math.abs(raw - cleaned)).toBeGreaterThan(0.001);
  expect(await barriers(page)).toEqual([]);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(cleanup.getByRole('switch', { name: 'Edge care on' })).not.toBeChecked();
});

test('every check is a view with its figure', async ({ page }) => {
  await openDepth(page);
  let label = 'Checks';
  for (const [name, figure] of [
    ['Contours', /./],
    ['Banding', /./],
    ['Edges', /px/],
    ['Clipping', /%/],
    ['Against estimate', /\d/],
  ] as const) {
    await page.getByRole('button', { name: label, exact: true }).click();
    await page.getByRole('menuitem', { name: new RegExp(`^${name}`) }).click();
    label = name;
    await expect(page.getByTestId('check-figure')).toHaveText(figure, { timeout: 20_000 });
    if (name === 'Banding') await expect(page.getByRole('img', { name: 'Grey of the map' })).toBeVisible();
  }
  expect(await barriers(page)).toEqual([]);
});

test('layers are renamed, duplicated, blended and moved by dragging', async ({ page }) => {
  await openDepth(page);
  await addLayer(page, /^Ground/);
  await page
    .getByRole('list', { name: /Depth layers/ })
    .getByRole('button', { name: /^Ground/ })
    .focus();
  await page.keyboard.press('F2');
  await page.getByRole('textbox', { name: 'Name of Ground' }).fill('Quay');
  await page.keyboard.press('Enter');
  await expect(layerRows(page).first()).toContainText('Quay');
  await page.getByRole('button', { name: 'Duplicate Quay' }).click();
  await expect(layerRows(page)).toHaveCount(4);
  await page.getByRole('combobox', { name: 'Blend' }).click();
  await page.getByRole('option', { name: 'Nearer of both' }).click();
  await expect(page.getByRole('listbox')).toHaveCount(0);
  const handle = page.getByRole('button', { name: /^Move Quay, copy/ });
  // hovering waits until nothing lies over the handle any more
  await handle.hover();
  const box = (await handle.boundingBox())!;
  await page.mouse.down();
  for (let k = 1; k <= 12; k++) {
    await page.mouse.move(box.x + 6, box.y + 10 + 6 * k);
    await frames(page);
  }
  await still(page);
  await page.mouse.up();
  await expect(layerRows(page).first()).not.toContainText('copy');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(layerRows(page).first()).toContainText('Quay, copy');
});

test('layers, shapes, the horizon and the head are worked by keys alone', async ({ page }) => {
  await openDepth(page, '03 Figurehead');
  const layer = (name: RegExp) => page.getByRole('list', { name: /Depth layers/ }).getByRole('button', { name });
  // a layer is moved, deleted and brought back
  await addLayer(page, /^Ground/);
  await layer(/^Ground/).focus();
  await page.keyboard.press('Alt+ArrowDown');
  await expect(layerRows(page).nth(1)).toContainText('Ground');
  await page.keyboard.press('Delete');
  await expect(layer(/^Ground/)).toHaveCount(0);
  await page.keyboard.press('Control+z');
  await layer(/^Ground/).focus();
  await page.keyboard.press('Enter');
  // the horizon goes down by steps, tilts by its ends
  const horizon = Number((await field(page, 'Horizon').inputValue()).replace(' %', ''));
  await page.getByRole('button', { name: /^Horizon at/ }).focus();
  await page.keyboard.press('Shift+ArrowDown');
  await expect(field(page, 'Horizon')).toHaveValue(`${(horizon + 5).toFixed(1)} %`);
  await page.getByRole('button', { name: /^Right end of the horizon/ }).focus();
  await page.keyboard.press('ArrowDown');
  await expect(field(page, 'Tilt')).toHaveValue(/0\.2/);
  // a shape is laid, its points and the whole of it are moved
  await addLayer(page, /^Shape/);
  await page.getByRole('button', { name: 'Draw a shape' }).focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: 'Stop drawing' })).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('list', { name: 'Shapes' }).getByRole('listitem')).toHaveCount(1);
  const corner = page.getByRole('button', { name: 'Point 1 of Shape 1' });
  const before = (await corner.boundingBox())!;
  await corner.focus();
  await page.keyboard.press('Shift+ArrowLeft');
  await page.keyboard.press('Shift+ArrowUp');
  const after = (await corner.boundingBox())!;
  const scale = Math.min((await viewer(page).boundingBox())!.width / 1600, (await viewer(page).boundingBox())!.height / 900);
  expect(before.x - after.x).toBeCloseTo(10 * scale, 1);
  expect(before.y - after.y).toBeCloseTo(10 * scale, 1);
  await page.getByRole('button', { name: 'Turn', exact: true }).focus();
  for (let k = 0; k < 9; k++) await page.keyboard.press('Shift+ArrowRight');
  // turned by 90°, the corner that was at the upper left is at the upper right
  expect((await corner.boundingBox())!.x).toBeGreaterThan(before.x + 60);
  await page.getByRole('button', { name: 'Scale', exact: true }).first().focus();
  await page.keyboard.press('Shift+ArrowUp');
  expect((await corner.boundingBox())!.y).toBeLessThan(before.y);
  // the head is carried, and its marks go along
  await layer(/^Bust/).focus();
  await page.keyboard.press('Enter');
  const nose = page.getByRole('button', { name: /^Tip of the nose/ }).first();
  const noseAt = (await nose.boundingBox())!;
  await page.getByRole('button', { name: 'Move the head' }).focus();
  await page.keyboard.press('Shift+ArrowRight');
  expect((await nose.boundingBox())!.x - noseAt.x).toBeCloseTo(20 * scale, 1);
  await page.keyboard.press('Control+z');
  expect((await nose.boundingBox())!.x).toBeCloseTo(noseAt.x, 1);
});

test('a picture with depth in its alpha channel, and a JPEG that carries depth, bring it along', async ({ page }, info) => {
  await openShelf(page);
  const [w, h] = [320, 180];
  const colours = await makePicture('png', w, h);
  const { data } = await sharp(colours).removeAlpha().raw().toBuffer({ resolveWithObject: true });
  const rgba = Buffer.alloc(w * h * 4);
  for (let i = 0; i < w * h; i++) {
    data.copy(rgba, i * 4, i * 3, i * 3 + 3);
    rgba[i * 4 + 3] = 5 + Math.round((245 * Math.floor(i / w)) / (h - 1));
  }
  const file = await sharp(rgba, { raw: { width: w, height: h, channels: 4 } })
    .png()
    .toBuffer();
  await page.getByTestId('bring-in').setInputFiles({ name: 'both.png', mimeType: 'image/png', buffer: file });
  await expect(page.getByText('both.png carries depth (alpha).')).toBeVisible();
  await pictureReady(page);
  await page.keyboard.press('2');
  await expect(layerRows(page).first()).toContainText('Depth in the picture');
  const [top, bottom] = [await readAt(page, 0.5, 0.1), await readAt(page, 0.5, 0.9)];
  expect(bottom.raw - top.raw).toBeGreaterThan(0.6);
  // the picture itself is whole
  await page.keyboard.press('1');
  await expect(page.getByRole('switch', { name: 'Leave out alpha' })).toBeChecked();
  // out as a JPEG with its depth inside, and in again
  await chapter(page, 'Output').click();
  await page.getByRole('group', { name: 'Format of the depth' }).getByRole('button', { name: 'JPEG' }).click();
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Export depth' }).click()]);
  const path = info.outputPath('carried.jpg');
  await download.saveAs(path);
  await page.goto('/');
  await page.getByTestId('bring-in').setInputFiles(path);
  await expect(page.getByText('carried.jpg carries depth (XMP depth map).')).toBeVisible();
  await pictureReady(page);
  await page.keyboard.press('2');
  const [top2, bottom2] = [await readAt(page, 0.5, 0.1), await readAt(page, 0.5, 0.9)];
  expect(top2.metres / top.metres).toBeCloseTo(1, 1);
  expect(bottom2.metres / bottom.metres).toBeCloseTo(1, 1);
});
