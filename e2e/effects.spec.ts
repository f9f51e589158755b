import { expect, test, type Page } from '@playwright/test';
import { canvasFigures, clickPicture, field, openShot, pictureReady, typeValue } from './helpers';
import AxeBuilder from '@axe-core/playwright';

const add = async (page: Page, name: RegExp): Promise<void> => {
  await page.getByRole('button', { name: 'Add effect' }).click();
  await page.getByRole('menuitem', { name }).click();
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
  await expect.poll(async () => (await canvasFigures(page)).hash).not.toBe(hash);
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
  await changes(page, () => look(page, 'Matte'));
  await changes(page, () => look(page, 'Matte over white'));
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
  const { violations } = await new AxeBuilder({ page }).analyze();
  expect(violations.map((v) => v.id)).toEqual([]);
});
