import type { Locator, Page } from '@playwright/test';
import { barriers, chapter, field, frames, OFTEN, openShot, pictureReady, viewer } from './helpers';
import { expect, test } from './prepared';

const boxOf = async (of: Locator): Promise<{ x: number; y: number; width: number; height: number }> => (await of.boundingBox())!;

const timeOf = async (page: Page): Promise<number> =>
  Number(
    /frame (\d+)/.exec(
      (await page
        .getByTestId('time')
        .textContent({ timeout: 2000 })
        .catch(() => '')) ?? '',
    )?.[1] ?? -1,
  );

test('a picture with a timeline takes the whole width of its column, and everything else is in sight', async ({ page }) => {
  for (const [width, height, least] of [
    [1280, 800, 856],
    [1024, 700, 640],
  ] as const) {
    await page.setViewportSize({ width, height });
    await openShot(page, '02 Quay lamp', true);
    const view = await boxOf(viewer(page));
    // the picture is as wide as its column where that is high enough for it
    expect(Math.min(view.width, (view.height * 16) / 9)).toBeGreaterThanOrEqual(least);
    for (const part of ['rail', 'timeline']) {
      const box = await boxOf(page.getByTestId(part));
      expect(box.height).toBeGreaterThan(60);
      expect(box.y + box.height).toBeLessThanOrEqual(height);
    }
    const bar = await page.getByRole('toolbar', { name: 'Playing' }).evaluate((e) => e.scrollWidth - e.clientWidth);
    expect(bar).toBe(0);
  }
});

test('no words lie over a lane or a track, folded or not; what is folded away unfolds', async ({ page }) => {
  await openShot(page, '02 Quay lamp', true);
  const covered = (): Promise<string[]> =>
    page.evaluate(() => {
      const meets = (a: DOMRect, b: DOMRect): boolean =>
        Math.min(a.right, b.right) - Math.max(a.left, b.left) > 1 && Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top) > 1;
      const drawn = [
        ...document.querySelectorAll(
          '[data-testid=rail] [data-lane] path, [data-testid=rail] [data-lane] rect, [data-testid=timeline] svg:not(.MuiSvgIcon-root) path',
        ),
      ];
      const words = [
        ...document.querySelectorAll(
          '[data-testid=rail] button, [data-testid=rail] text, [data-testid=timeline] button, [data-testid=timeline] text',
        ),
      ];
      return words
        .filter(
          (w) =>
            w.textContent !== '' &&
            drawn.some((d) => d.getAttribute('fill') !== 'transparent' && meets(w.getBoundingClientRect(), d.getBoundingClientRect())),
        )
        .filter((w) => !w.closest('[role=toolbar]') && !(w.tagName === 'text' && w.previousElementSibling?.tagName === 'line'))
        .map((w) => w.textContent ?? '');
    });
  expect(await covered()).toEqual([]);
  const rail = page.getByTestId('rail');
  await expect(rail.locator('[data-lane="folded"]')).toHaveCount(3);
  await rail.getByRole('button', { name: /more$/ }).click();
  await expect(rail.locator('[data-lane="folded"]')).toHaveCount(0);
  // a click on a name takes its lane in hand
  await rail.getByRole('button', { name: 'Fog' }).click();
  await expect(rail.getByRole('button', { name: /^Fog/, pressed: true })).toBeVisible();
  const timeline = page.getByTestId('timeline');
  await expect(timeline.getByRole('slider', { name: /begins$/ })).toHaveCount(0);
  await timeline.getByRole('button', { name: /more$/ }).click();
  await expect(timeline.getByRole('slider', { name: /begins$/ })).toBeVisible();
  expect(await covered()).toEqual([]);
  expect(await barriers(page)).toEqual([]);
});

