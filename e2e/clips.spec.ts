import type { Page } from '@playwright/test';
import { readFileSync } from 'node:fs';
import { zipSync } from 'fflate';
import { ALL_FORMATS, BufferSource, EncodedPacketSink, Input } from 'mediabunny';
import sharp from 'sharp';
import { barriers, canvasFigures, chapter, openShelf, pictureReady, saved, typeValue, viewer } from './helpers';
import { expect, test } from './prepared';

/** Frames in which a bright square walks over a dark ground, so that each can be told from the others. */
const W = 320;
const H = 192;
const frameFile = async (k: number): Promise<Buffer> => {
  const rgb = Buffer.alloc(W * H * 3);
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++) {
      const on = x >= 20 + 16 * k && x < 80 + 16 * k && y > 60 && y < 160;
      // its markings go with it
      const own = on ? x - 16 * k : x;
      const grain = ((own * 7919 + y * 104729) % 31) - 15;
      const mark = 25 * Math.sin(own / 6) * Math.cos(y / 5);
      rgb.set(on ? [220 + mark, 200 + mark + (grain >> 1), 60] : [40 + grain, 60 + grain, 90 + (y >> 1)], (y * W + x) * 3);
    }
  return sharp(rgb, { raw: { width: W, height: H, channels: 3 } })
    .png()
    .toBuffer();
};

const frames = async (count: number) =>
  Promise.all(
    Array.from({ length: count }, async (_, k) => ({
      name: `walk_${String(k).padStart(3, '0')}.png`,
      mimeType: 'image/png',
      buffer: await frameFile(k),
    })),
  );

/** Frames beside their depth. */
const pairs = async (count: number) =>
  Promise.all(
    (await frames(count)).map(async ({ name, mimeType, buffer }, k) => {
      const grey = Buffer.alloc(W * H * 3, 40);
      for (let y = 61; y < 160; y++) grey.fill(220, (y * W + 20 + 16 * k) * 3, (y * W + 80 + 16 * k) * 3);
      const depth = await sharp(grey, { raw: { width: W, height: H, channels: 3 } })
        .png()
        .toBuffer();
      return {
        name: name.replace('walk', 'pair'),
        mimeType,
        buffer: await sharp({ create: { width: 2 * W, height: H, channels: 3, background: 'black' } })
          .composite([
            { input: buffer, left: 0, top: 0 },
            { input: depth, left: W, top: 0 },
          ])
          .png()
          .toBuffer(),
      };
    }),
  );

const time = (page: Page) => page.getByTestId('time');
const goTo = async (page: Page, frame: number): Promise<void> => {
  await page.getByRole('slider', { name: 'Playhead' }).focus();
  await page.keyboard.press('Home');
  for (let k = 0; k < frame; k++) await page.keyboard.press('ArrowRight');
  await expect(time(page)).toContainText(`frame ${frame}/`);
  await pictureReady(page);
};

/** Brightness of the left and of the right part of the picture. */
const halves = async (page: Page): Promise<readonly [number, number]> => [
  (await canvasFigures(page, { x: 0.08, y: 0.4, w: 0.16, h: 0.3 })).mean,
  (await canvasFigures(page, { x: 0.55, y: 0.4, w: 0.2, h: 0.3 })).mean,
];

/** Pictures with a number missing, as a shot. */
async function bringNumbered(page: Page): Promise<void> {
  await openShelf(page);
  const files = (await frames(13)).filter((_, k) => k !== 11);
  await page.getByTestId('bring-in').setInputFiles(files);
  await expect(page).toHaveURL(/\/shot\?/);
  await expect(page.getByText('Numbers are missing (11)')).toBeVisible();
  await pictureReady(page);
  await expect(time(page)).toContainText('frame 0/11');
}

