import Box from '@mui/material/Box';
import { lazy, Suspense } from 'react';
import type { ChartProps } from './LineChart';

const LineChart = lazy(() => import('./LineChart').then((m) => ({ default: m.LineChart })));

/** A small curve whose colour is distance; its room is kept while what draws it is on its way. */
export const Chart = (props: ChartProps) => (
  <Suspense fallback={<Box sx={{ height: props.height ?? 104 }} />}>
    <LineChart {...props} />
  </Suspense>
);
