import type { Page } from '@playwright/test';
import { expect, test } from './prepared';
import { barriers, canvasFigures, clickPicture, field, openShot, pictureReady, saved, typeValue, OFTEN } from './helpers';

const add = async (page: Page, name: RegExp): Promise<void> => {
  await page.getByRole('button', { name: 'Add effect' }).click();
  await page.getByRole('dialog', { name: 'Effects that can be added' }).getByRole('button', { name }).click();
};
let shown = 'Checks';
/** Shows a check; the button carries the name of the one that is shown. */
const look = async (page: Page, name: string): Promise<void> => {
  await page.getByRole('button', { name: shown, exact: true }).click();
  await page
    .getByRole('menuitem', { name: new RegExp(`^${name}`) })
    .first()
    .click();
  shown = name;
};
/** Makes a change and waits for a picture that shows it. */
async function changes(page: Page, change: () => Promise<void>): Promise<void> {
  await pictureReady(page);
  const { hash } = await canvasFigures(page);
  await change();
  await expect.poll(async () => (await canvasFigures(page)).hash, { intervals: OFTEN }).not.toBe(hash);
}

test('fog, grade and grain are added from the list by kind, and each acts', async ({ page }) => {
  await openShot(page);
  await page.getByRole('button', { name: 'Delete Lens blur' }).click();
  await expect(page.getByText('No effect yet.')).toBeVisible();
  await changes(page, () => add(page, /^Fog/));
  await changes(page, () => typeValue(page, 'Visibility', '8 m'));
  await changes(page, () => page.getByRole('switch', { name: 'Lies low' }).click());
  // as it comes, a grade leaves the picture as it is
  await add(page, /^Grade/);
  await changes(page, () => typeValue(page, 'Exposure', '1'));
  await changes(page, () => add(page, /^Grain/));
  const inOrder = page.getByRole('list', { name: /effects, in order$/ });
  await expect(inOrder).toHaveCount(3);
  await changes(page, () => page.keyboard.press('ControlOrMeta+z'));
  await expect(inOrder).toHaveCount(2);
});

test('a reach limits an effect to distances; the matte is a view', async ({ page }) => {
  await openShot(page);
  await page.getByRole('button', { name: 'Delete Lens blur' }).click();
  await add(page, /^Grade/);
  await changes(page, () => typeValue(page, 'Saturation', '0'));
  await changes(page, () => page.getByRole('switch', { name: 'Within a reach' }).click());
  await changes(page, () => typeValue(page, 'To', '4 m'));
  // while an end of the reach is dragged nothing is lit up over the picture
  const end = (await page.getByTestId('rail').getByRole('slider', { name: 'Grade: To' }).boundingBox())!;
  await page.mouse.move(end.x + end.width / 2, end.y + 12);
  await expect(page.getByTestId('lit')).toBeVisible();
  await page.mouse.down();
  await page.mouse.move(end.x + end.width / 2 + 20, end.y + 12, { steps: 4 });
  await expect(page.getByTestId('lit')).toHaveCount(0);
  await page.mouse.up();
  await page.getByRole('button', { name: 'Pick To', exact: true }).click();
  await clickPicture(page, 0.5, 0.8);
  await expect(field(page, 'To')).not.toHaveValue('4.00 m');
  await changes(page, () => typeValue(page, 'To', '4 m'));
  await changes(page, () => page.getByRole('switch', { name: 'Outside it' }).click());
  await expect(page.getByTestId('rail').getByRole('slider', { name: /To/ })).toBeVisible();
  await expect(page.getByTestId('rail').getByRole('slider', { name: 'Grade: To' })).toBeVisible();
  await changes(page, () => look(page, 'Matte alone'));
  await changes(page, () => look(page, 'Matte over white'));
});