test('numbered pictures become a clip: what is missing is said, it is scrubbed, and has a copy to work with', async ({ page }) => {
  await bringNumbered(page);
  // a small copy to work with, made and let go
  await chapter(page, 'Plate').click();
  await page.getByRole('button', { name: 'Make proxy' }).click();
  await expect(page.getByTestId('proxy')).toContainText(/Proxy: 160×96, [\d.]+ MB/);
  await page.getByRole('button', { name: 'Delete proxy' }).click();
  await expect(page.getByTestId('proxy')).toContainText('No proxy');
  const first = await halves(page);
  await goTo(page, 9);
  const later = await halves(page);
  // the square has walked from the left to the right
  expect(first[0]).toBeGreaterThan(first[1] + 40);
  expect(later[1]).toBeGreaterThan(later[0] + 40);
});

test('depth of a clip is found for all frames and kept, a focus follows a point, and what is exported comes in again', async ({ page }) => {
  await bringNumbered(page);
  await chapter(page, 'Depth').click();
  await page.getByRole('button', { name: 'Draft' }).click();
  await expect(page.getByTestId('clip-depth')).toContainText('of 12 frames are steady');
  await page.getByRole('button', { name: /^(Find depth for all frames|Go on finding depth)$/ }).click();
  await expect(page.getByTestId('clip-depth')).toHaveText('All 12 frames have steady depth.', { timeout: 60_000 });
  await expect(page.getByTestId('clip-track')).toHaveAttribute('aria-label', /12 frames steady/);
  const [before, after] = (await page.getByTestId('flicker').innerText()).match(/[\d.]+/g)!.map(Number) as [number, number];
  expect(after).toBeLessThan(before);
  expect(await barriers(page)).toEqual([]);

  // the focus follows the square: it is read where the square is, frame by frame
  await chapter(page, 'Effects').click();
  await goTo(page, 3);
  await page.getByRole('button', { name: 'Focus that follows a point' }).click();
  const box = (await viewer(page).boundingBox())!;
  const scale = Math.min(box.width / W, box.height / H, 4);
  await page.mouse.click(box.x + box.width / 2 + (98 - W / 2) * scale, box.y + box.height / 2 + (110 - H / 2) * scale);
  const told = page.getByText(/The focus follows the point/);
  await expect(told).toBeVisible({ timeout: 60_000 });
  const [from, to] = (await told.innerText()).match(/\d+/g)!.map(Number) as [number, number];
  expect(from).toBeLessThanOrEqual(1);
  expect(to).toBeGreaterThanOrEqual(9);
  await expect(
    page
      .getByTestId('timeline')
      .getByText(/Lens blur, distance: key at frame \d+: /)
      .nth(1),
  ).toBeAttached();

  await saved(page);
  await page.reload();
  await pictureReady(page);
  await chapter(page, 'Depth').click();
  await expect(page.getByTestId('clip-depth')).toHaveText('All 12 frames have steady depth.');

  await chapter(page, 'Output').click();
  const coming = page.waitForEvent('download', { timeout: 60_000 });
  await page.getByRole('button', { name: 'Export clip' }).click();
  const bytes = readFileSync(await (await coming).path());
  const track = (await new Input({ formats: ALL_FORMATS, source: new BufferSource(bytes) }).getPrimaryVideoTrack())!;
  let packets = 0;
  for await (const _ of new EncodedPacketSink(track).packets()) packets++;
  expect(packets).toBe(12);

  // the clip that came out comes in again, and its frames are those that went out
  await page.getByRole('link', { name: 'Ombrage, all shots' }).click();
  await page.getByTestId('bring-in').setInputFiles({ name: 'again.mp4', mimeType: 'video/mp4', buffer: bytes });
  await expect(page).toHaveURL(/\/shot\?/);
  await pictureReady(page);
  await expect(time(page)).toContainText('frame 0/11');
  expect((await halves(page))[0]).toBeGreaterThan((await halves(page))[1] + 30);
  await goTo(page, 9);
  expect((await halves(page))[1]).toBeGreaterThan((await halves(page))[0] + 30);
  await chapter(page, 'Plate').click();
  await page.getByRole('button', { name: 'Make a still of this frame' }).click();
  await expect(page.getByText(/again frame 9/).first()).toBeVisible();
  await pictureReady(page);
  await expect(page.getByTestId('timeline')).toHaveCount(0);
});

