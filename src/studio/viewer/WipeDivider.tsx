import Box from '@mui/material/Box';
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
  const drag = (event: React.PointerEvent<HTMLElement>): void => {
    if (event.buttons === 0) return;
    const rect = event.currentTarget.parentElement!.getBoundingClientRect();
    move((event.clientX - rect.left - place.left) / width);
  };
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
      role="slider"
      tabIndex={0}
      aria-label={`Wipe between ${labels[0].toLowerCase()} and ${labels[1].toLowerCase()}`}
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(100 * wipe)}
      aria-valuetext={`${Math.round(100 * wipe)} % ${labels[0].toLowerCase()}`}
      onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
      onPointerMove={drag}
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
