import Box from '@mui/material/Box';
import { useDrag } from '@use-gesture/react';

interface Props {
  readonly label: string;
  /** upright: it divides what lies at its left from what lies at its right */
  readonly upright: boolean;
  /** size of what lies after it, px */
  readonly size: number;
  readonly limits: readonly [number, number];
  readonly onChange: (size: number) => void;
  /** back to what is usual */
  readonly onReset: () => void;
}

const ACROSS: Readonly<Record<string, number>> = { ArrowLeft: 1, ArrowRight: -1 };
const ALONG: Readonly<Record<string, number>> = { ArrowUp: 1, ArrowDown: -1 };
/** So far an arrow key moves it, px. */
const STEP = 12;

/** A border that is dragged, or moved with the arrow keys; a double click puts it back. */
export function Divider({ label, upright, size, limits: [least, most], onChange, onReset }: Props) {
  const put = (to: number): void => onChange(Math.round(Math.min(most, Math.max(least, to))));
  const bind = useDrag(
    ({ first, tap, xy: [x, y], initial: [x0, y0], memo }) => {
      const from = first ? size : (memo as number | undefined);
      if (tap || from === undefined) return from;
      put(from - (upright ? x - x0 : y - y0));
      return from;
    },
    { filterTaps: true, pointer: { keys: false } },
  );
  return (
    <Box
      {...bind()}
      role="separator"
      tabIndex={0}
      aria-label={label}
      aria-orientation={upright ? 'vertical' : 'horizontal'}
      aria-valuenow={size}
      aria-valuemin={least}
      aria-valuemax={most}
      title={`${label}: drag, or double click for the usual size`}
      onDoubleClick={onReset}
      onKeyDown={(e) => {
        const by = (upright ? ACROSS : ALONG)[e.key];
        const to = e.key === 'Home' ? least : e.key === 'End' ? most : by === undefined ? null : size + by * STEP * (e.shiftKey ? 4 : 1);
        if (to === null) return;
        e.preventDefault();
        e.stopPropagation();
        put(to);
      }}
      sx={{
        position: 'absolute',
        zIndex: 5,
        touchAction: 'none',
        ...(upright
          ? { left: -3, top: 0, bottom: 0, width: 7, cursor: 'col-resize' }
          : { top: -3, left: 0, right: 0, height: 7, cursor: 'row-resize' }),
        // a grip that is seen without being in the way
        '&::after': {
          content: '""',
          position: 'absolute',
          borderRadius: '2px',
          background: 'var(--line2)',
          ...(upright ? { left: 2, top: 'calc(50% - 18px)', width: 3, height: 36 } : { top: 2, left: 'calc(50% - 18px)', width: 36, height: 3 }),
        },
        '&:hover::after, &:focus-visible::after': { background: 'var(--mute)' },
      }}
    />
  );
}
