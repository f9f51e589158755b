import { readFileSync, writeFileSync } from 'node:fs';
import { mkdtemp } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import AxeBuilder from '@axe-core/playwright';
import sharp from 'sharp';
import type { Page } from '@playwright/test';
import '../headless/kernels';
import { ENCODERS } from '../headless/stills';
import { layPlate } from '../src/core/camera/behind';
import type { LayeredPlate } from '../src/core/camera/layered';
import { plateLens, poseOf, type PlateLens } from '../src/core/camera/pose';
import { viewFrom } from '../src/core/camera/view';
import { sceneShape, withColours } from '../src/core/mesh/scene';
import { sheetsOf } from '../src/core/mesh/sheet';
import { newPicture, newPlane } from '../src/core/picture';
import { encodePicture8 } from '../src/core/raster/colour';
import { runAlone } from '../src/core/run';
import { encodePage, motionOf } from '../src/formats/page/page';
import { seenAt } from '../src/formats/page/facts';
import { expect, test } from './prepared';
import { barriers, chapter, field, frames, openShot, pictureReady, typeValue } from './helpers';

const relief = (page: Page) => page.getByTestId('relief');
const space = (page: Page) => page.getByRole('application', { name: /^The scene in space/ });

/** Opens the view in space, and waits until the whole scene is there and drawn. */
async function openRelief(page: Page): Promise<void> {
  await page.getByRole('button', { name: 'Relief', exact: true }).click();
  await expect(relief(page)).toHaveAttribute('data-state', 'whole');
  await expect(space(page)).toHaveAttribute('data-shown', /^whole/);
  await frames(page, 3);
}

/** What is seen in space, as pixels. */
const seen = async (page: Page): Promise<Buffer> => {
  await frames(page, 3);
  const box = (await space(page).boundingBox())!;
  return sharp(await page.screenshot({ clip: { ...box, height: box.height - 60 } }))
    .raw()
    .toBuffer();
};

/** Share of pixels that differ plainly. */
function differing(a: Buffer, b: Buffer): number {
  let n = 0;
  for (let i = 0; i < a.length; i += 3) if (Math.abs(a[i]! - b[i]!) + Math.abs(a[i + 1]! - b[i + 1]!) > 40) n++;
  return n / (a.length / 3);
}

test('the scene stands in space: turned by keys and pointer, coarse while it moves, and back at the plate it is the picture', async ({ page }) => {
  await openShot(page);
  await openRelief(page);
  const zoom = await page.getByRole('toolbar', { name: 'Over the picture' }).innerText();
  await page.getByRole('button', { name: 'Back to the plate' }).click();
  const plate = await seen(page);
  await space(page).focus();
  await page.keyboard.press('ArrowLeft');
  await page.keyboard.press('ArrowLeft');
  await expect(space(page)).toHaveAttribute('data-shown', /^whole/);
  expect(differing(plate, await seen(page))).toBeGreaterThan(0.2);
  // its keys are its own: the picture is not enlarged by them
  await page.keyboard.press('-');
  expect(await page.getByRole('toolbar', { name: 'Over the picture' }).innerText()).toBe(zoom);
  await page.keyboard.press('Home');
  await expect(space(page)).toHaveAttribute('data-shown', /^whole/);
  expect(differing(plate, await seen(page))).toBeLessThan(0.01);
  const box = (await space(page).boundingBox())!;
  await page.mouse.move(box.x + 300, box.y + 200);
  await page.mouse.down();
  await page.mouse.move(box.x + 380, box.y + 220, { steps: 6 });
  await expect(space(page)).toHaveAttribute('data-shown', /^coarse/);
  await page.mouse.up();
  await expect(space(page)).toHaveAttribute('data-shown', /^whole/);
  for (const form of ['Points', 'Wire']) {
    await page.getByRole('button', { name: form, exact: true }).click();
    await frames(page, 4);
    await expect(page.getByRole('button', { name: form, exact: true })).toHaveAttribute('aria-pressed', 'true');
  }
  expect(await barriers(page, '[data-testid="relief"]')).toEqual([]);
});

