import type { Picture } from '../../raster/picture';
import { count, degrees, percent, type ValuesOf } from '../../values/params';
import { lengthOf } from '../../scalar';
import { defineEffect, type EffectInput } from '../definition';
import { fetched } from '../pixels';

const params = {
  pieces: count({ label: 'Pieces', min: 2, max: 24, lowest: 1, highest: 90, default: 6, help: 'Mirrored wedges round the middle' }),
  turn: degrees({ label: 'Turn', min: -180, max: 180, default: 0 }),
  inner: degrees({ label: 'Turn inside', min: -180, max: 180, default: 0, help: 'Turns what the wedges show' }),
  zoom: percent({ label: 'Scale', min: 25, max: 400, lowest: 5, highest: 2000, default: 100 }),
  x: percent({ label: 'Right', min: 0, max: 100, lowest: -100, highest: 200, decimals: 1, default: 50 }),
  y: percent({ label: 'Down', min: 0, max: 100, lowest: -100, highest: 200, decimals: 1, default: 50 }),
};
export type KaleidoscopeValues = ValuesOf<typeof params>;

function apply({ picture, params: p, run }: EffectInput<KaleidoscopeValues>): Picture {
  const { width, height } = picture;
  const [cx, cy] = [(p.x / 100) * width, (p.y / 100) * height];
  const wedge = (2 * Math.PI) / p.pieces;
  const [turn, inner] = [(p.turn * Math.PI) / 180, (p.inner * Math.PI) / 180];
  const k = 100 / p.zoom;
  return fetched(picture, run, (y, to) => {
    const dy = y + 0.5 - height / 2;
    for (let x = 0; x < width; x++) {
      const dx = x + 0.5 - width / 2;
      const a = Math.atan2(dy, dx) - turn;
      const within = ((a % wedge) + wedge) % wedge;
      const folded = Math.min(within, wedge - within) + inner;
      const r = k * lengthOf(dx, dy);
      to[2 * x] = cx + r * Math.cos(folded);
      to[2 * x + 1] = cy + r * Math.sin(folded);
    }
  });
}

/** The picture in mirrored wedges round its middle. */
export const kaleidoscope = defineEffect({
  kind: 'kaleidoscope',
  group: 'frame',
  label: 'Kaleidoscope',
  help: 'Mirrored wedges round the middle',
  params,
  reach: true,
  spreads: () => true,
  centre: { x: 'x', y: 'y' },
  needs: () => [],
  summary: (p) => `${p.pieces} pieces`,
  apply,
});