test('the demo’s clip of maps is matched, read at each frame, and moved; what is no clip says so', async ({ page }) => {
  await openShelf(page);
  await page.getByRole('link', { name: '04 Crossing' }).click();
  await pictureReady(page);
  await chapter(page, 'Depth').click();
  await page.getByRole('group', { name: 'View', exact: true }).getByRole('button', { name: 'Depth' }).click();
  await page.getByRole('button', { name: 'Grey', exact: true }).click();
  await pictureReady(page);
  // the deckhand, who is near, comes in from the right
  const right = () => canvasFigures(page, { x: 0.7, y: 0.35, w: 0.14, h: 0.4 });
  const empty = await right();
  await page.getByRole('slider', { name: 'Playhead' }).focus();
  await page.keyboard.press('Home');
  for (let k = 0; k < 3; k++) await page.keyboard.press('PageUp');
  await expect(time(page)).toContainText('frame 30/95');
  await pictureReady(page);
  expect((await right()).mean).toBeGreaterThan(empty.mean + 60);
  // while it plays the map is seen to move as well
  const playing = page.getByTestId('playing');
  const playedRight = () =>
    playing.evaluate((canvas: HTMLCanvasElement) => {
      const { width, height } = canvas;
      if (canvas.dataset.showing !== 'yes') return null;
      const { data } = canvas
        .getContext('2d')!
        .getImageData(Math.floor(0.7 * width), Math.floor(0.35 * height), Math.floor(0.14 * width), Math.floor(0.4 * height));
      return data.reduce((sum, v, i) => (i % 4 === 1 ? sum + v : sum), 0) / (data.length / 4);
    });
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await expect.poll(playedRight).toBeGreaterThan(empty.mean + 50);
  await expect.poll(async () => ((await playedRight()) ?? Infinity) < empty.mean + 20).toBe(true);
  await page.getByRole('button', { name: 'Pause', exact: true }).click();
  await page.getByRole('slider', { name: 'Playhead' }).focus();
  await page.keyboard.press('Home');
  for (let k = 0; k < 3; k++) await page.keyboard.press('PageUp');
  await pictureReady(page);
  // begun later, the frame without him belongs here
  await typeValue(page, 'Begins at', '30');
  await pictureReady(page);
  await expect.poll(async () => Math.abs((await right()).mean - empty.mean)).toBeLessThan(6);
  await expect(viewer(page)).toHaveAttribute('aria-busy', 'false');

  // frames that are a picture and its depth are taken apart, and put together again
  await page.getByRole('link', { name: 'Ombrage, all shots' }).click();
  await page.getByTestId('bring-in').setInputFiles(await pairs(8));
  await expect(page).toHaveURL(/\/shot\?/);
  await expect(page.getByText('is two pictures: left half colour, right half depth')).toBeVisible();
  await pictureReady(page);
  await chapter(page, 'Plate').click();
  await expect(page.getByText(`${W}×${H} px`).first()).toBeVisible();
  await chapter(page, 'Depth').click();
  await expect(page.getByRole('list', { name: 'Depth layers' }).getByText('Depth, right half')).toBeVisible();
  await page.getByRole('group', { name: 'View', exact: true }).getByRole('button', { name: 'Depth' }).click();
  await page.getByRole('button', { name: 'Grey', exact: true }).click();
  await pictureReady(page);
  // the square stands before its ground
  const [square, ground] = await halves(page);
  expect(square).toBeGreaterThan(ground + 40);
  await chapter(page, 'Plate').click();
  await page.getByRole('combobox', { name: 'Frames hold' }).click();
  await page.getByRole('option', { name: 'One picture' }).click();
  await expect(page.getByText(`${2 * W}×${H} px`).first()).toBeVisible();
  await pictureReady(page);

  // a page that opens while it is to play shows the frames over its first picture
  await page.reload();
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await expect(playing).toHaveAttribute('data-showing', 'yes');
  await page.getByRole('button', { name: 'Pause', exact: true }).click();

  await page.getByRole('link', { name: 'Ombrage, all shots' }).click();
  for (const [name, buffer, text] of [
    ['empty.mp4', Buffer.from('\0\0\0\x18ftypmp42\0\0\0\0mp42isom', 'latin1'), 'empty.mp4'],
    ['notes.zip', Buffer.from(zipSync({ 'note.txt': new TextEncoder().encode('nothing here') })), 'notes.zip holds no numbered pictures.'],
    ['words.mp4', Buffer.from('only words '.repeat(40)), 'words.mp4 is not a picture or a clip that can be read.'],
    ['old.avi', Buffer.from('RIFF\x10\0\0\0AVI LIST\0\0\0\0', 'latin1'), 'old.avi is in a container that is not read here.'],
  ] as const) {
    await page.getByTestId('bring-in').setInputFiles({ name, mimeType: 'application/octet-stream', buffer });
    await expect(page.getByRole('status').getByText(text).first()).toBeVisible();
  }
});

