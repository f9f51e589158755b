import '../headless/kernels';
import { effects } from '../src/core/effects/registry';
import { applyAlone } from '../src/core/effects/applyAlone';
import { newPicture, newPlane } from '../src/core/raster/picture';
const [w, h] = [1920, 1080];
const picture = newPicture(w, h),
  distance = newPlane(w, h);
for (let i = 0; i < w * h; i++) {
  const x = i % w,
    y = (i / w) | 0;
  for (let k = 0; k < 3; k++) picture.data[i * 4 + k] = 0.2 + 0.15 * Math.sin(x * 0.05 * (k + 1) + y * 0.03) + 0.1 * Math.random();
  picture.data[i * 4 + 3] = 1;
  distance.data[i] = Math.hypot(x - 960, y - 600) < 300 ? 2 : 6 + y * 0.002;
}
const lens = { focalPx: 1920, focalLength: 36 };
const ground = { subject: 2, near: 1.5, middle: 5, far: 8, tangentX: 0.5, tangentY: 0.28 };
(async () => {
  const kept = new Map();
  const fromDepth = (n: string, m: () => Float32Array) => {
    if (n.startsWith('seen')) return m();
    if (!kept.has(n)) kept.set(n, m());
    return kept.get(n);
  };
  for (const arg of process.argv.slice(2)) {
    const [kind, ...set] = arg.split(',');
    const e = effects.find((e) => e.kind === kind)!;
    const params = {
      ...(e.startOn?.(ground) as any),
      ...Object.fromEntries(
        set.map((s) => {
          const [a, b] = s.split('=');
          return [a, b === 'false' ? false : b === 'true' ? true : isNaN(+b!) ? b : +b!];
        }),
      ),
    };
    let best = 1e9;
    for (let k = 0; k < 4; k++) {
      const t = performance.now();
      await applyAlone(e, { picture, distance, lens, params, fromDepth } as any);
      best = Math.min(best, performance.now() - t);
    }
    console.log(arg, best.toFixed(0), 'ms', (best / 6.8).toFixed(0));
  }
})();
