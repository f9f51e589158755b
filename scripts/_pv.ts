import { chromium } from 'playwright-core';
import { chromiumOptions } from './chromium';
const b = await chromium.launch(chromiumOptions as never);
const page = await (await b.newContext({ viewport: { width: 1280, height: 720 } })).newPage();
await page.addInitScript(() => { const o = WebGLRenderingContext.prototype.clear; (window as any).t = []; WebGLRenderingContext.prototype.clear = function (m: any) { (window as any).t.push(performance.now()); return o.call(this, m); }; });
for (const n of process.argv.slice(2)) {
  await page.goto(`file:///tmp/${n}.html`);
  await page.waitForFunction(() => document.documentElement.dataset.drawn);
  await page.waitForTimeout(6500);
  const t = await page.evaluate(() => (window as any).t as number[]);
  const d = t.slice(1).map((v, i) => v - t[i]!).slice(-60).sort((a, b) => a - b);
  console.log(n, 'drift interval median', d[d.length >> 1]!.toFixed(1), '90%', d[Math.floor(d.length * .9)]!.toFixed(1));
}
await b.close();
