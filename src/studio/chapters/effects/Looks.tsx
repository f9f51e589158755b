import Box from '@mui/material/Box';
import { lazy, memo, Suspense } from 'react';
import { PopButton } from '../../controls/PopButton';

const LookList = lazy(() => import('./LookList').then((m) => ({ default: m.LookList })));

/** Looks: all effects of a shot at once, each as a small picture of this very shot. */
export const Looks = memo(function Looks() {
  return (
    <PopButton text="Looks" label="Looks">
      {(close) => (
        <Suspense fallback={<Box sx={{ width: 600, height: 200 }} />}>
          <LookList onDone={close} />
        </Suspense>
      )}
    </PopButton>
  );
});
