import { withPage } from './chromium';
await withPage(4203, async (page) => {
  page.on('console', (m) => m.type() === 'error' && console.log('console', m.text().slice(0, 300)));
  page.on('pageerror', (e) => console.log('pageerror', e.message));
  await page.setViewportSize({ width: 1280, height: 800 });
  await page
    .getByRole('link', { name: new RegExp(process.argv[2] ?? '02 Quay lamp') })
    .first()
    .click();
  await page.locator('[data-testid=viewer][aria-busy=false][data-preview^=full]').waitFor({ timeout: 60000 });
  await page.waitForTimeout(3000);
  const relief = page.getByRole('button', { name: 'Relief', exact: true });
  for (let k = 0; k < 2; k++) {
    const t2 = Date.now();
    await relief.click();
    await page.locator('[data-testid=relief][data-state=coarse]').waitFor({ timeout: 60000 });
    console.log('coarse', Date.now() - t2);
    await page.locator('[data-testid=relief][data-state=whole]').waitFor({ timeout: 60000 });
    console.log('whole', Date.now() - t2);
    if (k < 1) {
      await page.getByRole('button', { name: 'Picture', exact: true }).click();
      await page.waitForTimeout(1500);
    }
  }
  await page.waitForTimeout(1000);
  await page.screenshot({ path: '/tmp/r1.png' });
  const c = page.getByRole('application', { name: /scene in space/ });
  const box = (await c.boundingBox())!;
  await page.mouse.move(box.x + 400, box.y + 150);
  await page.mouse.down();
  const fps = await page.evaluate(() => {
    (window as any).ticks = [];
    setInterval(() => 0, 1000);
    const o = {
      f(t: number) {
        (window as any).ticks.push(t);
        requestAnimationFrame((x) => o.f(x));
      },
    };
    requestAnimationFrame((x) => o.f(x));
    return 0;
  });
  for (let i = 0; i < 90; i++) {
    await page.mouse.move(box.x + 400 + 2 * i, box.y + 150 + i * 0.6);
    await page.waitForTimeout(16);
  }
  const ticks = await page.evaluate(() => (window as any).ticks as number[]);
  await page.mouse.up();
  const d = ticks
    .slice(1)
    .map((v, i) => v - ticks[i]!)
    .sort((a, b) => a - b);
  console.log(
    'orbit fps',
    ((1000 * (ticks.length - 1)) / (ticks[ticks.length - 1]! - ticks[0]!)).toFixed(1),
    'median',
    d[d.length >> 1]!.toFixed(0),
    '90%',
    d[Math.floor(d.length * 0.9)]!.toFixed(0),
    fps,
  );
  await page.waitForTimeout(1500);
  await page.screenshot({ path: '/tmp/r2.png' });
  await page.getByRole('button', { name: 'Points', exact: true }).click();
  await page.waitForTimeout(1200);
  await page.screenshot({ path: '/tmp/r3.png' });
  await page.getByRole('button', { name: 'Wire', exact: true }).click();
  await page.waitForTimeout(1200);
  await page.screenshot({ path: '/tmp/r4.png' });
});
