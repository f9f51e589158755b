import { nearnessHex } from '../../core/raster/colour';

const BARS = [
  { x: 1, y: 3, w: 4, h: 14, near: 1 },
  { x: 7, y: 5.5, w: 3.4, h: 9, near: 0.5 },
  { x: 12.3, y: 7.5, w: 2.8, h: 5, near: 0.25 },
  { x: 17, y: 9, w: 2, h: 2, near: 0 },
];

/** The mark: four bars that shrink from near to far. */
export function Mark({ size = 20 }: { size?: number }) {
  return (
    <svg width={size} height={size} viewBox="0 0 20 20" aria-hidden="true">
      {BARS.map((b) => (
        <rect key={b.x} x={b.x} y={b.y} width={b.w} height={b.h} rx={1} fill={nearnessHex(b.near)} />
      ))}
    </svg>
  );
}