test('the end of a move is dragged in space, and taken back in one step', async ({ page }) => {
  await openShot(page, '02 Quay lamp', true);
  await chapter(page, 'Camera').click();
  await openRelief(page);
  await space(page).focus();
  for (const key of ['ArrowLeft', 'ArrowLeft', 'ArrowLeft', 'ArrowUp', '-', '-', '-', '-', '-']) await page.keyboard.press(key);
  await expect(space(page)).toHaveAttribute('data-shown', /^whole/);
  await frames(page, 3);
  const end = page.getByRole('button', { name: /^End of / });
  const from = (await end.boundingBox())!;
  const numbers = () =>
    page
      .locator('aside')
      .getByRole('textbox')
      .evaluateAll((all) => all.map((t) => (t as HTMLInputElement).value).join(' '));
  const before = await numbers();
  await page.mouse.move(from.x + 11, from.y + 11);
  await page.mouse.down();
  await page.mouse.move(from.x - 30, from.y + 30, { steps: 5 });
  await frames(page, 3);
  await page.mouse.up();
  await expect.poll(numbers).not.toBe(before);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect.poll(numbers).toBe(before);
});

test('opened and left many times it lets go of its memory', async ({ page }) => {
  const said: string[] = [];
  page.on('console', (m) => m.type() === 'warning' && said.push(m.text()));
  await openShot(page, '05 Dunes');
  for (let k = 0; k < 20; k++) {
    await page.getByRole('button', { name: 'Relief', exact: true }).click();
    await expect(relief(page)).toBeVisible();
    await page.getByRole('button', { name: 'Picture', exact: true }).click();
    await expect(relief(page)).toHaveCount(0);
  }
  // browsers count contexts that were not let go, and say so from the sixteenth on
  expect(said.filter((text) => /context/i.test(text))).toEqual([]);
});

test('a clip that plays is seen in space, frame by frame', async ({ page }) => {
  await openShot(page, '04 Crossing', true);
  await openRelief(page);
  const before = await seen(page);
  const playhead = page.getByRole('slider', { name: 'Playhead' });
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await expect(space(page)).toHaveAttribute('data-shown', /^coarse/);
  await expect.poll(async () => Number(await playhead.getAttribute('aria-valuenow'))).toBeGreaterThan(12);
  await page.getByRole('button', { name: 'Pause', exact: true }).click();
  await expect(space(page)).toHaveAttribute('data-shown', /^whole/);
  expect(differing(before, await seen(page))).toBeGreaterThan(0.02);
});

test('a shot without depth says so where its scene would stand, and makes no mesh', async ({ page }) => {
  await openShot(page, '01 Chart table');
  await chapter(page, 'Depth').click();
  const list = page.getByRole('list', { name: /Depth layers/ });
  await expect(list.getByRole('switch').first()).toBeVisible();
  for (const box of await list.getByRole('switch').all()) if (await box.isChecked()) await box.uncheck();
  await page.getByRole('button', { name: 'Relief', exact: true }).click();
  await expect(relief(page)).toContainText('This shot has no depth yet.');
  await page.getByRole('button', { name: 'Picture', exact: true }).click();
  await chapter(page, 'Output').click();
  await page.getByRole('button', { name: 'Export mesh' }).click();
  await expect(page.getByText('This shot has no depth yet.')).toBeVisible();
});

test('without WebGL, and where its context is lost, it is said and nothing else is touched', async ({ page }) => {
  await openShot(page);
  await openRelief(page);
  await page.evaluate(() => {
    const canvas = document.querySelector<HTMLCanvasElement>('[data-testid="relief"] canvas')!;
    (canvas.getContext('webgl2') as WebGL2RenderingContext).getExtension('WEBGL_lose_context')!.loseContext();
  });
  await expect(page.getByRole('alert').filter({ hasText: 'The graphics processor let go of the scene.' })).toBeVisible();
  await page.getByRole('button', { name: 'Try again' }).click();
  await expect(space(page)).toHaveAttribute('data-shown', /^whole/);
  await page.getByRole('button', { name: 'Picture', exact: true }).click();
  await page.evaluate(() => {
    const usual = HTMLCanvasElement.prototype.getContext;
    Object.assign(HTMLCanvasElement.prototype, {
      getContext(this: HTMLCanvasElement, kind: string, ...more: unknown[]) {
        return kind.startsWith('webgl') ? null : (usual as (...a: unknown[]) => unknown).call(this, kind, ...more);
      },
    });
  });
  await page.getByRole('button', { name: 'Relief', exact: true }).click();
  await expect(page.getByText('This browser shows nothing in space', { exact: false })).toBeVisible();
  await page.getByRole('button', { name: 'Depth', exact: true }).click();
  await pictureReady(page);
});

