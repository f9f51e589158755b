import { expect, test as fresh } from '@playwright/test';
import { strToU8, zipSync } from 'fflate';
import sharp from 'sharp';
import { newProject, newShot } from '../src/core/document/defaults';
import { sha256 } from '../src/formats/bytes/sha256';
import { barriers, chapter, clickPicture, field, frames, makePicture, openShelf, openShot, pictureReady, still, typeValue, viewer } from './helpers';
import { test } from './prepared';
import { writeJson } from '../src/core/values/endless';

fresh('what is served says what may be loaded, and takes nothing', async ({ request }) => {
  const page = await request.get('/');
  const headers = page.headers();
  const policy = headers['content-security-policy']!;
  for (const part of ["frame-ancestors 'none'", "object-src 'none'", "'wasm-unsafe-eval'", "default-src 'self'"]) expect(policy).toContain(part);
  expect(policy.replace("'wasm-unsafe-eval'", '')).not.toContain('unsafe-eval');
  expect(policy).not.toMatch(/https?:|\*/);
  expect(/script-src [^;]*/.exec(policy)![0]).not.toContain('unsafe-inline');
  expect(headers).toMatchObject({
    'x-content-type-options': 'nosniff',
    'referrer-policy': 'no-referrer',
    'cross-origin-opener-policy': 'same-origin',
  });
  expect(headers['x-powered-by']).toBeUndefined();
  // workers reach live devices of this machine, and nothing else
  const script = /src="(\/_next\/static\/[^"]+\.js)"/.exec(await page.text())![1]!;
  const reaches = /connect-src [^;]*/.exec((await request.get(script)).headers()['content-security-policy']!)![0];
  expect(reaches).toBe("connect-src 'self' blob: data: ws://localhost:* ws://127.0.0.1:*");
  // another nonce for everybody
  expect((await request.get('/')).headers()['content-security-policy']).not.toBe(policy);
  expect((await request.get('/_next/image?url=%2Fdemo%2Fdunes.jpg&w=640&q=75')).status()).toBe(404);
  // a page that says there is none has a policy too, whatever its name
  for (const path of ['/nothing.html', '/nothing', '/a/b.c']) {
    const none = await request.get(path);
    expect([none.status(), none.headers()['content-security-policy']?.includes('script-src')]).toEqual([404, true]);
  }
  for (const path of ['/', '/shot', '/demo/demo.json', '/offline.js'])
    for (const method of ['POST', 'PUT', 'DELETE', 'TRACE']) expect((await request.fetch(path, { method })).status()).toBe(405);
  for (const path of ['/demo/demo.json', '/offline.js', '/models/estimate.bin']) {
    const file = await request.get(path);
    expect([file.status(), file.headers()['x-content-type-options']]).toEqual([200, 'nosniff']);
  }
});

fresh('after the first visit everything opens without network', async ({ page, context }) => {
  const wrong: string[] = [];
  page.on('console', (m) => m.type() === 'error' && wrong.push(m.text()));
  await openShot(page);
  expect(wrong).toEqual([]);
  await page.waitForFunction(async () => (await navigator.serviceWorker.ready).active?.state === 'activated');
  const manifest = await (await page.request.get('/manifest.webmanifest')).json();
  for (const icon of manifest.icons) expect((await page.request.get(icon.src)).status()).toBe(200);
  await page.reload();
  await pictureReady(page);
  await context.setOffline(true);
  await page.reload();
  await pictureReady(page);
  await page.goto('/');
  await expect(page.getByText('02 Quay lamp')).toBeVisible();
  await page.getByRole('link', { name: '05 Dunes' }).click();
  await pictureReady(page);
  await context.setOffline(false);
});

