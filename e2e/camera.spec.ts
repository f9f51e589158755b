import { expect, test as fresh, type Page } from '@playwright/test';
import { readFileSync } from 'node:fs';
import { unzipSync } from 'fflate';
import { ALL_FORMATS, BufferSource, EncodedPacketSink, Input } from 'mediabunny';
import sharp from 'sharp';
import { barriers, canvasFigures, chapter, clickPicture, field, openShot, pictureReady, saved, typeValue, viewer } from './helpers';
import { test } from './prepared';

const frameOf = async (page: Page): Promise<number> => Number(/frame (\d+)/.exec((await page.getByTestId('time').textContent()) ?? '')?.[1]);
const choose = async (page: Page, label: string, option: string): Promise<void> => {
  await page.getByRole('combobox', { name: label, exact: true }).first().click();
  await page.getByRole('option', { name: option, exact: true }).click();
};

/** Adds a move to a shot that stands still. */
async function addMove(page: Page, name: string): Promise<void> {
  await chapter(page, 'Camera').click();
  await page.getByRole('button', { name: 'Add move' }).click();
  // until the depth has been surveyed a move could not be fitted to it
  await expect(page.getByRole('dialog', { name: 'Moves that can be added' })).toBeVisible();
  await page.waitForFunction(() => document.querySelectorAll('[role="dialog"] canvas[data-fitted="yes"]').length > 8);
  await page.getByRole('button', { name: new RegExp(`^${name}`) }).click();
  await expect(page.getByTestId('timeline')).toBeVisible();
  await pictureReady(page);
}

interface Packets {
  readonly codec: string | null;
  readonly size: readonly [number, number];
  readonly times: readonly number[];
}

/** What is in a clip. */
async function packetsOf(path: string): Promise<Packets> {
  const input = new Input({ formats: ALL_FORMATS, source: new BufferSource(readFileSync(path)) });
  const track = (await input.getPrimaryVideoTrack())!;
  const times: number[] = [];
  for await (const packet of new EncodedPacketSink(track).packets()) times.push(packet.timestamp);
  return { codec: await track.getCodec(), size: [await track.getCodedWidth(), await track.getCodedHeight()], times: times.sort((a, b) => a - b) };
}

fresh('a new visitor presses play: the picture moves, stops, steps and goes to its ends by keys', async ({ page }) => {
  await openShot(page, '02 Quay lamp', true);
  const first = await canvasFigures(page);
  await viewer(page).getByRole('application').focus();
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'Pause' })).toBeVisible();
  await expect.poll(() => frameOf(page)).toBeGreaterThan(4);
  await expect(page.getByTestId('playing')).toHaveAttribute('data-showing', 'yes');
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'Play' })).toBeVisible();
  await page.keyboard.press('End');
  expect(await frameOf(page)).toBe(95);
  await pictureReady(page);
  expect((await canvasFigures(page)).hash).not.toBe(first.hash);
  await page.keyboard.press(',');
  expect(await frameOf(page)).toBe(94);
  await page.keyboard.press('.');
  expect(await frameOf(page)).toBe(95);
  await page.keyboard.press('Home');
  expect(await frameOf(page)).toBe(0);
  await pictureReady(page);
  expect((await canvasFigures(page)).hash).toBe(first.hash);
  // the focus that is driven is shown as it is at the playhead
  await expect(field(page, 'Distance')).toHaveValue('2.75 m');
  await page.keyboard.press('End');
  await expect(field(page, 'Distance')).toHaveValue('11.0 m');
});

