import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import type { Progress } from '../state/sessionStore';

/** How far something long has come, in a corner of the picture, with the way to stop it. */
export function AtWork({ work }: { work: Progress }) {
  return (
    <Box
      sx={{
        position: 'absolute',
        right: 12,
        bottom: 12,
        width: 300,
        whiteSpace: 'nowrap',
        padding: '8px 8px 8px 12px',
        background: 'rgba(26,26,25,.94)',
        borderRadius: '4px',
        border: '1px solid var(--line2)',
      }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', gap: '8px', marginBottom: '6px' }}>
        <Box sx={{ flex: 1 }}>{work.what}</Box>
        <span className="mono">{work.left === null ? '' : `${work.left.toFixed(1)} s left`}</span>
        <Button onClick={() => work.cancel()} sx={{ height: 22, padding: '0 8px' }}>
          Cancel
        </Button>
      </Box>
      <LinearProgress variant="determinate" value={100 * work.share} aria-label={work.what} />
    </Box>
  );
}

/** Says that the plate is on its way: in the middle, or in a corner of the picture as it was left. */
export function Opening({ corner }: { corner: boolean }) {
  const place = corner ? { right: 12, bottom: 12, padding: '8px 12px', background: 'rgba(26,26,25,.94)', borderRadius: '4px' } : { inset: 0 };
  return (
    <Box sx={{ position: 'absolute', display: 'flex', alignItems: 'center', justifyContent: 'center', color: 'var(--text)', ...place }}>
      Opening the plate…
    </Box>
  );
}