fresh('an estimate, a face and an own picture need no network after a visit of the shelf alone', async ({ page, context }) => {
  await openShelf(page);
  await page.waitForFunction(async () => (await navigator.serviceWorker.ready).active?.state === 'activated');
  await context.setOffline(true);
  await page.goto('/');
  const loops = page.getByRole('region', { name: 'What can be done' }).locator('img');
  await expect.poll(() => loops.evaluateAll((all) => all.map((i) => (i as HTMLImageElement).naturalWidth))).toEqual([360, 360, 360]);
  await page.getByTestId('bring-in').setInputFiles({ name: 'harbour.png', mimeType: 'image/png', buffer: await makePicture('png') });
  await expect(page).toHaveURL(/\/shot\?/);
  await pictureReady(page);
  await page.keyboard.press('2');
  await expect(page.getByRole('list', { name: 'Depth layers' }).getByText('fine')).toBeVisible({ timeout: 60_000 });
  await page.getByRole('button', { name: 'Add layer' }).click();
  await page.getByRole('menuitem', { name: /Head form/ }).click();
  await page.getByRole('button', { name: 'Fit to the face' }).click();
  await expect(page.getByText(/No face was found/)).toBeVisible({ timeout: 60_000 });
  await expect(page.getByText(/could not be fetched/)).toHaveCount(0);
  await context.setOffline(false);
});

test('a worker that dies is replaced, and the picture follows the next change', async ({ page }) => {
  await openShot(page);
  const before = page.workers().length;
  // one for the picture, one for errands: on two processors a third begins with its first long work
  expect(before).toBeGreaterThanOrEqual(2);
  for (const worker of page.workers()) await worker.evaluate(() => self.close()).catch(() => undefined);
  await expect.poll(() => page.workers().length).toBeGreaterThanOrEqual(before);
  await typeValue(page, 'Distance', '12 m');
  await page.evaluate(() => performance.clearMeasures());
  await typeValue(page, 'Distance', '4 m');
  await page.waitForFunction(() => performance.getEntriesByName('ombrage-full').length > 0);
  await expect(viewer(page)).toHaveAttribute('data-preview', /^full/);
  await expect(page.getByText('ended twice without an answer')).toHaveCount(0);
  // it is said
  await expect(page.getByText('A computation stopped answering and was started again.')).toBeVisible();
});

test('a project deleted in another tab is not saved into the bin: it can be taken back', async ({ page, context }) => {
  await openShot(page);
  const other = await context.newPage();
  await openShelf(other);
  await other.getByRole('button', { name: 'Delete project Slack Water' }).click();
  const question = page.getByText('This project was deleted in another tab.');
  await expect(question).toBeVisible();
  await typeValue(page, 'Distance', '7 m');
  await expect(page.getByTestId('save-state')).toHaveText('not saved');
  // it stays in sight: there is no cross on it
  await expect(page.getByRole('button', { name: 'Close this message' })).toHaveCount(0);
  await page.getByRole('button', { name: 'Take it back' }).click();
  await expect(question).toHaveCount(0);
  await expect(page.getByTestId('save-state')).toHaveText(/^saved/);
  await page.reload();
  await pictureReady(page);
  await expect(field(page, 'Distance')).toHaveValue('7.00 m');
});

fresh('two tabs that come first at once hold the demo once', async ({ page, context }) => {
  const other = await context.newPage();
  await Promise.all([page.goto('/'), other.goto('/')]);
  await expect(page.getByText('02 Quay lamp')).toBeVisible();
  await expect(other.getByText('02 Quay lamp')).toBeVisible();
  await page.reload();
  await expect(page.getByText('02 Quay lamp')).toHaveCount(1);
});

test('dragging a stake slowly is one step of undo, and two quick drags are two', async ({ page }) => {
  await openShot(page);
  await chapter(page, 'Calibrate').click();
  await clickPicture(page, 0.4, 0.7);
  const stake = page.getByRole('button', { name: /^Stake 1 at/ });
  const drag = async (dx: number, pace: number): Promise<void> => {
    const box = (await stake.boundingBox())!;
    await page.mouse.move(box.x + 9, box.y + 7);
    await page.mouse.down();
    for (let k = 1; k <= 3; k++) {
      await page.mouse.move(box.x + 9 + (dx * k) / 3, box.y + 7);
      await frames(page, pace);
    }
    await page.mouse.up();
  };
  const x = async (): Promise<number> => Math.round((await stake.boundingBox())!.x);
  const first = await x();
  await drag(60, 84);
  const second = await x();
  await page.keyboard.press('Control+z');
  await expect.poll(x).toBe(first);
  await page.keyboard.press('Control+Shift+z');
  await expect.poll(x).toBe(second);
  await drag(30, 1);
  await drag(30, 1);
  await page.keyboard.press('Control+z');
  await expect.poll(async () => Math.abs((await x()) - second - 30)).toBeLessThanOrEqual(2);
  await page.keyboard.press('Control+z');
  await expect.poll(x).toBe(second);
});