test('a move is chosen by eye, stays clean, is shortened when it does not, and undone', async ({ page }) => {
  await openShot(page, '03 Figurehead');
  await expect(page.getByTestId('timeline')).toHaveCount(0);
  await addMove(page, 'Truck');
  const stretch = page.getByRole('meter', { name: 'Stretch' });
  const px = async (): Promise<readonly number[]> => ((await stretch.getAttribute('aria-valuetext')) ?? '').match(/\d+/g)!.map(Number);
  const [fresh, clean] = (await px()) as [number, number];
  expect(fresh).toBeGreaterThan(4);
  expect(fresh).toBeLessThanOrEqual(clean);
  await typeValue(page, 'Distance', '30');
  await expect.poll(async () => (await px())[0]! > clean).toBe(true);
  await page.getByRole('button', { name: /^Shorten to/ }).click();
  await expect.poll(async () => (await px())[0]! <= clean).toBe(true);
  await page.getByRole('button', { name: 'Show' }).click();
  await expect(page.getByTestId('check-figure')).toContainText('% of the picture');
  // it goes to the worst frame, which the panel tells
  const worst = Number(/at frame (\d+)/.exec((await page.getByText(/^worst \d+ px at frame/).textContent()) ?? '')?.[1]);
  expect(await frameOf(page)).toBe(worst);
  await page.getByRole('button', { name: 'Show' }).click();
  // figures that cannot be are refused, the old value stays
  await typeValue(page, 'Stands still at', '-2 m');
  await expect(page.getByText(/must be at least/)).toBeVisible();
  await field(page, 'Stands still at').press('Escape');
  // the path's end by keys: one step of undo with the others
  await page.getByRole('slider', { name: 'End of the path' }).focus();
  const before = await field(page, 'Distance').inputValue();
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('ArrowRight');
  await expect(field(page, 'Distance')).not.toHaveValue(before);
  await saved(page);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(field(page, 'Distance')).toHaveValue(before);
  // its start lies on the other side of the plate: pulled away from it the way grows, by as much as if its end were
  await page.getByRole('slider', { name: 'Start of the path' }).focus();
  await page.keyboard.press('ArrowLeft');
  await expect.poll(async () => parseFloat(await field(page, 'Distance').inputValue())).toBeGreaterThan(parseFloat(before));
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(field(page, 'Distance')).toHaveValue(before);
  await page.getByRole('button', { name: 'Delete Truck' }).click();
  await expect(page.getByTestId('timeline')).toHaveCount(0);
});

test('a number gets keys: added at the playhead, recorded when it changes, moved and deleted by keys, typed in seconds', async ({ page }) => {
  await openShot(page, '02 Quay lamp', true);
  await page.getByRole('button', { name: 'Drive of Aperture' }).click();
  await page.getByRole('radio', { name: 'Keys' }).click();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('slider', { name: /Lens blur, aperture: key at frame 0/ })).toBeVisible();
  await page.getByRole('slider', { name: 'Playhead' }).focus();
  for (let k = 0; k < 3; k++) await page.keyboard.press('Shift+ArrowRight');
  expect(await frameOf(page)).toBe(30);
  await typeValue(page, 'Aperture', 'f/8');
  const pin = (frame: number) => page.getByRole('slider', { name: `Lens blur, aperture: key at frame ${frame}` });
  await expect(pin(30)).toHaveAttribute('aria-valuetext', 'Frame 30, f/8.0');
  await pin(30).focus();
  await page.keyboard.press('Shift+ArrowRight');
  await expect(pin(40)).toBeVisible();
  await page.keyboard.press('Control+c');
  await page.getByRole('slider', { name: 'Playhead' }).focus();
  await page.keyboard.press('End');
  await pin(40).focus();
  await page.keyboard.press('Control+v');
  await expect(pin(95)).toBeVisible();
  await pin(40).focus();
  await page.keyboard.press('Delete');
  await expect(pin(40)).toHaveCount(0);
  await page.getByRole('button', { name: 'Drive of Aperture' }).click();
  await typeValue(page, 'Key 2 at', '2 s');
  await page.keyboard.press('Escape');
  await expect(pin(48)).toBeVisible();
  await saved(page);
  await page.reload();
  await pictureReady(page);
  await expect(pin(48)).toBeVisible();
});

test('two clicks make a rack focus; two eyes say how strong they are and go out as two files', async ({ page }) => {
  await openShot(page, '02 Quay lamp');
  await page.getByRole('button', { name: /^Rack focus from frame/ }).click();
  await clickPicture(page, 0.6, 0.88);
  await expect(page.getByRole('button', { name: 'Click what comes into focus' })).toBeVisible();
  await clickPicture(page, 0.25, 0.55);
  await expect(page.getByRole('slider', { name: /Lens blur, distance: key at frame/ })).toHaveCount(2);
  await pictureReady(page);
  const plain = await canvasFigures(page);
  await chapter(page, 'Camera').click();
  await page.getByRole('switch', { name: 'Two eyes' }).click();
  await pictureReady(page);
  expect((await canvasFigures(page)).hash).not.toBe(plain.hash);
  await expect(page.getByTestId('comfort')).toContainText('lies in the screen');
  await typeValue(page, 'Between eyes', '400');
  await expect(page.getByTestId('comfort')).toContainText('tires the eyes');
  await page.getByRole('slider', { name: 'Two eyes: in the screen' }).focus();
  await page.keyboard.press('ArrowRight');
  await chapter(page, 'Output').click();
  await page.getByRole('button', { name: 'Two eyes', exact: true }).click();
  const coming = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Export picture' }).click();
  const files = unzipSync(new Uint8Array(readFileSync(await (await coming).path())));
  expect(Object.keys(files).sort()).toEqual(['left.png', 'right.png']);
  const [left, right] = await Promise.all(['left.png', 'right.png'].map((n) => sharp(files[n]).raw().toBuffer()));
  expect(left!.length).toBe(right!.length);
  expect(Buffer.compare(left!, right!)).not.toBe(0);
});