test('what is drawn moves from key to key, and marks the part of the picture in which an effect acts', async ({ page }) => {
  await openShot(page, '01 Chart table');
  await page
    .getByRole('button', { name: /^Delete/ })
    .first()
    .click();
  await page.keyboard.press('2');
  await page.getByRole('button', { name: 'Add layer' }).click();
  await page.getByRole('menuitem', { name: /^Shapes/ }).click();
  await page.getByRole('button', { name: 'Draw a shape' }).focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: 'Stop drawing' })).toBeFocused();
  await page.keyboard.press('Enter');
  await page.getByRole('switch', { name: 'Keys' }).click();
  const keys = page.getByTestId('layer-keys');
  await expect(keys).toContainText('One key, on frame 0');
  await page.getByRole('button', { name: 'To the last frame' }).click();
  const corner = page.getByRole('button', { name: 'Point 1 of Shape 1' });
  const there = (await corner.boundingBox())!;
  await corner.focus();
  for (let k = 0; k < 8; k++) await page.keyboard.press('Shift+ArrowLeft');
  await expect(keys).toContainText(/Keys on frames 0, \d+/);
  const moved = (await corner.boundingBox())!;
  expect(there.x - moved.x).toBeGreaterThan(10);
  // half the way there it has moved half as far
  const last = Number(/(\d+)\. Change/.exec((await keys.textContent())!)![1]);
  await page.getByRole('slider', { name: 'Playhead' }).focus();
  await page.keyboard.press('Home');
  for (let k = 0; k < Math.floor(last / 20); k++) await page.keyboard.press('PageUp');
  const at = Number(await page.getByRole('slider', { name: 'Playhead' }).getAttribute('aria-valuenow'));
  expect((there.x - (await corner.boundingBox())!.x) / (there.x - moved.x)).toBeCloseTo(at / last, 1);
  // its distance on the rail is that of the frame which is seen
  await typeValue(page, 'Distance', '0.6 m');
  const mark = page.getByTestId('rail').getByRole('slider', { name: 'Shape 1: distance' });
  await expect(mark).toHaveAttribute('aria-valuetext', /0\.6/);
  await page.getByRole('slider', { name: 'Playhead' }).focus();
  await page.keyboard.press('Home');
  await expect(mark).not.toHaveAttribute('aria-valuetext', /0\.6/);
  await page.getByRole('button', { name: 'Undo' }).click();
  // its pin is deleted on the timeline; undone, it is there again
  const pin = page.getByRole('slider', { name: `Shapes: key at frame ${last}` });
  await pin.focus();
  await page.keyboard.press('Delete');
  await expect(keys).toContainText('One key');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(pin).toBeVisible();
  // it marks where a grade acts, though its layer is off
  await page.getByRole('switch', { name: /^Shapes/ }).click();
  await page.keyboard.press('4');
  await add(page, /^Grade/);
  await changes(page, () => typeValue(page, 'Exposure', '-6'));
  const dark = (await canvasFigures(page, { x: 0.02, y: 0.02, w: 0.1, h: 0.1 })).mean;
  const acts = page.getByRole('combobox', { name: 'Acts' });
  await changes(page, async () => {
    await acts.click();
    await page.getByRole('option', { name: 'In Shapes' }).click();
  });
  expect((await canvasFigures(page, { x: 0.02, y: 0.02, w: 0.1, h: 0.1 })).mean).toBeGreaterThan(dark + 10);
  await changes(page, async () => {
    await acts.click();
    await page.getByRole('option', { name: 'All but Shapes' }).click();
  });
  expect((await canvasFigures(page, { x: 0.02, y: 0.02, w: 0.1, h: 0.1 })).mean).toBeCloseTo(dark, 0);
});

test('a distance for an effect is picked in the picture', async ({ page }) => {
  await openShot(page);
  await add(page, /^Fog/);
  await page.getByRole('button', { name: 'Pick its beginning in picture' }).click();
  await expect(page.getByText('Click where the fog should begin')).toBeVisible();
  await clickPicture(page, 0.5, 0.8);
  await expect(page.getByText('Click where the fog should begin')).toHaveCount(0);
  expect(await field(page, 'Starts at').inputValue()).not.toBe('0 m');
});

test('of many effects the lanes fold, and the chosen one stays open', async ({ page }) => {
  await openShot(page);
  for (const name of [/^Fog/, /^Grade/, /^Fog/, /^Grade/]) await add(page, name);
  for (const reach of [0, 1])
    await page
      .getByRole('list', { name: /^Surface effects/ })
      .getByRole('listitem')
      .nth(reach)
      .click();
  await pictureReady(page);
  const rail = page.getByTestId('rail');
  await expect(rail.locator('[data-lane="folded"]').first()).toBeVisible();
  expect(await barriers(page)).toEqual([]);
});