/** The facts of a GLB file. */
function glbOf(path: string): {
  json: { meshes: { name: string; primitives: { indices: number }[] }[]; accessors: { count: number }[]; animations?: unknown[] };
  bytes: Buffer;
} {
  const bytes = readFileSync(path);
  expect(bytes.toString('latin1', 0, 4)).toBe('glTF');
  return { json: JSON.parse(bytes.toString('utf8', 20, 20 + bytes.readUInt32LE(12))), bytes };
}

test('a mesh goes out with its error told, and serves another shot of the same framing', async ({ page }) => {
  test.setTimeout(240_000);
  await page.addInitScript(() => {
    const usual = IDBObjectStore.prototype.put;
    IDBObjectStore.prototype.put = function (this: IDBObjectStore, ...args: Parameters<typeof usual>) {
      if ((window as { diskIsFull?: boolean }).diskIsFull && this.name === 'shapes') throw new DOMException('full', 'QuotaExceededError');
      return usual.apply(this, args);
    };
  });
  await openShot(page);
  await chapter(page, 'Output').click();
  await field(page, 'Triangles').fill('5000');
  await field(page, 'Triangles').press('Enter');
  // with no room left it goes out all the same; only to be used again it cannot be kept, which is said
  await page.evaluate(() => Object.assign(window, { diskIsFull: true }));
  const lost = page.waitForEvent('download', { timeout: 90_000 });
  await page.getByRole('button', { name: 'Export mesh' }).click();
  expect(glbOf(await (await lost).path()).json.meshes).toHaveLength(2);
  await expect(page.getByText(/no room/i).first()).toBeVisible();
  await page.evaluate(() => Object.assign(window, { diskIsFull: false }));
  const [first] = await Promise.all([page.waitForEvent('download', { timeout: 90_000 }), page.getByRole('button', { name: 'Export mesh' }).click()]);
  expect(first.suggestedFilename()).toBe('02 Quay lamp.glb');
  await expect(page.getByTestId('made')).toHaveText(/^[45],\d{3} triangles, at most [\d.]+ px off, /);
  const one = glbOf(await first.path());
  expect(one.json.meshes.map((m) => m.name)).toEqual(['front', 'behind']);
  const triangles = one.json.meshes.reduce((n, m) => n + one.json.accessors[m.primitives[0]!.indices]!.count / 3, 0);
  expect(triangles).toBeGreaterThan(4000);
  expect(triangles).toBeLessThanOrEqual(5000);
  // no place where a picture was taken goes along
  expect(one.bytes.includes(Buffer.from('Exif'))).toBe(false);
  await openShot(page, '01 Chart table');
  await chapter(page, 'Output').click();
  await page.getByRole('combobox', { name: 'Use the mesh of' }).click();
  await page.getByRole('option', { name: '02 Quay lamp' }).click();
  const [second] = await Promise.all([page.waitForEvent('download', { timeout: 90_000 }), page.getByRole('button', { name: 'Export mesh' }).click()]);
  const other = glbOf(await second.path());
  expect(other.json.meshes.reduce((n, m) => n + other.json.accessors[m.primitives[0]!.indices]!.count / 3, 0)).toBe(triangles);
});

const [W, H] = [640, 360];

/** A white card 2 m away before a dark wall with a grey card on it, 20 m away, as a page. */
async function cards(
  words: string,
  name: string,
): Promise<{ bytes: Uint8Array; facts: ReturnType<typeof motionOf>; plate: LayeredPlate; lens: PlateLens }> {
  const [picture, distance] = [newPicture(W, H), newPlane(W, H)];
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++) {
      const i = y * W + x;
      const near = x >= 160 && x < 240 && y >= 140 && y < 220;
      const far = x >= 420 && x < 500 && y >= 140 && y < 220;
      distance.data[i] = near ? 2 : 20;
      picture.data.set(near ? [1, 0, 0, 1] : far ? [0, 0, 1, 1] : [0.01, 0.01, 0.01, 1], i * 4);
    }
  const lens = plateLens(W, H, 50);
  const parallax = 0.06;
  const gain = (parallax * W) / (1 / 2 - 1 / 20);
  const plate = layPlate(picture, distance, { gain, pad: 4, border: 'mirrored', hidden: true });
  const sheets = sheetsOf(plate, { behind: true });
  const scene = withColours(await sceneShape(sheets, lens, gain, { triangles: 20_000 }), sheets);
  const choice = { parallax, stands: 8, words, name };
  return { bytes: await encodePage(scene, choice, ENCODERS), facts: motionOf(scene, choice), plate, lens };
}

