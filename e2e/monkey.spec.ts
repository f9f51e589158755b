import type { Page } from '@playwright/test';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { render } from '../headless/renderVerb';
import { newLayer, newProject, newShot } from '../src/core/document/defaults';
import { isTimed } from '../src/core/document/driven';
import { seededRandom } from '../src/core/random';
import { packProject } from '../src/formats/project/projectFile';
import { sha256 } from '../src/formats/bytes/sha256';
import { storedZip } from '../src/formats/bytes/zip';
import { randomWork } from '../src/testing/randomWork';
import { chapter, frames, openShelf, openShot, pictureReady, saved, viewer } from './helpers';
import { expect, test } from './prepared';

// Whatever is done, in whatever order and however fast, the picture at last is the one that the document asks for: that is what a freshly opened page
// shows, which begins with empty caches, and what the command line makes of the same project. `npm run monkey` does so five hundred times.

const RUNS = Number(process.env.MONKEY_RUNS ?? 5);
const RENDERED = Math.ceil(0.7 * RUNS);
const FIRST = Number(process.env.MONKEY_FIRST ?? 1);
const SHOTS = ['02 Quay lamp', '04 Crossing', '05 Dunes', '03 Figurehead', '01 Chart table'];

/** The pixels of the picture once it has come to rest: a quick look may follow a full one for a moment. */
async function rested(page: Page): Promise<{ readonly bytes: Buffer; readonly width: number }> {
  let last = '';
  for (let k = 0; k < 10; k++) {
    await pictureReady(page);
    await frames(page, 3);
    const now = await page.evaluate(() => {
      const canvas = document.querySelector<HTMLCanvasElement>('[data-testid="viewer"] canvas')!;
      const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height);
      let text = '';
      for (let i = 0; i < data.length; i += 30_000) text += String.fromCharCode(...data.subarray(i, i + 30_000));
      return `${canvas.width} ${btoa(text)}`;
    });
    if (now === last) break;
    last = now;
  }
  const [width, pixels] = last.split(' ');
  return { bytes: Buffer.from(pixels!, 'base64'), width: Number(width) };
}

/** Where two pictures differ by more than 1 of 255: how many values do, and by how much at the most. A colour counts as far as it covers: of what is hardly there a canvas keeps no colour. */
function difference(a: Uint8Array, b: Uint8Array): { readonly off: number; readonly most: number } {
  expect(a.length).toBe(b.length);
  let [off, most] = [0, 0];
  for (let i = 0; i < a.length; i++) {
    const covers = i % 4 === 3 ? 1 : Math.max(a[i | 3]!, b[i | 3]!) / 255;
    const d = covers * Math.abs(a[i]! - b[i]!);
    if (d > 1) off++;
    most = Math.max(most, d);
  }
  return { off, most };
}