const fixture = (name: string) => ({ name, mimeType: 'video/mp4', buffer: readFileSync(`e2e/fixtures/${name}`) });

test('a clip whose encoder’s note stands in its first packet alone, and one whose key frames are none by themselves, show every frame from anywhere', async ({
  page,
}) => {
  for (const [name, last] of [
    ['noteInFirstPacket.mp4', 11],
    ['openGroups.mp4', 23],
  ] as const) {
    await openShelf(page);
    await page.getByTestId('bring-in').setInputFiles(fixture(name));
    await expect(page).toHaveURL(/\/shot\?/);
    await pictureReady(page);
    // the plate alone is looked at: no depth is estimated for each frame
    await chapter(page, 'Depth').click();
    await page.getByRole('list', { name: 'Depth layers' }).getByRole('switch').first().click();
    await chapter(page, 'Plate').click();
    // from the first frame on each packet is decoded in its turn
    const inOrder: string[] = [];
    await page.getByRole('slider', { name: 'Playhead' }).focus();
    for (let k = 0; k <= last; k++) {
      inOrder.push((await canvasFigures(page)).hash);
      if (k < last) await page.keyboard.press('ArrowRight');
    }
    expect(new Set(inOrder).size).toBeGreaterThan(last / 2);
    // a fresh decoder begins at a later key frame: backwards each frame is a beginning
    await page.reload();
    await pictureReady(page);
    await page.getByRole('slider', { name: 'Playhead' }).focus();
    await page.keyboard.press('End');
    for (let k = last; k >= 0; k--) {
      // some in each group of frames that begins with a key frame
      if (k % 3 !== 1) expect([name, k, (await canvasFigures(page)).hash]).toEqual([name, k, inOrder[k]]);
      if (k > 0) await page.keyboard.press('ArrowLeft');
    }
    await expect(page.getByText(/is damaged/)).toHaveCount(0);
  }
});

test('a shot at another rate than its clip’s speaks of the clip’s frames where it means them', async ({ page }) => {
  await openShelf(page);
  await page.getByTestId('bring-in').setInputFiles(await frames(8));
  await expect(page).toHaveURL(/\/shot\?/);
  await pictureReady(page);
  await page.getByRole('button', { name: 'in 0 out 7' }).click();
  await page.getByRole('combobox', { name: 'Frames a second' }).click();
  await page.getByRole('option', { name: '48 fps' }).click();
  await typeValue(page, 'Length', '16');
  await page.keyboard.press('Escape');
  await chapter(page, 'Depth').click();
  await page.getByRole('button', { name: 'Draft' }).click();
  await goTo(page, 6);

  const find = page.getByRole('button', { name: /^(Find depth for all frames|Go on finding depth)$/ });
  await find.click();
  await expect(page.getByTestId('clip-depth')).toHaveText('All 8 frames have steady depth.', { timeout: 60_000 });
  // frame 6 of the shot is frame 3 of the clip
  await page.getByRole('button', { name: 'Cut at 3' }).click();
  await expect(page.getByText('Scenes begin at 0')).toHaveCount(0);
  await find.click();
  await expect(page.getByText('Scenes begin at 0, 3')).toBeVisible({ timeout: 60_000 });
  await expect(page.getByRole('button', { name: 'No cut at 3' })).toBeVisible();
});