test('a number is dragged anywhere on its row but on the value, ten times finer with Shift; a click on the track goes there', async ({ page }) => {
  await openShot(page);
  const value = async (): Promise<number> => parseFloat(await field(page, 'Strength').inputValue());
  const row = page.locator('aside [data-marked]', { has: page.getByText('Strength', { exact: true }) });
  const box = await boxOf(row);
  expect(box.height).toBeLessThanOrEqual(30);
  const track = await boxOf(row.locator('.MuiSlider-root'));
  expect(track.width).toBeGreaterThanOrEqual(230);
  const drag = async (x: number, dx: number): Promise<number> => {
    const before = await value();
    await page.mouse.move(x, box.y + 9);
    await page.mouse.down();
    await page.mouse.move(x + dx, box.y + 9, { steps: 6 });
    await page.mouse.up();
    await frames(page);
    return (await value()) - before;
  };
  const label = await boxOf(page.locator('aside label', { hasText: /^Strength$/ }));
  const far = await drag(label.x + 4, 60);
  // of a track so long, from 0 to 300 %
  expect(far).toBeGreaterThan((0.8 * 60 * 300) / track.width);
  expect(far).toBeLessThan((1.1 * 60 * 300) / track.width);
  await page.keyboard.down('Shift');
  const fine = await drag(label.x + 4, 60);
  await page.keyboard.up('Shift');
  expect(fine).toBeGreaterThan(0);
  expect(fine).toBeLessThan(far / 7);
  const number = await boxOf(field(page, 'Strength'));
  expect(await drag(number.x + number.width / 2, -60)).toBe(0);
  await page.mouse.click(track.x + track.width * 0.75, track.y);
  await expect.poll(value).toBeCloseTo(225, -1);
  // two drags and a click are three steps
  for (let k = 0; k < 3; k++) await page.getByRole('button', { name: 'Undo' }).click();
  expect(await value()).toBe(100);
});

test('borders are dragged, moved by keys, put back by a double click, and remembered', async ({ page }) => {
  await openShot(page, '02 Quay lamp', true);
  const panel = page.getByRole('separator', { name: 'Between the picture and the panel' });
  const below = page.getByRole('separator', { name: 'Between the picture and what lies below' });
  const size = async (of: Locator): Promise<number> => Number(await of.getAttribute('aria-valuenow'));
  const usual = await size(panel);
  const at = await boxOf(panel);
  await page.mouse.move(at.x + 3, at.y + 60);
  await page.mouse.down();
  await page.mouse.move(at.x - 57, at.y + 60, { steps: 4 });
  await page.mouse.up();
  expect(await size(panel)).toBe(usual + 60);
  expect((await boxOf(page.getByRole('complementary', { name: 'Panel' }))).width).toBeCloseTo(usual + 60, -1);
  const natural = await size(below);
  await below.focus();
  await page.keyboard.press('Shift+ArrowUp');
  await expect.poll(() => size(below)).toBe(natural + 48);
  // the room goes to the picture's depths
  expect((await boxOf(page.getByTestId('rail'))).height).toBeGreaterThan(140);
  await page.reload();
  await pictureReady(page);
  expect([await size(panel), await size(below)]).toEqual([usual + 60, natural + 48]);
  await below.dblclick();
  await panel.dblclick();
  await expect.poll(() => size(panel)).toBe(usual);
  await expect.poll(() => size(below)).toBe(natural);
});