function actsOn(page: Page, random: () => number): Record<string, () => Promise<unknown>> {
  const whole = (n: number): number => Math.floor(random() * n);
  const anywhere = async (): Promise<[number, number]> => {
    const box = (await viewer(page).boundingBox())!;
    return [box.x + box.width * (0.1 + 0.8 * random()), box.y + box.height * (0.1 + 0.8 * random())];
  };
  const press = async (times: number, keys: readonly string[]): Promise<void> => {
    for (let k = 0; k < times; k++) await page.keyboard.press(keys[whole(keys.length)]!);
  };
  const oneOf = async (selector: string, then: 'focus' | 'click'): Promise<boolean> => {
    const all = page.locator(selector);
    const n = await all.count();
    if (n === 0) return false;
    const one = all.nth(whole(n));
    await (then === 'focus' ? one.focus({ timeout: 2000 }) : one.click({ force: true, timeout: 2000 })).catch(() => undefined);
    return true;
  };
  const drag = async ([x, y]: [number, number], to: [number, number]): Promise<void> => {
    await page.mouse.move(x, y);
    await page.mouse.down();
    await page.mouse.move(...to, { steps: 4 });
    await page.mouse.up();
  };
  return {
    chapter: () => press(1, ['1', '2', '3', '4', '5', '6']),
    view: () => press(1, ['w', 'd', 'q', 'e', '+', '-', 'Escape']),
    undo: () => press(1 + whole(3), ['Control+z']),
    redo: () => press(1 + whole(2), ['Control+Shift+z']),
    drag: async () => drag(await anywhere(), await anywhere()),
    click: async () => page.mouse.click(...(await anywhere())),
    scrub: () => press(1 + whole(4), ['.', ',', 'End', 'Home']),
    play: async () => {
      await page.keyboard.press('Space');
      await frames(page, 4 + whole(20));
      await page.keyboard.press('Space');
    },
    switch: () => oneOf('aside input[type=checkbox]', 'click'),
    slide: async () => {
      const all = page.locator('aside input[type=range]');
      const n = await all.count();
      if (n === 0) return;
      const box = await all.nth(whole(n)).boundingBox();
      if (box && box.y > 60 && box.y < 780)
        await drag([box.x + box.width * random(), box.y + box.height / 2], [box.x + box.width * random(), box.y + 5]);
    },
    step: async () => (await oneOf('aside input[type=range]', 'focus')) && press(4, ['ArrowLeft', 'ArrowRight', 'PageUp', 'PageDown']),
    rail: async () => (await oneOf('[data-testid=rail] [role=slider]', 'focus')) && press(3, ['ArrowLeft', 'ArrowRight', 'PageUp', 'PageDown']),
    choose: () => oneOf('aside [role=listitem]', 'click'),
    layer: async () => {
      await page.keyboard.press('2');
      await page.getByRole('button', { name: 'Add layer' }).click();
      // not another estimate
      await page
        .getByRole('menuitem')
        .nth(2 + whole(5))
        .click();
    },
    effect: async () => {
      await page.keyboard.press('4');
      await page.getByRole('button', { name: 'Add effect' }).click();
      await oneOf('[role=menuitem], [role=dialog] button', 'click');
      await page.keyboard.press('Escape');
    },
    move: async () => {
      await page.keyboard.press('5');
      await page.getByRole('button', { name: 'Add move' }).click();
      const listed = page.locator('aside [role=listitem]');
      const before = await listed.count();
      const chosen = await oneOf('[role=dialog] button, .MuiPopover-paper button', 'click');
      // how far it may go is reckoned first, by workers that have other things to do as well
      if (chosen) await expect(listed).toHaveCount(before + 1);
      await page.keyboard.press('Escape');
    },
    take: async () => {
      await page.getByRole('button', { name: /^Take/ }).first().click();
      await oneOf('[role=menuitem]', 'click');
      await page.keyboard.press('Escape');
    },
    drive: async () => {
      await oneOf('aside [aria-label^="Drive of"]', 'click');
      await oneOf('[role=dialog] [role=radio]', 'click');
      await page.keyboard.press('Escape');
    },
  };
}

for (const seed of Array.from({ length: RUNS - RENDERED }, (_, k) => FIRST + k)) {
  const shot = SHOTS[seed % SHOTS.length]!;
  test(`after any acts a freshly opened page shows the same picture (seed ${seed}, ${shot})`, async ({ page }) => {
    const wrong: string[] = [];
    page.on('pageerror', (error) => wrong.push(error.message));
    page.on('console', (m) => m.type() === 'error' && /NaN|attribute/.test(m.text()) && wrong.push(m.text()));
    await openShot(page, shot, true);
    const random = seededRandom(seed);
    const acts = Object.entries(actsOn(page, random));
    const said: string[] = [];
    for (let k = 0; k < 10; k++) {
      const [name, act] = acts[Math.floor(random() * acts.length)]!;
      said.push(name);
      // a list that is open takes keys and clicks
      if ((await page.locator('.MuiPopover-root').count()) > 0) await page.keyboard.press('Escape');
      await act();
      await frames(page, 1 + Math.floor(6 * random()));
    }
    // as a fresh page begins: at the first frame, nothing in hand
    for (let k = 0; k < 3; k++) await page.keyboard.press('Escape');
    await page.mouse.move(640, 20);
    await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
    const pause = page.getByRole('button', { name: 'Pause' });
    if ((await pause.count()) > 0) await pause.click();
    await chapter(page, 'Effects').click();
    const alone = page.getByRole('button', { name: /^(Alone|Without)$/, pressed: true });
    if ((await alone.count()) > 0) await alone.first().click();
    await page.keyboard.press('Home');
    // rows in hand have their own heights, and a fresh page has none in hand
    await page.getByRole('separator', { name: 'Between the picture and what lies below' }).press('Home');
    await saved(page);
    const done = await rested(page);
    await page.reload();
    const fresh = await rested(page);
    expect(fresh.width).toBe(done.width);
    expect({ ...difference(done.bytes, fresh.bytes), acts: said.join(' ') }).toMatchObject({ off: 0 });
    expect(wrong).toEqual([]);
  });
}

