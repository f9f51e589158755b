import AxeBuilder from '@axe-core/playwright';
import { expect, type Page } from '@playwright/test';
import sharp from 'sharp';
import { estimateKey } from '../src/core/need/estimateKey';
import { addressOfFile } from '../src/core/need/need';
import { copyOf } from '../src/core/values/copy';

/** Opens the page with the demo project in it. */
export async function openShelf(page: Page): Promise<void> {
  await page.goto('/');
  await expect(page.getByText('02 Quay lamp')).toBeVisible();
}

/** Something of the site that runs nothing: from there the store can be reached while no page has it open. */
export const OUTSIDE = '/icons/192.png';

interface ProjectRow {
  document: {
    id: string;
    shots: {
      id: string;
      name: string;
      plate: Parameters<typeof addressOfFile>[0];
      settings: {
        camera: { moves: unknown[] };
        effects: { kind: string; drives: object }[];
        layers: { media?: { sha256: string } }[];
      };
    }[];
  };
}

/** The projects that this browser holds. */
export const storedProjects = (page: Page): Promise<ProjectRow[]> =>
  page.evaluate(
    () =>
      new Promise<ProjectRow[]>((done, failed) => {
        const opening = indexedDB.open('ombrage');
        opening.onerror = () => failed(new Error('no database'));
        opening.onsuccess = () => {
          const all = opening.result.transaction('projects').objectStore('projects').getAll() as IDBRequest<ProjectRow[]>;
          all.onsuccess = () => {
            opening.result.close();
            done(all.result);
          };
        };
      }),
  );

/** The stored projects become what `change` makes of them; answers what they were. */
async function changeProjects(page: Page, change: (rows: ProjectRow[]) => ProjectRow[]): Promise<ProjectRow[]> {
  const before = await storedProjects(page);
  await page.evaluate(
    (rows) =>
      new Promise<void>((done, failed) => {
        const opening = indexedDB.open('ombrage');
        opening.onerror = () => failed(new Error('no database'));
        opening.onsuccess = () => {
          const writing = opening.result.transaction('projects', 'readwrite');
          for (const row of rows) writing.objectStore('projects').put(row);
          writing.oncomplete = () => {
            opening.result.close();
            done();
          };
        };
      }),
    change(copyOf(before)),
  );
  return before;
}

/** Takes what moves, and all effects but lens blur, out of the demo's shots, as if they had been made without: for tests of stills. */
export const standStill = (page: Page): Promise<ProjectRow[]> =>
  changeProjects(page, (rows) => {
    for (const { settings } of rows.flatMap((row) => row.document.shots)) {
      settings.camera.moves = [];
      settings.effects = settings.effects.filter((e) => ['lens-blur'].includes(e.kind));
      for (const effect of settings.effects) effect.drives = {};
    }
    return rows;
  });

/** The projects as they were. */
export const putBack = (page: Page, rows: ProjectRow[]): Promise<ProjectRow[]> => changeProjects(page, () => rows);

/** Waits until the estimate of a shot is in the store: a page that goes before has to find it anew each time. */
export async function estimateKept(page: Page, name: string): Promise<void> {
  const rows = await storedProjects(page);
  const { plate } = rows.flatMap((row) => row.document.shots).find((shot) => shot.name === name)!;
  const kept = (): Promise<boolean> =>
    page.evaluate(
      (key) =>
        new Promise<boolean>((done, failed) => {
          const opening = indexedDB.open('ombrage');
          opening.onerror = () => failed(new Error('no database'));
          opening.onsuccess = () => {
            const asking = opening.result.transaction('maps').objectStore('maps').getKey(key);
            asking.onsuccess = () => {
              opening.result.close();
              done(asking.result !== undefined);
            };
          };
        }),
      estimateKey(addressOfFile(plate), { quality: 'fine' }),
    );
  await expect.poll(kept).toBe(true);
}

