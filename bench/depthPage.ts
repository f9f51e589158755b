import sharp from 'sharp';
import { strokeSchema } from '../src/core/depth/layers/brush/content';
import { shapeSchema } from '../src/core/depth/layers/shape/content';
import { cornerAt } from '../src/core/depth/layers/shape/edit';
import { newLayer, newProject, newShot } from '../src/core/document/defaults';
import type { Layer } from '../src/core/document/schema';
import { seededRandom } from '../src/core/random';
import { packProject } from '../src/formats/project/projectFile';
import { sha256 } from '../src/formats/bytes/sha256';
import { inBuiltPage } from './builtPage';
import { pageMemory } from './memory';
import { table } from './metrics';

const PORT = 4190;

/** A 4K plate with an estimate, 40 strokes, 12 shapes and a head form, as a project file. */
export async function heavyProject(): Promise<Buffer> {
  const plate = new Uint8Array(await sharp('public/demo/figurehead.jpg').resize(3840, 2160).jpeg({ quality: 90 }).toBuffer());
  const random = seededRandom(4);
  const strokes = Array.from({ length: 40 }, (_, k) =>
    strokeSchema.parse({
      id: `s${k}`,
      mode: (['nearer', 'farther', 'set', 'smooth'] as const)[k % 4]!,
      radius: 20 + 120 * random(),
      amount: 0.1,
      points: Array.from({ length: 120 }, (_p, i) => [0.1 + 0.006 * i, 0.2 + 0.6 * random() * 0.1 + 0.015 * k, 1]).flat(),
    }),
  );
  const shapes = Array.from({ length: 12 }, (_, k) => {
    const [x, y] = [0.1 + 0.06 * k, 0.15 + 0.05 * (k % 5)];
    return shapeSchema.parse({
      id: `c${k}`,
      name: `Shape ${k + 1}`,
      feather: 12,
      nearness: 0.2 + 0.05 * k,
      points: Array.from({ length: 10 }, (_p, i) => cornerAt(x + 0.08 * Math.cos((i * Math.PI) / 5), y + 0.1 * Math.sin((i * Math.PI) / 5))),
    });
  });
  const shot = newShot({ sha256: await sha256(plate), name: 'heavy.jpg', width: 3840, height: 2160, bits: 8, hfovFromFile: 50 });
  const content = (value: unknown): Layer['content'] => value;
  shot.settings.layers.push(
    { ...newLayer('head'), name: 'Head form' },
    { ...newLayer('shape'), content: content({ shapes }) },
    { ...newLayer('brush'), content: content({ strokes }) },
  );
  const packed = await packProject({ ...newProject('Heavy'), shots: [shot] }, new Map([[shot.plate.sha256, plate]]));
  return Buffer.from(await packed.arrayBuffer());
}

/** In the page: how soon a full depth stack opens, and how soon the picture follows what is dragged in it. */
export async function depthPageTable(): Promise<Record<string, number>> {
  return inBuiltPage('Depth', async (page) => {
    const file = await heavyProject();
    const results: Record<string, number> = {};
    await page.getByText('05 Dunes').waitFor();
    await page.getByTestId('bring-in').setInputFiles({ name: 'heavy.ombrage', mimeType: 'application/zip', buffer: file });
    await page.locator('[data-preview^="full"]').waitFor({ timeout: 60000 });
    // the estimate is made once and kept; opening is measured with it there
    await page.getByRole('progressbar').waitFor({ state: 'detached', timeout: 60000 });
    await page.waitForTimeout(3000);
    const address = page.url();
    // the page itself notes when a picture is there: asking it from outside would add its own delay
    await page.addInitScript(() => {
      const seen = new Set<string>();
      new MutationObserver(() => {
        const stage = document.querySelector('[data-preview]')?.getAttribute('data-preview')?.split(' ')[0] ?? '';
        if (!/^(quick|full)/.test(stage) || seen.has(stage)) return;
        seen.add(stage);
        performance.mark(`shown-${stage.startsWith('full') ? 'full' : 'first'}`);
      }).observe(document, { subtree: true, childList: true, attributes: true, attributeFilter: ['data-preview'] });
    });
    const opened: { first: number; full: number }[] = [];
    for (let k = 0; k < 5; k++) {
      await page.goto(`http://localhost:${PORT}/`);
      await page.waitForTimeout(1500);
      await page.goto(address);
      await page.locator('[data-preview^="full"]').waitFor({ timeout: 60000 });
      opened.push(
        await page.evaluate(() => {
          const [first, full] = ['shown-first', 'shown-full'].map((name) => performance.getEntriesByName(name)[0]?.startTime ?? NaN);
          return { first: first! || full!, full: full! };
        }),
      );
    }
    const median = (of: (o: { first: number; full: number }) => number): number => opened.map(of).sort((a, b) => a - b)[opened.length >> 1]!;
    results['open 4K, first picture'] = median((o) => o.first);
    results['open 4K, first full picture'] = median((o) => o.full);
    results['memory of the page, MB'] = pageMemory();
    await page.keyboard.press('2');
    await page.waitForTimeout(2500);
    const measure = async (name: string, act: () => Promise<void>): Promise<void> => {
      await page.evaluate(() => performance.clearMeasures());
      await act();
      const times = await page.evaluate(() => {
        const quick = performance.getEntriesByName('ombrage-quick').map((m) => m.duration);
        const full = performance.getEntriesByName('ombrage-full').map((m) => m.duration);
        return quick.length > 0 ? quick : full;
      });
      times.sort((a, b) => a - b);
      results[`${name}, first picture`] = times[times.length >> 1] ?? NaN;
      await page.waitForTimeout(1200);
    };
    const drag = async (x: number, y: number): Promise<void> => {
      await page.mouse.move(x, y);
      await page.mouse.down();
      for (let k = 1; k <= 30; k++) {
        await page.mouse.move(x + 4 * k, y + 2 * k);
        await page.waitForTimeout(40);
      }
      await page.mouse.up();
    };
    const choose = async (name: RegExp): Promise<void> => {
      await page
        .getByRole('list', { name: /Depth layers/ })
        .getByRole('button', { name })
        .click();
      await page.waitForTimeout(600);
    };
    await choose(/^Brush/);
    await measure('painting over 40 strokes', () => drag(330, 300));
    await choose(/^Shapes/);
    await measure('dragging a shape', () => drag(330, 250));
    await choose(/^Head form/);
    const nose = (await page.getByRole('button', { name: 'Tip of the nose' }).boundingBox())!;
    await measure('turning the head', () => drag(nose.x + 11, nose.y + 11));
    console.log(
      `\nA 4K plate with 40 strokes, 12 shapes and a head form, in the page\n${table(
        ['', 'ms (or MB)'],
        Object.entries(results).map(([k, v]) => [k, v.toFixed(0)]),
      )}`,
    );
    return results;
  });
}
