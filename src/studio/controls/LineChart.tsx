import Box from '@mui/material/Box';
import {
  CategoryScale,
  Chart,
  LinearScale,
  LineElement,
  LogarithmicScale,
  PointElement,
  type ChartOptions,
  type ScriptableLineSegmentContext,
} from 'chart.js';
import { Line } from 'react-chartjs-2';
import { fonts, tokens } from '../../theme/tokens';
import { STILL_CHART } from './chartLook';

Chart.register(CategoryScale, LinearScale, LogarithmicScale, LineElement, PointElement);

export interface ChartPoint {
  readonly x: number;
  readonly y: number;
  readonly colour: string;
}

export interface ChartProps {
  readonly label: string;
  readonly points: readonly ChartPoint[];
  /** another curve to compare with, drawn faintly beneath */
  readonly beneath?: readonly Omit<ChartPoint, 'colour'>[];
  readonly marks?: readonly ChartPoint[];
  /** the value at a place along the axis, as text */
  readonly xTicks: readonly { readonly at: number; readonly text: string }[];
  readonly yTicks: readonly { readonly at: number; readonly text: string }[];
  readonly yMax: number;
  readonly height?: number;
}

/** A small curve whose colour is distance. x runs 0…1. */
export function LineChart({ label, points, beneath = [], marks = [], xTicks, yTicks, yMax, height = 104 }: ChartProps) {
  const tick = { color: tokens.mute, font: { family: fonts.numbers, size: 9.5 } };
  const axis = (ticks: ChartProps['xTicks'], max: number) => ({
    type: 'linear' as const,
    min: 0,
    max,
    grid: { color: tokens.line, drawTicks: false },
    border: { display: false },
    afterBuildTicks: (scale: { ticks: { value: number }[] }) => {
      scale.ticks = ticks.map((t) => ({ value: t.at }));
    },
    ticks: {
      ...tick,
      autoSkip: false,
      maxRotation: 0,
      padding: 4,
      callback: (value: string | number) => ticks.find((t) => Math.abs(t.at - Number(value)) < 1e-9)?.text ?? '',
    },
  });
  const options: ChartOptions<'line'> = {
    ...STILL_CHART,
    scales: { x: axis(xTicks, 1), y: axis(yTicks, yMax) },
  };
  const data = {
    datasets: [
      {
        data: points.map(({ x, y }) => ({ x, y })),
        borderWidth: 2,
        pointRadius: 0,
        segment: { borderColor: (c: ScriptableLineSegmentContext) => points[c.p0DataIndex]?.colour ?? tokens.mid },
        borderColor: tokens.mid,
      },
      { data: beneath.map(({ x, y }) => ({ x, y })), borderWidth: 1.5, pointRadius: 0, borderColor: tokens.mute },
      {
        data: marks.map(({ x, y }) => ({ x, y })),
        showLine: false,
        pointRadius: 4,
        pointBorderColor: tokens.paper,
        pointBorderWidth: 1.5,
        pointBackgroundColor: marks.map((m) => m.colour),
      },
    ],
  };
  return (
    <Box sx={{ height, position: 'relative' }}>
      <Line data={data} options={options} role="img" aria-label={label} />
    </Box>
  );
}
