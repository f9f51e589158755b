import type { Size } from '../../picture';
import { count, degrees, percent, type ValuesOf } from '../../values/params';
import { defineEffect, type Places } from '../definition';
import { bent } from '../pixels';

const params = {
  pieces: count({ label: 'Pieces', min: 2, max: 24, lowest: 1, highest: 90, default: 6, help: 'Mirrored wedges round the middle' }),
  turn: degrees({ label: 'Turn', min: -180, max: 180, default: 0 }),
  inner: degrees({ label: 'Turn inside', min: -180, max: 180, default: 0, help: 'Turns what the wedges show' }),
  zoom: percent({ label: 'Scale', min: 25, max: 400, lowest: 5, highest: 2000, default: 100 }),
  x: percent({ label: 'Right', min: 0, max: 100, lowest: -100, highest: 200, decimals: 1, default: 50 }),
  y: percent({ label: 'Down', min: 0, max: 100, lowest: -100, highest: 200, decimals: 1, default: 50 }),
};
export type KaleidoscopeValues = ValuesOf<typeof params>;

/** Half a wedge: where it begins and ends, as directions, and how its places are turned or mirrored into the first. */
interface Half {
  readonly from: readonly [number, number];
  readonly to: readonly [number, number];
  /** x' = a·x + b·y, y' = c·x + d·y */
  readonly turned: readonly [number, number, number, number];
}

/** The halves of all wedges, in the order of their angles. */
function halvesOf(pieces: number, turn: number, inner: number): readonly Half[] {
  const wedge = (2 * Math.PI) / pieces;
  return Array.from({ length: 2 * pieces }, (_, n) => {
    const [from, to] = [turn + (n * wedge) / 2, turn + ((n + 1) * wedge) / 2];
    // the one half turned back by whole wedges, the other mirrored at its own end
    const angle = n % 2 === 0 ? from - inner : to + inner;
    const [cos, sin] = [Math.cos(angle), Math.sin(angle)];
    return {
      from: [Math.cos(from), Math.sin(from)],
      to: [Math.cos(to), Math.sin(to)],
      turned: n % 2 === 0 ? [cos, sin, -sin, cos] : [cos, sin, sin, -cos],
    };
  });
}

function bends(p: KaleidoscopeValues, { width, height }: Size): Places {
  const [cx, cy] = [(p.x / 100) * width, (p.y / 100) * height];
  const turn = (p.turn * Math.PI) / 180;
  const halves = halvesOf(p.pieces, turn, (p.inner * Math.PI) / 180);
  const perTurn = halves.length / (2 * Math.PI);
  const k = 100 / p.zoom;
  return (y, to) => {
    const dy = y + 0.5 - height / 2;
    let [fx, fy, tx, ty] = [0, 0, 0, 0];
    let [a, b, c, d] = [0, 0, 0, 0];
    for (let x = 0; x < width; x++) {
      const dx = x + 0.5 - width / 2;
      // along a row one half follows the other: the angle is only looked at where one is left
      if (!(fx * dy - fy * dx > 0 && tx * dy - ty * dx < 0)) {
        const at = Math.floor((Math.atan2(dy, dx) - turn) * perTurn);
        const half = halves[((at % halves.length) + halves.length) % halves.length]!;
        [fx, fy] = half.from;
        [tx, ty] = half.to;
        [a, b, c, d] = half.turned;
      }
      to[2 * x] = cx + k * (a * dx + b * dy);
      to[2 * x + 1] = cy + k * (c * dx + d * dy);
    }
  };
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
  bends,
  apply: ({ picture, params, run }) => bent(picture, run, bends(params, picture)),
});
