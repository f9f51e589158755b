'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { downloadProject } from '../studio/chapters/output/downloadProject';
import { useDocument } from '../studio/state/documentStore';

/** Stands where a whole page failed: what is stored is safe, and the open project can be taken out. */
export default function PageError({ error, reset }: { error: Error; reset: () => void }) {
  const open = useDocument((s) => s.project !== null);
  return (
    <Box
      component="main"
      role="alert"
      sx={{ height: '100vh', display: 'flex', flexDirection: 'column', alignItems: 'center', justifyContent: 'center', gap: '12px', padding: '20px' }}
    >
      <Box component="h1" sx={{ fontSize: 15, fontWeight: 600, margin: 0 }}>
        This page could not be shown.
      </Box>
      <Box sx={{ color: 'var(--mute)', maxWidth: 520, textAlign: 'center', overflowWrap: 'anywhere' }}>
        Your projects are kept in this browser. ({error.message.slice(0, 300)})
      </Box>
      <Box sx={{ display: 'flex', gap: '8px' }}>
        <Button variant="contained" onClick={reset}>
          Show it again
        </Button>
        {open && <Button onClick={() => void downloadProject()}>Download project file</Button>}
        <Button component="a" href="/">
          All shots
        </Button>
      </Box>
    </Box>
  );
}
