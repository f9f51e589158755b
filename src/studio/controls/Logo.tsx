import { nearnessHex } from '../../core/raster/colour';
import { MARK_BARS } from './markBars';

/** The logo: four bars that shrink from near to far. */
export function Logo({ size = 20 }: { size?: number }) {
  return (
    <svg width={size} height={size} viewBox="0 0 20 20" aria-hidden="true">
      {MARK_BARS.map((b) => (
        <rect key={b.x} x={b.x} y={b.y} width={b.w} height={b.h} rx={1} fill={nearnessHex(b.near)} />
      ))}
    </svg>
  );
}
