import type { Page } from '@playwright/test';
import { seededRandom } from '../src/core/random';
import { canvasFigures, frames, openShot, pictureReady, viewer } from './helpers';
import { expect, test } from './prepared';

// Whatever is done, in whatever order and however fast, the picture at last is the one that the document asks for: that is what a
// reload shows, which begins with empty caches.

const WHOLE = { x: 0, y: 0, w: 1, h: 1 };

/** The picture once it has come to rest: a quick look may follow a full one for a moment. */
async function rested(page: Page): Promise<Awaited<ReturnType<typeof canvasFigures>>> {
  for (let k = 0; k < 2; k++) {
    await pictureReady(page);
    await canvasFigures(page, WHOLE);
  }
  await pictureReady(page);
  return canvasFigures(page, WHOLE);
}

function actsOn(page: Page, random: () => number): (() => Promise<unknown>)[] {
  const whole = (n: number): number => Math.floor(random() * n);
  const anywhere = async (): Promise<[number, number]> => {
    const box = (await viewer(page).boundingBox())!;
    return [box.x + box.width * (0.1 + 0.8 * random()), box.y + box.height * (0.1 + 0.8 * random())];
  };
  const several = async (times: number, keys: readonly string[]): Promise<void> => {
    for (let k = 0; k < times; k++) await page.keyboard.press(keys[whole(keys.length)]!);
  };
  const oneOf = async (selector: string, then: 'focus' | 'click'): Promise<boolean> => {
    const all = page.locator(selector);
    const n = await all.count();
    if (n === 0) return false;
    const one = all.nth(whole(n));
    await (then === 'focus' ? one.focus() : one.click({ force: true }));
    return true;
  };
  return [
    () => several(1, ['1', '2', '3', '4', '5', '6']),
    () => several(1, ['w', 'd', 'q', 'e', '+', '-', 'Escape']),
    () => several(1 + whole(3), ['Control+z']),
    () => several(1 + whole(2), ['Control+Shift+z']),
    async () => {
      await page.mouse.move(...(await anywhere()));
      await page.mouse.down();
      for (let k = 0; k < 2; k++) await page.mouse.move(...(await anywhere()), { steps: 4 });
      await page.mouse.up();
    },
    async () => page.mouse.click(...(await anywhere())),
    async () => {
      await page.keyboard.press('2');
      const rows = page.getByRole('list', { name: 'Depth layers' }).getByRole('listitem');
      await rows.nth(whole(await rows.count())).click({ position: { x: 60, y: 12 } });
    },
    () => oneOf('aside input[type=checkbox]', 'click'),
    async () => (await oneOf('aside input[type=range], [role=slider]', 'focus')) && several(4, ['ArrowLeft', 'ArrowRight', 'PageUp', 'PageDown']),
    async () => {
      await page.keyboard.press('2');
      await page.getByRole('button', { name: 'Add layer' }).click();
      // not another estimate
      await page
        .getByRole('menuitem')
        .nth(2 + whole(5))
        .click();
    },
  ];
}

for (const [seed, shot] of [
  [1, '02 Quay lamp'],
  [2, '03 Figurehead'],
] as const)
  test(`after any acts a reload shows the same picture (${shot})`, async ({ page }) => {
    await openShot(page, shot);
    const random = seededRandom(seed);
    const acts = actsOn(page, random);
    for (let k = 0; k < 16; k++) {
      await acts[Math.floor(random() * acts.length)]!();
      await frames(page, 1 + Math.floor(6 * random()));
    }
    await page.keyboard.press('Escape');
    await page.mouse.move(640, 20);
    const done = await rested(page);
    expect(done.detail).toBeGreaterThan(0);
    await expect(page.getByTestId('save-state')).toContainText(/^saved/);
    await page.reload();
    expect((await rested(page)).hash).toBe(done.hash);
  });