/**
 * Opens a shot of the demo and waits until its full picture is there; `moving`: with its moves and keys. By its address in a browser that was
 * there before (a page of it stands outside the application), by the shelf in a fresh one.
 */
export async function openShot(page: Page, name = '02 Quay lamp', moving = false): Promise<void> {
  const keeper = page
    .context()
    .pages()
    .find((other) => other !== page && other.url().endsWith(OUTSIDE));
  if (!keeper) {
    await openShelf(page);
    if (!moving) await standStill(page);
    await page.getByRole('link', { name }).first().click();
  } else {
    // nothing has the store open while it is changed
    await page.goto('about:blank');
    const rows = await (moving ? storedProjects(keeper) : standStill(keeper));
    const shots = rows.flatMap(({ document }) => document.shots.map((shot) => ({ ...shot, project: document.id })));
    const { id, project } = shots.find((shot) => shot.name === name)!;
    await page.goto(`/shot?project=${project}&shot=${id}`);
  }
  await pictureReady(page);
}

export const viewer = (page: Page) => page.getByTestId('viewer');

/** How often something is looked at that changes within moments, ms: as often as a person would see it. */
export const OFTEN = [50, 50, 100, 100, 200];

/** Waits until so many frames have been drawn. */
export const frames = (page: Page, count = 2): Promise<void> =>
  page.evaluate(
    (n) =>
      new Promise<void>((done) => {
        const next = (left: number): void => void requestAnimationFrame(() => (left > 1 ? next(left - 1) : done()));
        next(n);
      }),
    count,
  );

/** Waits until nothing moves or fades any more. */
export const still = (page: Page): Promise<void> =>
  expect.poll(() => page.evaluate(() => document.getAnimations().filter((a) => a.playState === 'running').length), { intervals: OFTEN }).toBe(0);

/** What keeps people out of the page, or of some parts of it: the rule, and where it is broken. No frames lie in our pages, so none are looked for: twice as fast. */
export async function barriers(page: Page, ...parts: readonly string[]): Promise<readonly string[]> {
  const look = parts.reduce((axe, part) => axe.include(part), new AxeBuilder({ page }).setLegacyMode(true));
  const { violations } = await look.analyze();
  return violations.map(({ id, nodes }) => `${id}: ${nodes.map((n) => n.target).join(' ')}`);
}

/** Waits until the last change is in the store. */
export const saved = (page: Page): Promise<void> => expect(page.getByTestId('save-state')).toContainText(/^saved/);

/** Waits in the page, frame by frame, until the picture shows what was asked for last. */
const pictureShown = (page: Page): Promise<void> =>
  page.evaluate(
    () =>
      new Promise<void>((done, failed) => {
        const end = performance.now() + 60_000;
        const look = (): void => {
          const picture = document.querySelector('[data-testid="viewer"]');
          const stage = picture?.getAttribute('data-preview') ?? 'nothing';
          const busy = picture?.getAttribute('aria-busy') ?? 'unknown';
          const bars = [...document.querySelectorAll('[role="progressbar"]')].filter((bar) => bar.checkVisibility()).length;
          if (stage.startsWith('full') && busy === 'false' && bars === 0) done();
          else if (performance.now() > end) failed(new Error(`after 60 s the viewer shows ${stage}, busy: ${busy}, ${bars} at work`));
          else requestAnimationFrame(look);
        };
        look();
      }),
  );

/**
 * Waits until the picture shows what was asked for last. The page itself looks: asking it from outside takes longer than most pictures. Where
 * the page is another one meanwhile (without network a link loads the page anew), that one is looked at.
 */
export async function pictureReady(page: Page): Promise<void> {
  for (let pages = 1; ; pages++)
    try {
      await pictureShown(page);
      return;
    } catch (error) {
      if (pages > 3 || !/Execution context was destroyed/.test(String(error))) throw error;
      await page.waitForLoadState();
    }
}