/** The middle of what is red, and of what is blue, px. */
async function middles(page: Page): Promise<{ red: number; blue: number; holes: number }> {
  const { data, info } = await sharp(await page.screenshot())
    .removeAlpha()
    .raw()
    .toBuffer({ resolveWithObject: true });
  const sums = { red: { x: 0, n: 0 }, blue: { x: 0, n: 0 } };
  let holes = 0;
  for (let i = 0; i < data.length; i += 3) {
    const [r, b] = [data[i]!, data[i + 2]!];
    const into = r > 128 && b < 100 ? sums.red : b > 128 && r < 100 ? sums.blue : null;
    if (into) {
      into.x += ((i / 3) % info.width) + 0.5;
      into.n++;
    }
    if (data[i + 1]! > 60) holes++;
  }
  return { red: sums.red.x / sums.red.n, blue: sums.blue.x / sums.blue.n, holes };
}

/** How many px of a row are neither the red card nor what is about it, at the most, in rows that cross it: RGB in 255 steps. */
function torn(rgb: ArrayLike<number>, channels: number): number {
  let most = 0;
  for (let y = 160; y < 200; y++) {
    let mixed = 0;
    for (let x = 0; x < W; x++) if (rgb[(y * W + x) * channels]! > 60 && rgb[(y * W + x) * channels]! < 230) mixed++;
    most = Math.max(most, mixed);
  }
  return most;
}

test('a page opened from disk moves near against far by what the geometry says, asks nothing of any place, and takes any words', async ({
  browser,
}) => {
  const folder = await mkdtemp(join(tmpdir(), 'page-'));
  const path = join(folder, 'page.html');
  const words = `A "card" & <script>window.broken = 1</script> 'here'`;
  const { bytes, facts, plate, lens } = await cards(words, '</title><b>x</b>');
  expect(bytes.length).toBeLessThan(3e6);
  writeFileSync(path, bytes);
  const context = await browser.newContext({ viewport: { width: W, height: H } });
  const asked: string[] = [];
  context.on('request', (r) => asked.push(r.url()));
  const page = await context.newPage();
  await page.goto(`file://${path}`);
  const root = page.locator('html');
  await expect(root).toHaveAttribute('data-drawn', 'webgl');
  expect(await page.title()).toBe('</title><b>x</b>');
  await expect(page.getByRole('img', { name: words })).toBeVisible();
  expect(await page.evaluate(() => 'broken' in window)).toBe(false);
  for (const [at, eye] of [
    [1, -1],
    [W - 1, 1],
  ] as const) {
    await page.mouse.move(at, H / 2);
    const aside = (2 * at) / W - 1;
    await expect.poll(async () => Number((await root.getAttribute('data-eye'))!.split(' ')[0])).toBeCloseTo(aside, 3);
    // while it moves a busy machine draws fewer px: it is measured at rest
    await page.waitForFunction((whole) => document.querySelector('canvas')!.width >= whole, W);
    await frames(page, 2);
    const { red, blue, holes } = await middles(page);
    // nothing bright shows where neither card is
    expect(holes).toBe(0);
    expect(Math.sign(aside)).toBe(eye);
    expect(Math.abs(red - seenAt(facts, 200, 180, 1 / 2, facts.aside * aside, 0).x)).toBeLessThan(0.5);
    // and its edges are no wider than the studio shows them from there
    const pose = poseOf({ x: facts.aside * aside });
    const { picture } = await viewFrom(runAlone(), plate, lens, { pose, enlarged: facts.enlarged }, true);
    const studio = new Uint8ClampedArray(4 * W * H);
    encodePicture8(picture, studio);
    const shown = await sharp(await page.screenshot())
      .removeAlpha()
      .raw()
      .toBuffer();
    expect(torn(studio, 4)).toBeLessThanOrEqual(6);
    expect(torn(shown, 3)).toBeLessThanOrEqual(torn(studio, 4) + 2);
    expect(Math.abs(blue - seenAt(facts, 460, 180, 1 / 20, facts.aside * aside, 0).x)).toBeLessThan(0.5);
  }
  const elsewhere = asked.filter((url) => !/^(data|blob):/.test(url));
  expect(elsewhere).toEqual([`file://${path}`]);
  const { violations } = await new AxeBuilder({ page }).setLegacyMode(true).analyze();
  expect(violations.map((v) => v.id)).toEqual([]);
  await context.close();
});