test('the picture alone plays, and Escape brings everything back', async ({ page }) => {
  await openShot(page, '04 Crossing', true);
  await viewer(page).getByRole('application').focus();
  await page.keyboard.press('p');
  await expect(page.getByRole('navigation', { name: 'Chapters' })).toHaveCount(0);
  await expect(page.getByTestId('rail')).toHaveCount(0);
  const view = await boxOf(viewer(page));
  expect(page.viewportSize()).toEqual({ width: view.width, height: view.height });
  // nothing lies over it, wherever the pointer is
  await page.mouse.move(view.width / 2, view.height / 2);
  await expect(page.getByTestId('probe')).toHaveCount(0);
  expect(await barriers(page)).toEqual([]);
  await page.keyboard.press('Escape');
  await expect(page.getByRole('navigation', { name: 'Chapters' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
});

test('Space plays after a click on a button, and presses one that was reached by key', async ({ page }) => {
  await openShot(page, '04 Crossing', true);
  const switches = page.getByRole('group', { name: 'View', exact: true });
  await switches.getByRole('button', { name: 'Depth' }).click();
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'Pause' })).toBeVisible();
  await expect(switches.getByRole('button', { name: 'Depth', pressed: true })).toBeVisible();
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
  await page.keyboard.press('Shift+Tab');
  await page.keyboard.press('Space');
  await expect(switches.getByRole('button', { name: 'Picture', pressed: true })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
});

test('a peek while it plays is at the frame that plays', async ({ page }) => {
  await openShot(page, '04 Crossing', true);
  await viewer(page).getByRole('application').focus();
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'Pause' })).toBeVisible();
  await expect.poll(() => timeOf(page), { intervals: OFTEN }).toBeGreaterThan(2);
  await page.keyboard.down('q');
  await expect(page.locator('[data-testid=viewer] canvas[data-showing]')).toHaveAttribute('data-showing', 'no');
  const seen = (): Promise<number> =>
    page.evaluate(() => {
      const canvas = document.querySelector<HTMLCanvasElement>('[data-testid=viewer] canvas')!;
      const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height);
      let hash = 0;
      for (let i = 0; i < data.length; i += 4) hash = (Math.imul(hash, 31) + data[i]!) | 0;
      return hash;
    });
  // nothing rests while it plays: the plate is seen to go on
  const hashes = new Set<number>();
  await expect.poll(async () => hashes.add(await seen()).size, { intervals: OFTEN }).toBeGreaterThan(3);
  await page.keyboard.up('q');
  await page.keyboard.press('Space');
});

test('Depth opens on depth, and each chapter is seen as it was seen last', async ({ page }) => {
  await openShot(page);
  const shown = (name: string): Locator => page.getByRole('group', { name: 'View', exact: true }).getByRole('button', { name, pressed: true });
  await expect(shown('Picture')).toBeVisible();
  await chapter(page, 'Depth').click();
  await expect(shown('Overlay')).toBeVisible();
  await page.getByRole('group', { name: 'View', exact: true }).getByRole('button', { name: 'Depth' }).click();
  await chapter(page, 'Effects').click();
  await expect(shown('Picture')).toBeVisible();
  await chapter(page, 'Depth').click();
  await expect(shown('Depth')).toBeVisible();
  await page.reload();
  await pictureReady(page);
  await chapter(page, 'Effects').click();
  await expect(shown('Picture')).toBeVisible();
});

test('every effect that can be added shows what it does to this very shot', async ({ page }) => {
  await openShot(page);
  await page.getByRole('button', { name: 'Add effect' }).click();
  const pictures = page.getByRole('dialog').locator('canvas');
  const count = await pictures.count();
  expect(count).toBeGreaterThan(20);
  await expect(page.getByRole('dialog').locator('canvas[data-made]')).toHaveCount(count, { timeout: 60_000 });
  const hashes = await pictures.evaluateAll((all) =>
    all.map((c) => {
      const { data } = (c as HTMLCanvasElement).getContext('2d')!.getImageData(0, 0, (c as HTMLCanvasElement).width, (c as HTMLCanvasElement).height);
      let hash = 0;
      for (const v of data) hash = (Math.imul(hash, 31) + v) | 0;
      return hash;
    }),
  );
  // no two of them are alike, but for those that act over time alone
  expect(new Set(hashes).size).toBeGreaterThan(count - 4);
  await page.getByRole('textbox', { name: 'Find an effect' }).fill('fog');
  await page.getByRole('textbox', { name: 'Find an effect' }).fill('');
  // those that come back have their picture at once
  await expect(page.getByRole('dialog').locator('canvas[data-made]')).toHaveCount(count);
});
