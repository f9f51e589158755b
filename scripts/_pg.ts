import { chromium } from 'playwright-core';
import { chromiumOptions } from './chromium';
const b = await chromium.launch(chromiumOptions as never);
const ctx = await b.newContext({ viewport: { width: 1280, height: 720 } });
const page = await ctx.newPage();
page.on('console', (m) => console.log('console', m.text())); page.on('pageerror', (e) => console.log('error', e.message));
for (const n of ['quayLamp', 'dunes', 'figurehead']) {
  const t = Date.now();
  await page.goto(`file:///tmp/${n}.html`);
  await page.waitForFunction(() => document.documentElement.dataset.drawn);
  console.log(n, await page.evaluate(() => document.documentElement.dataset.drawn), Date.now() - t, 'ms');
  await page.mouse.move(640, 360); await page.waitForTimeout(800);
  for (const [k, x] of [[0, 5], [1, 1275]] as const) { await page.mouse.move(x, 360); await page.waitForTimeout(1500); await page.screenshot({ path: `/tmp/pg_${n}_${k}.png` }); console.log(await page.evaluate(() => document.documentElement.dataset.eye)); }
  // drawing time with readPixels
  const ms = await page.evaluate(async () => {
    const c = document.querySelector('canvas')!; const gl = c.getContext('webgl')!; const px = new Uint8Array(4); const out: number[] = [];
    let last = performance.now();
    for (let i = 0; i < 60; i++) { const box = document.getElementById('box')!; box.dispatchEvent(new PointerEvent('pointermove', { clientX: 300 + 10 * i, clientY: 300 })); await new Promise((d) => requestAnimationFrame(d)); gl.readPixels(0, 0, 1, 1, 6408, 5121, px); out.push(performance.now() - last); last = performance.now(); }
    out.sort((a, b) => a - b); return [out[30], out[54], c.width, c.height];
  });
  console.log('frame interval ms median, 90%', ms);
}
await b.close();
