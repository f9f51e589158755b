import Box from '@mui/material/Box';
import { useDrag } from '@use-gesture/react';
import { useViewPart } from '../state/viewStore';
import type { Placement } from '../picture/geometry';

/** The line between before and after, dragged or moved with the arrow keys. */
export function WipeDivider({
  place,
  output,
  labels,
}: {
  place: Placement;
  output: { width: number; height: number };
  labels: readonly [string, string];
}) {
  const { wipe, set } = useViewPart('wipe', 'set');
  const width = output.width * place.scale;
  const height = output.height * place.scale;
  const move = (share: number): void => set({ wipe: Math.min(1, Math.max(0, share)) });
  const bind = useDrag(
    ({ xy: [x], currentTarget }) => {
      const rect = (currentTarget as HTMLElement).parentElement!.getBoundingClientRect();
      move((x - rect.left - place.left) / width);
    },
    { pointer: { keys: false } },
  );
  const label = {
    position: 'absolute',
    top: 10,
    padding: '2px 7px',
    borderRadius: '3px',
    background: 'rgba(20,20,19,.85)',
    whiteSpace: 'nowrap',
  } as const;
  return (
    <Box
      {...bind()}
      role="slider"
      tabIndex={0}
      aria-label={`Wipe between ${labels[0].toLowerCase()} and ${labels[1].toLowerCase()}`}
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(100 * wipe)}
      aria-valuetext={`${Math.round(100 * wipe)} % ${labels[0].toLowerCase()}`}
      onKeyDown={(e) => {
        const step = { ArrowLeft: -0.02, ArrowRight: 0.02, Home: -1, End: 1 }[e.key];
        if (step === undefined) return;
        e.preventDefault();
        move(wipe + step);
      }}
      sx={{
        position: 'absolute',
        width: 18,
        cursor: 'ew-resize',
        touchAction: 'none',
        display: 'flex',
        justifyContent: 'center',
      }}
      style={{ left: place.left + wipe * width - 9, top: place.top, height }}
    >
      <Box sx={{ width: '1.5px', height: '100%', background: 'var(--paper)' }} />
      <Box sx={{ ...label, right: 16 }}>{labels[0]}</Box>
      <Box sx={{ ...label, left: 16 }}>{labels[1]}</Box>
    </Box>
  );
}
