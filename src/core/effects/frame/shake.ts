import { wander } from '../../noise';
import { type Picture } from '../../picture';
import { count, degrees, percent, perSecond, pixels, type ValuesOf } from '../../values/params';
import { defineEffect, type EffectInput } from '../definition';
import { overlaid, type Copy } from '../pixels';

const params = {
  place: pixels({ label: 'Place', min: 0, max: 200, highest: 2000, default: 12 }),
  turn: degrees({ label: 'Turn', min: 0, max: 20, highest: 180, decimals: 2, step: 0.1, default: 0.4 }),
  scale: percent({ label: 'Scale', min: 0, max: 30, highest: 90, decimals: 1, default: 0.5 }),
  speed: perSecond({ label: 'How often', min: 0.1, max: 20, lowest: 0, highest: 120, default: 5 }),
  shutter: degrees({
    section: 'Motion blur',
    label: 'Shutter',
    min: 0,
    max: 360,
    decimals: 0,
    default: 180,
    help: 'Share of a frame over which it is open',
  }),
  samples: count({ section: 'Motion blur', label: 'Samples', min: 1, max: 16, default: 6, help: 'Looks within a frame' }),
  seed: count({ section: 'Motion blur', label: 'Seed', min: 1, max: 99, highest: 99999, default: 1 }),
};
export type ShakeValues = ValuesOf<typeof params>;

/** Where the frame has gone at a time, seconds: px, radians, and a factor. */
export function shaken(p: ShakeValues, seconds: number): { x: number; y: number; turn: number; scale: number } {
  const t = p.speed * seconds + 0.37;
  const along = (n: number): number => wander(t, p.seed * 17 + n) + 0.5 * wander(2.3 * t, p.seed * 17 + n + 5);
  return {
    x: (p.place * along(0)) / 1.2,
    y: (p.place * along(1)) / 1.2,
    turn: (((p.turn * Math.PI) / 180) * along(2)) / 1.2,
    scale: 1 + ((p.scale / 100) * along(3)) / 1.2,
  };
}

function apply({ picture, params: p, pxScale, run, at: { frame, fps } }: EffectInput<ShakeValues>): Picture {
  if (p.place === 0 && p.turn === 0 && p.scale === 0) return picture;
  const open = p.shutter / 360 / fps;
  // where it moves less than a px there is nothing to blur
  const [begin, end] = [shaken(p, frame / fps), shaken(p, frame / fps + open)];
  const half = Math.hypot(picture.width, picture.height) / 2;
  const way = Math.hypot(end.x - begin.x, end.y - begin.y) * pxScale + half * (Math.abs(end.turn - begin.turn) + Math.abs(end.scale - begin.scale));
  const exposures = p.shutter > 0 ? Math.max(1, Math.min(p.samples, Math.ceil(way))) : 1;
  const copies = Array.from({ length: exposures }, (_, n): Copy => {
    const { x, y, turn, scale } = shaken(p, frame / fps + (open * n) / exposures);
    return { x: x * pxScale, y: y * pxScale, turn, scale, strength: 1 / exposures };
  });
  return overlaid(picture, run, copies, 'added');
}

/** The frame wanders, turns and breathes, with the blur that an open shutter gives. */
export const shake = defineEffect({
  kind: 'shake',
  group: 'frame',
  label: 'Shake',
  help: 'The frame is shaken, all of it or what lies within a reach',
  params,
  reach: true,
  spreads: () => true,
  needs: () => ['time'],
  summary: (p) => `${p.place.toFixed(0)} px`,
  apply,
});