fresh('a project with what is not known here, and with wrong values, opens; what it holds is kept', async ({ page }) => {
  await openShelf(page);
  const plate = new Uint8Array(await makePicture('png'));
  const hash = await sha256(plate);
  const shot = newShot({ sha256: hash, name: 'coast.png', width: 480, height: 320, bits: 8, hfovFromFile: null });
  const project = JSON.parse(writeJson({ ...newProject('From elsewhere'), shots: [shot] }));
  const { settings } = project.shots[0];
  settings.effects.push({ id: 'x', kind: 'halo', on: true, values: {}, drives: {} });
  settings.layers.push({ id: 'y', kind: 'sonar', name: 'Sonar pass', values: {} });
  settings.effects[0].values.focus = 'far away';
  const file = zipSync({ 'project.json': strToU8(JSON.stringify(project)), [`media/${hash}`]: plate });
  await page.getByTestId('bring-in').setInputFiles({ name: 'elsewhere.ombrage', mimeType: 'application/zip', buffer: Buffer.from(file) });
  await expect(page).toHaveURL(/\/shot\?/);
  await expect(page.getByText('elsewhere.ombrage was taken in with changes.')).toBeVisible();
  await pictureReady(page);
  await expect(field(page, 'Distance')).toHaveValue('2.00 m');
  await page
    .getByRole('list', { name: 'Frame effects, in order' })
    .getByRole('button', { name: /Unknown: halo/ })
    .click();
  await expect(page.getByText('is not known to this version of Ombrage')).toBeVisible();
  await page.keyboard.press('2');
  await expect(page.getByRole('list', { name: 'Depth layers' }).getByText('Sonar pass')).toBeVisible();
});

fresh('a picture that is dropped is in focus by itself, says so, and a click moves the focus', async ({ page }) => {
  await openShelf(page);
  await page.getByTestId('bring-in').setInputFiles({ name: 'harbour.png', mimeType: 'image/png', buffer: await makePicture('png', 960, 640) });
  await expect(page.getByText(/^In focus: [\d.]+ m\.$/)).toBeVisible();
  await pictureReady(page);
  const focus = await field(page, 'Distance').inputValue();
  expect(focus).not.toBe('2.00 m');
  // nobody has done anything yet
  await expect(page.getByRole('button', { name: 'Undo' })).toBeDisabled();
  const box = (await viewer(page).boundingBox())!;
  await page.mouse.click(box.x + box.width * 0.7, box.y + box.height * 0.3);
  await expect(field(page, 'Distance')).not.toHaveValue(focus);
  await expect(page.getByRole('button', { name: 'Undo' })).toBeEnabled();
});

fresh('a WebP that is damaged inside is refused, however it was damaged', async ({ page }) => {
  await openShelf(page);
  const noise = Buffer.from(Uint8Array.from({ length: 120 * 80 * 3 }, (_, i) => ((i * 2654435761) >>> 13) & 255));
  const whole = await sharp(noise, { raw: { width: 120, height: 80, channels: 3 } })
    .webp({ lossless: true })
    .toBuffer();
  const middle = [Math.floor(whole.length * 0.4), Math.floor(whole.length * 0.6)] as const;
  for (const [name, bytes] of [
    ['zeros', Buffer.from(whole).fill(0, ...middle)],
    ['ones', Buffer.from(whole).fill(255, ...middle)],
    ['rest', Buffer.from(whole).fill(0, middle[0])],
  ] as const) {
    await page.getByTestId('bring-in').setInputFiles({ name: `${name}.webp`, mimeType: 'image/webp', buffer: bytes });
    await expect(page.getByText(`${name}.webp is damaged: its pixels cannot be decoded whole.`)).toBeVisible();
  }
  await page.getByTestId('bring-in').setInputFiles({ name: 'whole.webp', mimeType: 'image/webp', buffer: whole });
  await expect(page).toHaveURL(/\/shot\?/);
});