test('a subject is isolated by two clicks and its matte is seen; a lamp hangs where the picture is clicked, and is dragged', async ({ page }) => {
  await openShot(page, '03 Figurehead');
  await page.getByRole('button', { name: 'Add effect' }).click();
  // what is typed narrows the list down, Enter takes the first
  await page.getByRole('textbox', { name: 'Find an effect' }).fill('dims drains');
  await changes(page, () => page.keyboard.press('Enter'));
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await page.getByRole('button', { name: 'Pick near and far in picture' }).click();
  await clickPicture(page, 0.33, 0.75);
  await expect(page.getByText('Click its far side')).toBeVisible();
  await clickPicture(page, 0.86, 0.8);
  const to = Number((await field(page, 'To').inputValue()).replace(' m', ''));
  expect(Number((await field(page, 'From').inputValue()).replace(' m', ''))).toBeLessThan(to);
  expect(to).toBeGreaterThan(2.2);
  expect(to).toBeLessThan(5);
  const see = page.getByRole('group', { name: 'See' });
  await changes(page, () => see.getByRole('button', { name: 'Matte' }).click());
  await changes(page, () => see.getByRole('button', { name: 'White' }).click());
  await changes(page, () => see.getByRole('button', { name: 'Result' }).click());
  await changes(page, () => typeValue(page, 'Transparent', '100'));
  await page.getByRole('button', { name: 'Delete Isolate' }).click();

  await changes(page, () => add(page, /^Relight/));
  await changes(page, () => clickPicture(page, 0.2, 0.3));
  await expect(field(page, 'Right')).toHaveValue(/^−/);
  const lamp = page.getByRole('button', { name: /^Relight: lamp at/ });
  const box = (await lamp.boundingBox())!;
  const before = await field(page, 'Right').inputValue();
  await page.mouse.move(box.x + 11, box.y + 11);
  await page.mouse.down();
  await page.mouse.move(box.x + 111, box.y + 11, { steps: 5 });
  await page.mouse.up();
  await expect(field(page, 'Right')).not.toHaveValue(before);
  // by keys, and on the rail
  await changes(page, () => lamp.press('Shift+ArrowUp'));
  await changes(page, () => page.getByTestId('rail').getByRole('slider', { name: 'Relight: Distance' }).press('ArrowRight'));
  // what has no say is not shown
  await page.getByRole('combobox', { name: 'Light' }).click();
  await page.getByRole('option', { name: 'Picture' }).click();
  await expect(field(page, 'Right')).toHaveCount(0);
  await page.getByRole('button', { name: 'Choose picture' }).click();
  await changes(page, () => page.getByRole('menuitem', { name: 'Harbour at dusk' }).click());
  await expect(page.getByText('Harbour at dusk')).toBeVisible();
  expect(await barriers(page)).toEqual([]);
});

test('an effect is seen alone, left out for a moment, copied to another shot; a look is chosen, saved and given to several shots', async ({
  page,
}) => {
  await openShot(page, '03 Figurehead');
  await changes(page, () => add(page, /^Vignette/));
  await changes(page, () => page.getByRole('button', { name: 'Alone' }).click());
  await changes(page, () => page.getByRole('button', { name: 'Alone' }).click());
  const without = page.getByRole('button', { name: 'Without' });
  await changes(page, () => without.dispatchEvent('pointerdown'));
  await changes(page, () => without.dispatchEvent('pointerup'));
  await page.getByRole('button', { name: 'Duplicate Vignette' }).click();
  await expect(page.getByRole('list', { name: /^Lens effects/ }).getByRole('listitem')).toHaveCount(3);
  await page.getByRole('button', { name: 'Copy', exact: true }).click();

  // looks: a picture of this shot each
  await page.getByRole('button', { name: 'Looks' }).click();
  const looks = page.getByRole('dialog', { name: 'Looks' });
  await expect(looks.getByRole('button', { name: /^Look:/ })).toHaveCount(12);
  await expect(looks.locator('canvas[data-made]')).toHaveCount(12, { timeout: 60_000 });
  await changes(page, () => looks.getByRole('button', { name: 'Look: Alone' }).click());
  await expect(page.getByRole('switch', { name: 'Isolate on' })).toBeVisible();
  await page.getByRole('button', { name: 'Looks' }).click();
  await looks.getByRole('textbox', { name: 'Name of the look' }).fill('My own');
  await looks.getByRole('button', { name: 'Save' }).click();
  await expect(looks.getByRole('button', { name: 'Look: My own' })).toBeVisible();
  await looks.getByLabel('File of a look').setInputFiles({ name: 'odd.json', mimeType: 'application/json', buffer: Buffer.from('{"look":1}') });
  await expect(page.getByText(/odd\.json holds no look/)).toBeVisible();
  await looks.getByRole('button', { name: 'Give to shots' }).click();
  await looks.getByRole('checkbox', { name: '01 Chart table' }).check();
  await looks.getByRole('checkbox', { name: '05 Dunes' }).check();
  await looks.getByRole('button', { name: 'Give', exact: true }).click();
  await expect(page.getByText('2 shots have the look')).toBeVisible();
  await saved(page);

  await page.goto('/');
  await page.getByRole('link', { name: '05 Dunes' }).first().click();
  await pictureReady(page);
  await expect(page.getByRole('switch', { name: 'Isolate on' })).toBeVisible();
  await changes(page, () => page.getByRole('button', { name: 'Paste vignette' }).click());
});
