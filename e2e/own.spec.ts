import { GrowingGraph } from '../training/graph';
import { brightness, graphOf } from '../headless/fixtures/networks';
import type { Page } from '@playwright/test';
import { barriers, canvasFigures, chapter, clickPicture, openShot, pictureReady } from './helpers';
import { expect, test } from './prepared';

const file = (name: string, bytes: Uint8Array) => ({ name, mimeType: 'application/octet-stream', buffer: Buffer.from(bytes) });

/** Puts Isolate among the effects. */
async function addIsolate(page: Page): Promise<void> {
  await chapter(page, 'Effects').click();
  await page.getByRole('button', { name: 'Add effect' }).click();
  await page.getByRole('dialog', { name: 'Effects that can be added' }).getByRole('button', { name: 'Isolate' }).click();
}

/** Brightness in metres: black is 12 m away, white 2 m. */
const inMetres = (g: GrowingGraph, bright: string): string => g.step('Add', [g.step('Mul', [bright, g.floats(-10)]), g.floats(12)]);

test('a network of one’s own is tried, chosen by a click, asked, kept, missed when it is gone, and bad ones are refused', async ({ page }) => {
  test.slow();
  await openShot(page, '02 Quay lamp');
  await chapter(page, 'Depth').click();
  await page.getByRole('listitem').filter({ hasText: 'Estimate' }).click();
  await page.getByRole('button', { name: 'Own', exact: true }).click();
  const pick = page.getByLabel('Network file');

  // what is none is said, and nothing changes
  const unknown = new GrowingGraph();
  unknown.out(unknown.step('Guesswork', ['image']), 'depth');
  const bad = graphOf(unknown, { inputs: [{ name: 'image', dims: [1, 3, 64, 64] }], outputs: [{ name: 'depth', dims: [1, 1, 64, 64] }] });
  for (const [name, bytes, said] of [
    ['empty.onnx', new Uint8Array(0), 'empty.onnx is no network in ONNX form'],
    ['cut.onnx', brightness().subarray(0, 100), 'cut.onnx is no network in ONNX form'],
    ['unknown.onnx', bad, 'unknown.onnx uses Guesswork, which cannot be run here'],
  ] as const) {
    await pick.setInputFiles(file(name, bytes));
    await expect(page.getByText(said)).toBeVisible();
  }
  await expect(page.getByRole('dialog')).toBeHidden();

  // one whose file does not tell how it is asked: all ways side by side
  await pick.setInputFiles(file('bright.onnx', brightness({ sides: [96, 160] })));
  const dialog = page.getByRole('dialog', { name: 'bright.onnx' });
  for (const values of ['Mean and spread of ImageNet', '0 to 1', '−1 to 1', '0 to 255'])
    await expect(dialog.getByRole('button', { name: `Values ${values}` })).toBeEnabled();
  expect(await barriers(page)).toEqual([]);
  await dialog.getByRole('button', { name: 'Nearness' }).click();
  await dialog.getByRole('button', { name: 'Values 0 to 1' }).click();
  await expect(dialog).toBeHidden();
  await pictureReady(page);
  await expect(page.getByRole('listitem').filter({ hasText: 'bright.onnx' })).toBeVisible();

  // metres set the ends, and undo takes both back in one step
  await pick.setInputFiles(file('metres.onnx', brightness({ sides: [96, 160], answer: inMetres, notes: { values: 'unit', gives: 'metres' } })));
  await page.getByRole('dialog', { name: 'metres.onnx' }).getByRole('button', { name: 'Values 0 to 1' }).click();
  await expect(page.getByText(/metres\.onnx tells metres: near is [2-9]\.\d\d m, far 1[0-2]\.\d m/)).toBeVisible();
  await pictureReady(page);
  await chapter(page, 'Calibrate').click();
  await expect(page.getByRole('textbox', { name: 'Far end', exact: true })).toHaveValue(/^1[012]/);
  await chapter(page, 'Depth').click();
  const own = await canvasFigures(page);
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('listitem').filter({ hasText: 'bright.onnx' })).toBeVisible();
  await page.keyboard.press('Control+Shift+z');
  await pictureReady(page);
  expect((await canvasFigures(page)).hash).toBe(own.hash);

  // gone from this browser: what it made stays, and asking it anew says what is missing
  await page.getByRole('button', { name: 'Remove' }).click();
  await expect(page.getByText('metres.onnx was removed from this browser.')).toBeVisible();
  await page.getByRole('button', { name: 'Estimate again' }).click();
  await expect(page.getByText('The network metres.onnx is not in this browser.')).toBeVisible();
  await page.getByRole('button', { name: 'Bring back' }).click();
  await expect(page.getByRole('combobox', { name: 'Network' })).toHaveText('metres.onnx');

  // what was needed once is there without network
  await page.context().setOffline(true);
  try {
    await page.reload();
    await pictureReady(page);
    await page.getByRole('listitem').filter({ hasText: 'metres.onnx' }).click();
    await page.getByRole('button', { name: 'Estimate again' }).click();
    await pictureReady(page);
    expect((await canvasFigures(page)).hash).toBe(own.hash);
  } finally {
    await page.context().setOffline(false);
  }
});

test('an effect acts on a person by one choice, who is taken out and in by clicks; where nobody is that is said', async ({ page }) => {
  await openShot(page, '02 Quay lamp');
  await addIsolate(page);
  const acts = page.getByRole('combobox', { name: 'Acts' });
  await acts.click();
  await page.getByRole('option', { name: 'A person…' }).click();
  await expect(page.getByText('No person is found in this picture.')).toBeVisible();
  await expect(acts).toHaveText('Everywhere');

  await openShot(page, '03 Figurehead');
  // a place of the bust, and one of the wall beside it
  const bust = { x: 0.3, y: 0.75, w: 0.06, h: 0.1 };
  const wall = { x: 0.62, y: 0.2, w: 0.1, h: 0.2 };
  const before = { bust: await canvasFigures(page, bust), wall: await canvasFigures(page, wall) };
  await addIsolate(page);
  await acts.click();
  await page.getByRole('option', { name: 'A person…' }).click();
  await expect(acts).toHaveText('In Persons');
  await pictureReady(page);
  const kept = { bust: await canvasFigures(page, bust), wall: await canvasFigures(page, wall) };
  expect(Math.abs(kept.bust.mean - before.bust.mean)).toBeLessThan(2);
  expect(kept.wall.mean).toBeLessThan(0.8 * before.wall.mean);

  // clicked on the mark they are out, clicked in the picture in again
  await chapter(page, 'Depth').click();
  await page.getByRole('listitem').filter({ hasText: 'Persons' }).click();
  await page.getByRole('button', { name: 'Person 1' }).click();
  await expect(page.getByRole('listitem').filter({ hasText: 'click one' })).toBeVisible();
  await clickPicture(page, 0.33, 0.8);
  await expect(page.getByRole('listitem').filter({ hasText: '1 person' })).toBeVisible();
  await chapter(page, 'Effects').click();
  await pictureReady(page);
  const again = await canvasFigures(page, bust);
  expect(Math.abs(again.mean - kept.bust.mean)).toBeLessThan(2);
});