test('nothing overlaps or leaves the window, however small it is', async ({ page }) => {
  await openShot(page);
  // the last is a window of 1280x800 at 200 %
  for (const [width, height] of [
    [1024, 700],
    [800, 600],
    [640, 400],
  ] as const) {
    await page.setViewportSize({ width, height });
    for (const name of ['Depth', 'Effects', 'Output']) {
      await chapter(page, name).click();
      if (width < 700) await page.getByRole('button', { name: 'More' }).click();
      await page.getByRole('group', { name: 'View', exact: true }).getByRole('button', { name: 'Depth' }).click();
      if (width < 700) await page.keyboard.press('Escape');
      const { boxes, right } = await page.evaluate(() => ({
        right: window.innerWidth,
        boxes: Array.from(
          document.querySelectorAll<HTMLElement>('header button, header a, [role="toolbar"] button, aside h2, aside h2 ~ button'),
          (e) => {
            const r = e.getBoundingClientRect();
            return { text: e.textContent ?? e.getAttribute('aria-label') ?? '', left: r.left, right: r.right, top: r.top, bottom: r.bottom };
          },
        ).filter((b) => b.right > b.left),
      }));
      const meet = (a: (typeof boxes)[number], b: (typeof boxes)[number]): boolean =>
        Math.min(a.right, b.right) - Math.max(a.left, b.left) > 1 && Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top) > 1;
      expect(
        boxes.filter((a) => a.right > right + 0.5).map((a) => a.text),
        `${name} at ${width}x${height}`,
      ).toEqual([]);
      expect(
        boxes.flatMap((a, i) =>
          boxes
            .slice(i + 1)
            .filter((b) => meet(a, b))
            .map((b) => `${a.text} | ${b.text}`),
        ),
        `${name} at ${width}x${height}`,
      ).toEqual([]);
    }
    if (width < 1000) {
      await page.getByRole('button', { name: 'More' }).click();
      await expect(page.getByRole('button', { name: 'Checks' })).toBeVisible();
      await page.keyboard.press('Escape');
    }
  }
});

test('the Tab key goes straight to the picture, the panel and the rail', async ({ page }) => {
  await openShot(page);
  const focused = (selector: string): Promise<boolean> => page.evaluate((s) => document.activeElement?.closest(s) !== null, selector);
  for (const [tabs, where] of [
    [1, '[data-testid="viewer"]'],
    [2, 'aside'],
    [3, '[data-testid="rail"]'],
  ] as const) {
    await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
    await page.mouse.click(640, 20);
    await page.evaluate(() => (document.querySelector('nav[aria-label="Go to"]') as HTMLElement).setAttribute('tabindex', '-1'));
    await page.evaluate(() => (document.querySelector('nav[aria-label="Go to"]') as HTMLElement).focus());
    for (let k = 0; k < tabs; k++) await page.keyboard.press('Tab');
    await page.keyboard.press('Enter');
    expect(await focused(where)).toBe(true);
  }
});

fresh('a long message can be closed, however long it is', async ({ page }) => {
  await openShelf(page);
  await page
    .getByTestId('bring-in')
    .setInputFiles({ name: `${'very-long-name-'.repeat(14)}.png`, mimeType: 'image/png', buffer: Buffer.from('no picture') });
  const close = page.getByRole('button', { name: 'Close this message' });
  await close.click();
  await expect(close).toHaveCount(0);
});

test('every menu is free of accessibility faults while it is open', async ({ page }) => {
  await openShot(page);
  const open = [
    ['Checks', 'Effects', 'menu'],
    ['Takes', 'Effects', 'menu'],
    ['Shots', 'Effects', 'menu'],
    ['Add effect', 'Effects', 'dialog'],
    ['Looks', 'Effects', 'dialog'],
    ['Add layer', 'Depth', 'menu'],
    [/^ruler: /, 'Depth', 'menu'],
  ] as const;
  for (const [name, where, role] of open) {
    await chapter(page, where).click();
    await page
      .getByRole('button', { name, exact: typeof name === 'string' })
      .first()
      .click();
    await expect(page.getByRole(role)).toBeVisible();
    await still(page);
    // what lies behind it is looked at chapter by chapter
    expect(await barriers(page, `[role="${role}"]`), String(name)).toEqual([]);
    await page.keyboard.press('Escape');
    await expect(page.getByRole(role)).toHaveCount(0);
  }
});