test('the wobble and the pointer show the map from elsewhere while it is worked on', async ({ page }) => {
  await openShot(page, '03 Figurehead');
  await chapter(page, 'Camera').click();
  const playing = page.getByTestId('playing');
  await page.getByRole('button', { name: 'Wobble' }).click();
  await expect(playing).toHaveAttribute('data-showing', 'yes');
  await page.getByRole('button', { name: 'Follow the pointer' }).click();
  await expect(playing).toHaveAttribute('data-showing', 'no');
  const box = (await viewer(page).boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.3, box.y + box.height * 0.5);
  await page.mouse.move(box.x + box.width * 0.4, box.y + box.height * 0.5);
  await expect(playing).toHaveAttribute('data-showing', 'yes');
  await page.getByRole('button', { name: 'Follow the pointer' }).click();
  await expect(playing).toHaveAttribute('data-showing', 'no');
  await viewer(page).getByRole('application').focus();
  await page.keyboard.down('v');
  await expect(playing).toHaveAttribute('data-showing', 'yes');
  await page.keyboard.up('v');
  await expect(playing).toHaveAttribute('data-showing', 'no');
});

test('a range goes out as a clip, as an animation and as files, each with all its frames', async ({ page }) => {
  await openShot(page, '05 Dunes', true);
  await page.getByRole('button', { name: /^in 0 out 95/ }).click();
  await typeValue(page, 'Out', '5');
  await page.keyboard.press('Escape');
  await chapter(page, 'Output').click();
  await choose(page, 'Size', 'Own');
  await typeValue(page, 'Width', '321');
  await typeValue(page, 'Height', '180');
  const exported = async (format: string): Promise<string> => {
    await choose(page, 'Format', format);
    const coming = page.waitForEvent('download', { timeout: 60_000 });
    await page.getByRole('button', { name: 'Export clip' }).click();
    return await (await coming).path();
  };
  const clip = await packetsOf(await exported('MP4'));
  expect([clip.codec, ...clip.size]).toEqual(['avc', 320, 180]);
  expect(clip.times).toHaveLength(6);
  for (const [k, t] of clip.times.entries()) expect(t).toBeCloseTo(k / 24, 3);
  const animated = await sharp(await exported('Animated WebP'), { animated: true }).metadata();
  expect([animated.pages, animated.width, animated.pageHeight]).toEqual([6, 321, 180]);
  const frames = unzipSync(new Uint8Array(readFileSync(await exported('JPEG, each frame'))));
  expect(Object.keys(frames)).toHaveLength(6);
  const ends = await Promise.all(['0000.jpg', '0005.jpg'].map((n) => sharp(frames[n]).raw().toBuffer()));
  expect(Buffer.compare(ends[0]!, ends[1]!)).not.toBe(0);
});

test('an export that is broken off by a reload goes on from its finished parts', async ({ page }) => {
  await openShot(page, '05 Dunes', true);
  await chapter(page, 'Output').click();
  await choose(page, 'Size', 'Own');
  await typeValue(page, 'Width', '160');
  await typeValue(page, 'Height', '90');
  await page.getByRole('button', { name: 'Export clip' }).click();
  await expect.poll(async () => Number(await page.getByRole('progressbar').getAttribute('aria-valuenow')), { timeout: 60_000 }).toBeGreaterThan(55);
  await page.reload();
  await pictureReady(page);
  await expect(page.getByText(/was broken off/)).toBeVisible();
  await expect(page.getByText(/[1-9] of 4 parts are finished/)).toBeVisible();
  const coming = page.waitForEvent('download', { timeout: 60_000 });
  await page.getByRole('button', { name: 'Go on' }).click();
  const clip = await packetsOf(await (await coming).path());
  expect(clip.times).toHaveLength(96);
  expect(clip.size).toEqual([160, 90]);
});

test('nothing in Camera and on the timeline keeps anybody out', async ({ page }) => {
  await openShot(page, '02 Quay lamp', true);
  await chapter(page, 'Camera').click();
  await page.getByRole('switch', { name: 'Two eyes' }).click();
  await pictureReady(page);
  expect(await barriers(page)).toEqual([]);
});
