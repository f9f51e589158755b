import '../headless/kernels';
import sharp from 'sharp';
import { effects } from '../src/core/effects/registry';
import { applyAlone } from '../src/core/effects/applyAlone';
import { demoShot } from '../bench/truth';
import { sampleRaster, stretch } from '../src/core/raster/resample';
import { newPlane } from '../src/core/raster/picture';
import { quantile } from '../src/core/raster/filters';
import { to8 } from '../bench/quality';
import { readFileSync } from 'node:fs';
const W = 640, H = 360;
const demo = JSON.parse(readFileSync('public/demo/demo.json','utf8')).shots;
(async () => {
  for (const name of process.argv.slice(2)) {
    const { raster, distance: big } = await demoShot(name);
    const picture = sampleRaster(raster, stretch(raster, W, H), W, H);
    const distance = newPlane(W, H);
    for (let y = 0; y < H; y++) for (let x = 0; x < W; x++) distance.data[y * W + x] = big.data[Math.floor((y + 0.5) * big.height / H) * big.width + Math.floor((x + 0.5) * big.width / W)]!;
    const s = demo[name];
    const focalPx = W / 2 / Math.tan(s.hfovDegrees * Math.PI / 360);
    const lens = { focalPx, focalLength: 36 * focalPx / W };
    const finite = { ...distance, data: distance.data.map(v => Math.min(v, 1e4)) };
    const ground = { subject: s.focus[0], near: quantile(finite, .05), middle: quantile(finite, .5), far: quantile(finite, .95), tangentX: W / 2 / focalPx, tangentY: H / 2 / focalPx };
    const tiles = [];
    let i = 0;
    for (const e of effects) {
      const params = { ...(e.startOn?.(ground) as any) };
      const t = performance.now();
      const out = await applyAlone(e, { picture, distance, lens, params, pxScale: W / 1600, at: { frame: 7, fps: 24 } } as any);
      const rgb = Buffer.from(to8(out));
      tiles.push({ input: await sharp(rgb, { raw: { width: W, height: H, channels: 3 } }).resize(320, 180).composite([{ input: Buffer.from(`<svg width="320" height="16"><rect width="120" height="16" fill="#000"/><text x="3" y="12" fill="#fff" font-size="12" font-family="sans-serif">${e.kind}</text></svg>`), left: 0, top: 0 }]).png().toBuffer(), left: (i % 5) * 320, top: Math.floor(i / 5) * 180 });
      i++;
    }
    await sharp({ create: { width: 1600, height: 900, channels: 3, background: '#222' } }).composite(tiles).png().toFile(`/tmp/look/sheet-${name}.png`);
    console.log(name, JSON.stringify(ground));
  }
})();
