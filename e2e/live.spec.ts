import type { Page } from '@playwright/test';
import { serveDevice } from '../headless/device/serve';
import { defaultsOf } from '../src/core/values/params';
import { simulatedParams } from '../src/live/simulated/params';
import { barriers, chapter, field, openShelf, openShot, pictureReady, saved, storedProjects, typeValue } from './helpers';
import { expect, test } from './prepared';

const bar = (page: Page) => page.getByTestId('live');
const runs = (page: Page): Promise<void> => expect(bar(page)).toHaveAttribute('data-state', 'running');

/** What is drawn over the picture, in a number; 0 where nothing is. */
const shownNow = (page: Page): Promise<number> =>
  page.getByTestId('playing').evaluate((canvas: HTMLCanvasElement) => {
    if (canvas.dataset.showing !== 'yes') return 0;
    // a band across the middle tells: reading all of it takes the time in which pictures come
    const { data } = canvas.getContext('2d')!.getImageData(0, Math.floor(canvas.height / 2) - 12, canvas.width, 24);
    let hash = 7;
    for (let i = 0; i < data.length; i += 12) hash = (Math.imul(hash, 31) + data[i]!) | 0;
    return hash;
  });

/** Waits until other pictures than the one that is there have been drawn, so many. */
async function picturesCome(page: Page, count = 3): Promise<void> {
  const seen = new Set<number>();
  await expect.poll(async () => seen.add(await shownNow(page)).size, { intervals: [80] }).toBeGreaterThan(count);
}

async function openLive(page: Page): Promise<void> {
  await openShot(page, '06 Signal hut');
  await runs(page);
  await picturesCome(page);
}

test('pictures arrive and are shown, are frozen as a still that stays, and go on; everything is free of accessibility faults', async ({ page }) => {
  await openLive(page);
  await expect(page.getByTestId('live-figures')).toContainText(/\d+\/s.*shown \d+\/s.*\d+ ms old.*\d+ lost/);
  await chapter(page, 'Plate').click();
  await expect(page.getByRole('list', { name: 'Channels' }).getByRole('listitem')).toHaveText([/^blink/, /^mouth/, /^arm/, /^swing/, /^lamp/]);
  expect(await barriers(page)).toEqual([]);
  // spoiled on purpose: what is lost is counted
  const lost = async (): Promise<number> => Number(/(\d+) lost/.exec((await page.getByTestId('live-figures').textContent()) ?? '')?.[1] ?? 0);
  const before = await lost();
  await typeValue(page, 'Lost', '60');
  await expect.poll(lost).toBeGreaterThan(before + 20);
  await typeValue(page, 'Lost', '0');
  // every view works on it
  await page.getByRole('button', { name: 'Depth', exact: true }).click();
  await picturesCome(page);
  await page.getByRole('button', { name: 'Picture', exact: true }).click();
  await page.getByRole('button', { name: 'Freeze' }).click();
  await expect(bar(page)).toHaveAttribute('data-state', 'frozen');
  await pictureReady(page);
  await expect(page.getByTestId('playing')).toHaveAttribute('data-showing', 'no');
  await saved(page);
  const rows = await storedProjects(page);
  const { plate, settings } = rows.flatMap((row) => row.document.shots).find((shot) => shot.name === '06 Signal hut')!;
  expect(settings.layers.map((layer) => layer.media?.sha256)).toEqual([plate.sha256]);
  await page.getByRole('button', { name: 'Go on' }).click();
  await runs(page);
  await picturesCome(page);
});

test('a channel drives a number: a row of steps that reads like a sentence; another chooses what is shown', async ({ page }) => {
  test.setTimeout(240_000);
  await openLive(page);
  await chapter(page, 'Effects').click();
  await page.getByRole('button', { name: 'Drive of Distance' }).click();
  const dialog = page.getByRole('dialog', { name: 'Drive of Distance' });
  await dialog.getByRole('radio', { name: 'Signal' }).click();
  await dialog.getByRole('checkbox', { name: 'swing' }).click();
  await typeValue(page, 'From', '-1');
  await typeValue(page, 'Becomes', '2');
  await typeValue(page, 'And', '6');
  await expect(dialog.getByTestId('signal-sentence')).toHaveText('swing, -1 to 1 becomes 2 to 6, smoothed over 0.1 s');
  await dialog.getByRole('combobox', { name: 'Add a step' }).click();
  await page.getByRole('option', { name: /^Scale/ }).click();
  await expect(dialog.getByTestId('signal-sentence')).toContainText('times 1');
  await dialog.getByRole('button', { name: 'Delete Scale' }).click();
  expect(await barriers(page, '[role="dialog"]')).toEqual([]);
  await page.keyboard.press('Escape');
  // the row shows what the signal gives, as it changes
  const seen = new Set<string>();
  await expect.poll(async () => seen.add(await field(page, 'Distance').inputValue()).size).toBeGreaterThan(4);
  for (const text of seen) {
    expect(parseFloat(text)).toBeGreaterThanOrEqual(1.9);
    expect(parseFloat(text)).toBeLessThanOrEqual(6.1);
  }
  // a blink shows another shot, the next one this one again
  await chapter(page, 'Plate').click();
  await page.getByRole('combobox', { name: 'Add what can be shown' }).click();
  await page.getByRole('option', { name: '05 Dunes' }).click();
  await page.getByRole('checkbox', { name: 'blink' }).click();
  await expect(page.getByTestId('signal-sentence')).toHaveText('blink, on between 0.6 and 1, counted, 2 times round');
  const shows = bar(page).getByRole('status');
  await expect(shows).toHaveText('shows 05 Dunes', { timeout: 60_000 });
  await expect(shows).toHaveText('live');
  await page.getByRole('button', { name: 'Take 05 Dunes out' }).click();
  await saved(page);
});

