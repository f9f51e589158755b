import Box from '@mui/material/Box';
import { lazy, Suspense } from 'react';
import type { ChartProps } from './LineChart';
import { useNear } from './useNear';

const LineChart = lazy(() => import('./LineChart').then((m) => ({ default: m.LineChart })));

/** A small curve whose colour is distance. What draws it is loaded when it is first seen; its room is kept meanwhile. */
export function Chart(props: ChartProps) {
  const [near, place] = useNear('0px');
  const room = <Box sx={{ height: props.height ?? 104 }} />;
  return (
    <Box ref={place}>
      {near ? (
        <Suspense fallback={room}>
          <LineChart {...props} />
        </Suspense>
      ) : (
        room
      )}
    </Box>
  );
}