test('a page drifts by itself, stands still for who wants little motion, and runs in a frame that allows nothing but scripts', async ({
  browser,
}) => {
  const folder = await mkdtemp(join(tmpdir(), 'page-'));
  const { bytes } = await cards('Cards', 'Cards');
  writeFileSync(join(folder, 'page.html'), bytes);
  writeFileSync(
    join(folder, 'site.html'),
    '<!doctype html><title>Site</title><iframe sandbox="allow-scripts" src="page.html" style="width:640px;height:360px;border:0"></iframe>',
  );
  const calm = await browser.newContext({ viewport: { width: W, height: H }, reducedMotion: 'reduce' });
  const still = await calm.newPage();
  await still.clock.install();
  await still.goto(`file://${join(folder, 'page.html')}`);
  await expect(still.locator('html')).toHaveAttribute('data-drawn', 'webgl');
  await still.clock.runFor(9000);
  await still.mouse.move(600, 100);
  await still.clock.runFor(500);
  await expect(still.locator('html')).toHaveAttribute('data-eye', '0.0000 0.0000');
  // and nothing is drawn that would be the same
  const draws = await still.evaluate(() => {
    const seen = { count: 0 };
    const usual = WebGLRenderingContext.prototype.drawElements;
    Object.assign(WebGLRenderingContext.prototype, {
      drawElements(this: WebGLRenderingContext, ...all: Parameters<typeof usual>) {
        seen.count++;
        usual.apply(this, all);
      },
    });
    Object.assign(window, { seen });
    return seen.count;
  });
  expect(draws).toBe(0);
  await still.clock.runFor(20_000);
  expect(await still.evaluate(() => (window as Window & { seen?: { count: number } }).seen!.count)).toBe(0);
  await calm.close();
  const context = await browser.newContext({ viewport: { width: W, height: H } });
  const site = await context.newPage();
  await site.clock.install();
  await site.goto(`file://${join(folder, 'site.html')}`);
  const inside = site.frameLocator('iframe').locator('html');
  await expect(inside).toHaveAttribute('data-drawn', 'webgl');
  await site.clock.runFor(8000);
  await expect.poll(() => inside.getAttribute('data-eye')).not.toBe('0.0000 0.0000');
  await context.close();
});

test('a page without a graphics processor draws the same scene', async ({ browser }) => {
  const folder = await mkdtemp(join(tmpdir(), 'page-'));
  const { bytes, facts } = await cards('Cards', 'Cards');
  writeFileSync(join(folder, 'page.html'), bytes);
  const context = await browser.newContext({ viewport: { width: W, height: H } });
  const page = await context.newPage();
  await page.addInitScript(() => {
    const usual = HTMLCanvasElement.prototype.getContext;
    Object.assign(HTMLCanvasElement.prototype, {
      getContext(this: HTMLCanvasElement, kind: string, ...more: unknown[]) {
        return kind.startsWith('webgl') ? null : (usual as (...a: unknown[]) => unknown).call(this, kind, ...more);
      },
    });
  });
  await page.goto(`file://${join(folder, 'page.html')}`);
  await expect(page.locator('html')).toHaveAttribute('data-drawn', 'canvas');
  await page.mouse.move(1, H / 2);
  await expect.poll(async () => Number((await page.locator('html').getAttribute('data-eye'))!.split(' ')[0])).toBeCloseTo(2 / W - 1, 3);
  await frames(page, 2);
  const { red, blue } = await middles(page);
  // fewer pixels are drawn
  expect(Math.abs(red - seenAt(facts, 200, 180, 1 / 2, -facts.aside, 0).x)).toBeLessThan(1.5);
  expect(Math.abs(blue - seenAt(facts, 460, 180, 1 / 20, -facts.aside, 0).x)).toBeLessThan(1.5);
  await context.close();
});

