import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Popover from '@mui/material/Popover';
import { lazy, memo, Suspense, useState } from 'react';

const LookList = lazy(() => import('./LookList').then((m) => ({ default: m.LookList })));

/** Looks: all effects of a shot at once, each as a small picture of this very shot. */
export const Looks = memo(function Looks() {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button sx={{ height: 24, padding: '0 8px' }} aria-haspopup="dialog" onClick={(e) => setAnchor(e.currentTarget)}>
        Looks
      </Button>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: 'bottom', horizontal: 'right' }}
        transformOrigin={{ vertical: 'top', horizontal: 'right' }}
        slotProps={{ paper: { role: 'dialog', 'aria-label': 'Looks' } }}
      >
        <Suspense fallback={<Box sx={{ width: 600, height: 200 }} />}>{anchor && <LookList onDone={() => setAnchor(null)} />}</Suspense>
      </Popover>
    </>
  );
});