const [W, H, FRAMES] = [192, 108, 6];

/** A thing that walks before a wall, and how near it is, frame by frame. */
async function walk(k: number): Promise<{ readonly picture: Buffer; readonly map: Buffer }> {
  const [rgb, grey] = [Buffer.alloc(W * H * 3), Buffer.alloc(W * H)];
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++) {
      const on = x >= 30 + 8 * k && x < 90 + 8 * k && y > 30 && y < 95;
      const grain = ((x * 7919 + y * 104729) % 41) - 20;
      rgb.set(on ? [190 + grain, 120, 60 + grain] : [60 + grain, 80 + (y >> 1), 110 + grain], (y * W + x) * 3);
      grey[y * W + x] = on ? 200 : 30 + (y >> 1);
    }
  const png = (data: Buffer, channels: 1 | 3): Promise<Buffer> =>
    sharp(data, { raw: { width: W, height: H, channels } })
      .png()
      .toBuffer();
  return { picture: await png(rgb, 3), map: await png(grey, 1) };
}

for (const seed of Array.from({ length: RENDERED }, (_, k) => FIRST + k))
  test(`a document by chance is exported as the command line renders it (seed ${seed})`, async ({ page }) => {
    const moving = seed % 2 === 1;
    const all = await Promise.all(Array.from({ length: FRAMES }, (_, k) => walk(k)));
    const file = async (of: 'picture' | 'map'): Promise<Blob> =>
      moving
        ? storedZip(all.map((w, k) => ({ name: `${of}${k}.png`, blob: new Blob([w[of] as Uint8Array<ArrayBuffer>]) })))
        : new Blob([all[0]![of] as Uint8Array<ArrayBuffer>]);
    const [plate, map] = [await file('picture'), await file('map')];
    const hashOf = async (blob: Blob): Promise<string> => sha256(new Uint8Array(await blob.arrayBuffer()));
    const clip = moving ? { clip: { frames: FRAMES, fps: 24 } } : {};
    const size = { width: W, height: H, ...clip };
    const shot = newShot({ sha256: await hashOf(plate), name: 'walk.png', bits: 8, hfovFromFile: 54, ...size });
    const layer = newLayer('imported', { sha256: await hashOf(map), name: 'map.png', ...size });
    shot.settings.layers = [{ ...layer, values: { ...layer.values, steady: 0 } }];
    shot.settings.time = { ...shot.settings.time, length: FRAMES };
    const work = randomWork(seed * 17, shot.settings, FRAMES);
    for (let k = 0; k < 24; k++) work.act();
    // what moves by itself, such as dust, does so where the shot has a time
    const settings = { ...work.settings, camera: { ...work.settings.camera, stereo: { ...work.settings.camera.stereo, on: false } } };
    const made = { ...shot, settings };
    const frame = isTimed(made) ? work.frame : 0;
    const packed = await packProject(
      { ...newProject('By chance'), shots: [made] },
      new Map([
        [await hashOf(plate), plate],
        [await hashOf(map), map],
      ]),
    );
    const folder = mkdtempSync(join(tmpdir(), 'ombrage-monkey-'));
    try {
      const project = join(folder, 'chance.ombrage');
      writeFileSync(project, new Uint8Array(await packed.arrayBuffer()));
      await openShelf(page);
      await page.getByTestId('bring-in').setInputFiles(project);
      await expect(page).toHaveURL(/\/shot\?/);
      await pictureReady(page);
      for (let k = 0; k < frame; k++) await page.keyboard.press('.');
      await pictureReady(page);
      await chapter(page, 'Output').click();
      const download = page.waitForEvent('download');
      await page.getByRole('button', { name: 'Export picture' }).click();
      const path = join(folder, 'page.png');
      await (await download).saveAs(path);
      await render(project, { shot: '1', frame: String(frame), out: join(folder, 'line.png') });
      const pixels = async (name: string): Promise<Buffer> =>
        sharp(join(folder, name)).toColourspace('srgb').ensureAlpha().raw({ depth: 'uchar' }).toBuffer();
      const found = difference(await pixels('page.png'), await pixels('line.png'));
      expect({
        ...found,
        frame,
        effects: settings.effects.filter((e) => e.on).map((e) => e.kind),
        moves: settings.camera.moves.map((m) => m.kind),
      }).toMatchObject({ off: 0 });
    } finally {
      rmSync(folder, { recursive: true, force: true });
    }
  });