test('the page is tried before it is saved, and saved as one file', async ({ page }) => {
  test.setTimeout(240_000);
  await openShot(page, '05 Dunes');
  await chapter(page, 'Output').click();
  await page.getByRole('textbox', { name: 'Words for who does not see it' }).fill('Dunes in the morning');
  await typeValue(page, 'Longer side', '800');
  await page.getByRole('button', { name: 'Try it' }).click();
  const inside = page.frameLocator('iframe[title="The page as it is saved"]');
  await expect(inside.locator('html')).toHaveAttribute('data-drawn', 'webgl', { timeout: 90_000 });
  await expect(inside.getByRole('img', { name: 'Dunes in the morning' })).toBeVisible();
  await page.getByRole('button', { name: 'Close' }).click();
  const [download] = await Promise.all([
    page.waitForEvent('download', { timeout: 90_000 }),
    page.getByRole('button', { name: 'Export page' }).click(),
  ]);
  expect(download.suggestedFilename()).toBe('05 Dunes.html');
  const text = readFileSync(await download.path(), 'utf8');
  expect(text.length).toBeLessThan(3e6);
  expect(text).toContain('aria-label="Dunes in the morning"');
  expect(text).not.toContain('http');
});

test('a clip goes out as a page that loops and moves with the pointer', async ({ page, browser }) => {
  test.setTimeout(240_000);
  await openShot(page, '04 Crossing', true);
  // a few frames are enough
  const playhead = page.getByRole('slider', { name: 'Playhead' });
  await playhead.focus();
  await page.keyboard.press('Home');
  for (let k = 0; k < 7; k++) await page.keyboard.press('ArrowRight');
  await page.keyboard.press(']');
  await chapter(page, 'Output').click();
  await page.getByRole('combobox', { name: 'Format', exact: true }).first().click();
  await page.getByRole('option', { name: 'Page that moves' }).click();
  const strength = page.getByRole('textbox', { name: 'Strength', exact: true }).first();
  await strength.fill('4 %');
  await strength.press('Enter');
  await page.getByRole('textbox', { name: 'Words for who does not see it' }).first().fill('A deckhand at the rail');
  const [download] = await Promise.all([
    page.waitForEvent('download', { timeout: 150_000 }),
    page.getByRole('button', { name: 'Export clip' }).click(),
  ]);
  expect(download.suggestedFilename()).toBe('04 Crossing.html');
  const folder = await mkdtemp(join(tmpdir(), 'page-'));
  await download.saveAs(join(folder, 'clip.html'));
  const context = await browser.newContext({ viewport: { width: W, height: H } });
  const asked: string[] = [];
  context.on('request', (r) => asked.push(r.url()));
  const shown = await context.newPage();
  await shown.goto(`file://${join(folder, 'clip.html')}`);
  const root = shown.locator('html');
  await expect(root).toHaveAttribute('data-drawn', 'clip');
  await expect(shown.getByLabel('A deckhand at the rail')).toBeAttached();
  const time = () => shown.evaluate(() => document.querySelector('video')!.currentTime);
  const first = await time();
  await expect.poll(time).not.toBe(first);
  await shown.evaluate(() => document.querySelector('video')!.pause());
  await shown.mouse.move(1, H / 2);
  await expect.poll(async () => Number((await root.getAttribute('data-eye'))!.split(' ')[0])).toBeLessThan(-0.99);
  const left = await sharp(await shown.screenshot())
    .raw()
    .toBuffer();
  await shown.mouse.move(W - 1, H / 2);
  await expect.poll(async () => Number((await root.getAttribute('data-eye'))!.split(' ')[0])).toBeGreaterThan(0.99);
  const right = await sharp(await shown.screenshot())
    .raw()
    .toBuffer();
  expect(differing(left, right)).toBeGreaterThan(0.02);
  expect(asked.filter((url) => !/^(data|blob|file):/.test(url))).toEqual([]);
  await context.close();
});
