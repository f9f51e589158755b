import { withPage } from './chromium';
const t0=Date.now(); const log=(m:string)=>console.log(m, Date.now()-t0);
await withPage(4391, async (page) => {
  page.on('console', m => { if (['error','warning'].includes(m.type())) console.log('console', m.text().slice(0,300)); });
  page.on('pageerror', e => console.log('pageerror', e.message));
  await page.getByText('04 Crossing').waitFor();
  await page.screenshot({ path: '/tmp/look/shelf.png' });
  await page.getByRole('link',{name:'04 Crossing'}).click();
  const full = () => page.locator('[data-testid=viewer][data-preview^=full][aria-busy=false]').waitFor({timeout:60000});
  await full(); log('full');
  await page.waitForTimeout(3000);
  // scrub
  const slider = page.getByRole('slider',{name:'Playhead'});
  await slider.focus();
  for (let k=0;k<4;k++){ const t=Date.now(); await page.keyboard.press('PageUp'); await page.waitForFunction(n=>document.querySelector('[data-testid=time]')?.textContent?.includes(`frame ${n}`), (k+1)*10); await page.waitForTimeout(30); await full(); log(`scrub ${k} ${Date.now()-t}`);}
  await page.keyboard.press('2');
  await page.waitForTimeout(1500);
  await page.screenshot({ path: '/tmp/look/clip4.png' });
  await page.getByRole('button',{name:'Make all frames steady'}).click(); log('steady');
  await page.getByText(/^All \d+ frames/).waitFor({timeout:240000}); log('steady done');
  await page.keyboard.press('4');
  await page.waitForTimeout(3000);
  await page.screenshot({ path: '/tmp/look/clip5.png' });
  const play = page.getByRole('button',{name:'Play',exact:true});
  await play.click(); const t=Date.now();
  const seen:string[]=[]; while(Date.now()-t<20000){ seen.push((await page.getByTestId('time').innerText()).split('\n')[1]!); await page.waitForTimeout(250);} 
  console.log(seen.map(s=>s.match(/frame (\d+)/)?.[1]).join(' '));
  console.log(await page.getByTestId('ready').innerText());
});