/** A clip of PNGs is made in so long on a machine that is busy, ms. */
const MAKING = 60_000;

test('a recording becomes a clip with its depth, whose signals play without the source; one that is broken off is there up to its last second', async ({
  page,
}) => {
  await openLive(page);
  await chapter(page, 'Effects').click();
  await page.getByRole('button', { name: 'Drive of Distance' }).click();
  await page.getByRole('radio', { name: 'Signal' }).click();
  await page.getByRole('checkbox', { name: 'arm' }).click();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Record' }).click();
  await expect(page.getByRole('button', { name: /^End recording/ })).toContainText('1 s');
  await page.getByRole('button', { name: /^End recording/ }).click();
  // pictures go on arriving while it is made
  await expect(page.getByText(/recorded 1: \d+ frames, .* with depth and 5 channels\./)).toBeVisible({ timeout: MAKING });
  await saved(page);
  // another, which the page does not see the end of
  await page.getByRole('button', { name: 'Record' }).click();
  await expect(page.getByRole('button', { name: /^End recording/ })).toContainText('2 s');
  await page.reload();
  await expect(page.getByText(/^A recording of .* was broken off\.$/)).toBeVisible();
  await page.getByRole('button', { name: 'Make a clip' }).click();
  await expect(page.getByText(/recorded 2: \d+ frames/)).toBeVisible({ timeout: MAKING });
  await saved(page);
  await page.getByRole('button', { name: 'Open it' }).click();
  await expect(field(page, 'Name of the shot')).toHaveValue('06 Signal hut, recorded 2');
  await pictureReady(page);
  await expect(bar(page)).toHaveCount(0);
  await expect(page.getByTestId('time')).toContainText(/frame 0\/\d\d/);
  // its signal follows what was recorded
  const at = async (): Promise<number> => parseFloat(await field(page, 'Distance').inputValue());
  const first = await at();
  await page.getByRole('slider', { name: 'Playhead' }).focus();
  await page.keyboard.press('End');
  await expect.poll(at).not.toBe(first);
  await pictureReady(page);
});

test('a network device is seen before it is used, said when it goes, and comes back by itself', async ({ page }) => {
  const options = { host: '127.0.0.1', oscPort: null, holds: 'side', form: 'raw', allow: [], camera: defaultsOf(simulatedParams) } as const;
  let device = await serveDevice({ ...options, port: 0 });
  const { port } = device;
  try {
    await openShelf(page);
    await page.getByRole('button', { name: 'Live…' }).click();
    const dialog = page.getByRole('dialog', { name: 'A live plate' });
    await expect(dialog.getByText('640×360 px, depth comes with it, 5 channels')).toBeVisible();
    expect(await barriers(page, '[role="dialog"]')).toEqual([]);
    await dialog.getByRole('radio', { name: /^Network device/ }).click();
    await dialog.getByRole('textbox', { name: 'Address' }).fill('nonsense');
    await page.keyboard.press('Enter');
    await expect(dialog.getByText(/nonsense is no address of a device/)).toBeVisible();
    await expect(dialog.getByRole('button', { name: 'Make a shot' })).toBeDisabled();
    await dialog.getByRole('textbox', { name: 'Address' }).fill(`ws://localhost:${port}`);
    await page.keyboard.press('Enter');
    await expect(dialog.getByText('640×360 px, depth comes with it')).toBeVisible();
    await dialog.getByRole('button', { name: 'Make a shot' }).click();
    await runs(page);
    await picturesCome(page);
    await device.close();
    await expect(bar(page)).toContainText(`No device answers at ws://localhost:${port}`);
    // what was seen last is kept, as the plate
    await pictureReady(page);
    device = await serveDevice({ ...options, port });
    await runs(page);
    await picturesCome(page);
  } finally {
    await device.close();
  }
});

test('a camera that is not there is said, and nothing is lost', async ({ page }) => {
  await openShelf(page);
  await page.getByRole('button', { name: 'Live…' }).click();
  const dialog = page.getByRole('dialog', { name: 'A live plate' });
  await dialog.getByRole('radio', { name: /^This computer’s camera/ }).click();
  await expect(dialog.getByText(/This computer has no camera|This page may not use the camera|The camera cannot be opened/)).toBeVisible();
  await expect(dialog.getByRole('button', { name: 'Make a shot' })).toBeDisabled();
  await dialog.getByRole('button', { name: 'Leave it' }).click();
  await expect(dialog).toHaveCount(0);
});

test('on show: the picture alone in a window, which holds the last one and finds the workspace again', async ({ page }) => {
  await openLive(page);
  const [show] = await Promise.all([page.waitForEvent('popup'), page.getByRole('button', { name: 'On show' }).click()]);
  const picture = show.getByTestId('show');
  await expect(picture).toBeVisible();
  const hash = (): Promise<number> =>
    picture.evaluate((canvas: HTMLCanvasElement) => {
      const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height);
      let sum = 7;
      for (let i = 0; i < data.length; i += 44) sum = (Math.imul(sum, 31) + data[i]!) | 0;
      return sum;
    });
  const changes = async (): Promise<void> => {
    const seen = new Set<number>();
    await expect.poll(async () => seen.add(await hash()).size).toBeGreaterThan(2);
  };
  await changes();
  expect(await barriers(show)).toEqual([]);
  await page.reload();
  await expect(picture).toBeVisible();
  await runs(page);
  await changes();
  await show.close();
});