interface Figures {
  readonly mean: number;
  readonly detail: number;
  readonly hash: string;
}

/** Mean and spread of the picture area's 8-bit values, read back from the canvas once it has come to rest. */
export const canvasFigures = (page: Page, region = { x: 0.1, y: 0.1, w: 0.8, h: 0.8 }): Promise<Figures> =>
  page.evaluate(async (r) => {
    const frame = (): Promise<number> => new Promise((done) => void requestAnimationFrame(done));
    const read = async (): Promise<Figures> => {
      const end = performance.now() + 60_000;
      while (document.querySelector('[data-testid="viewer"]')?.getAttribute('aria-busy') !== 'false') {
        if (performance.now() > end) throw new Error('after 60 s the viewer is still busy');
        await frame();
      }
      await frame();
      await frame();
      const canvas = document.querySelector<HTMLCanvasElement>('[data-testid="viewer"] canvas')!;
      const w = Math.floor(canvas.width * r.w);
      const h = Math.floor(canvas.height * r.h);
      const { data } = canvas.getContext('2d')!.getImageData(Math.floor(canvas.width * r.x), Math.floor(canvas.height * r.y), w, h);
      let mean = 0;
      let detail = 0;
      let hash = 7;
      for (let i = 0; i < data.length; i += 4) {
        mean += data[i + 1]!;
        if (i % (4 * w) > 0) detail += Math.abs(data[i + 1]! - data[i - 3]!);
        hash = (Math.imul(hash, 31) + data[i]! + 3 * data[i + 2]!) | 0;
      }
      const n = data.length / 4;
      return { mean: mean / n, detail: detail / n, hash: String(hash) };
    };
    let last = await read();
    for (let k = 0; k < 20; k++) {
      const now = await read();
      if (now.hash === last.hash) return now;
      last = now;
    }
    throw new Error('the picture does not come to rest');
  }, region);

export const chapter = (page: Page, name: string) => page.getByRole('navigation', { name: 'Chapters' }).getByRole('button', { name });

/** Clicks in the picture at a place of the output, 0..1. The demo's shots are 16:9 and fitted. */
export async function clickPicture(page: Page, x: number, y: number, action: 'click' | 'hover' = 'click'): Promise<void> {
  const box = (await viewer(page).boundingBox())!;
  const scale = Math.min(box.width / 1600, box.height / 900);
  const px = box.x + (box.width - 1600 * scale) / 2 + x * 1600 * scale;
  const py = box.y + (box.height - 900 * scale) / 2 + y * 900 * scale;
  await page.mouse.move(px, py);
  if (action === 'click') await page.mouse.click(px, py);
}

export const field = (page: Page, label: string) => page.getByRole('textbox', { name: label, exact: true });

export async function typeValue(page: Page, label: string, text: string): Promise<void> {
  await field(page, label).fill(text);
  await field(page, label).press('Enter');
}

/** A picture file with something to see: a ground, a sky and posts. */
export async function makePicture(kind: 'png' | 'png16' | 'jpeg' | 'webp' | 'avif', width = 480, height = 320): Promise<Buffer> {
  const rgb = Buffer.alloc(width * height * 3);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const post = Math.abs(x - width * 0.3) < width * 0.05 && y > height * 0.2 && y < height * 0.85;
      const noise = ((x * 7919 + y * 104729) % 37) - 18;
      const c = post ? [150, 50, 40] : y < height * 0.42 ? [150, 180, 225] : [120 + noise, 112 + noise, 100 + noise];
      rgb.set(c, (y * width + x) * 3);
    }
  const image = sharp(rgb, { raw: { width, height, channels: 3 } });
  if (kind === 'png16') return image.toColourspace('rgb16').png().toBuffer();
  if (kind === 'jpeg') return image.withMetadata({ orientation: 6 }).jpeg({ quality: 92 }).toBuffer();
  return image[kind]().toBuffer();
}
