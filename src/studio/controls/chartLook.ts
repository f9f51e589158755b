import type { ChartOptions } from 'chart.js';

/** A chart that stands still: it answers no pointer and fills its place. */
export const STILL_CHART: ChartOptions<'line'> = {
  animation: false,
  responsive: true,
  maintainAspectRatio: false,
  events: [],
  plugins: { legend: { display: false }, tooltip: { enabled: false } },
};
