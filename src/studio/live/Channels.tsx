import Box from '@mui/material/Box';
import { CategoryScale, Chart, LinearScale, LineElement, PointElement, type ChartOptions } from 'chart.js';
import { useEffect } from 'react';
import { Line } from 'react-chartjs-2';
import { tokens } from '../../theme/tokens';
import { STILL_CHART } from '../controls/chartLook';
import { useLive } from '../state/liveStore';
import { historyOf, HISTORY_MS, rememberChannels } from './history';

Chart.register(CategoryScale, LinearScale, LineElement, PointElement);

/** So many channels are drawn; the others are counted. */
const MOST = 40;

/** The channels that are heard: name, value, and ten seconds of each. */
export function Channels() {
  const channels = useLive((s) => s.channels);
  useEffect(() => rememberChannels(), []);
  const names = Object.keys(channels);
  if (names.length === 0) return <Box sx={{ color: 'var(--mute)' }}>None is heard yet.</Box>;
  return (
    <Box component="ul" aria-label="Channels" sx={{ listStyle: 'none', margin: 0, padding: 0 }}>
      {names.slice(0, MOST).map((name) => (
        <Box
          component="li"
          key={name}
          sx={{ display: 'grid', gridTemplateColumns: '72px 1fr 48px', alignItems: 'center', gap: '8px', minHeight: 28 }}
        >
          <Box component="span" title={name} sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
            {name}
          </Box>
          <ChannelHistory name={name} />
          <Box component="span" className="mono" sx={{ textAlign: 'right' }}>
            {channels[name]!.toFixed(2)}
          </Box>
        </Box>
      ))}
      {names.length > MOST && <Box sx={{ color: 'var(--mute)' }}>and {names.length - MOST} more</Box>}
    </Box>
  );
}

/** Ten seconds of a channel. */
export function ChannelHistory({ name, height = 24 }: { name: string; height?: number }) {
  const samples = historyOf(name);
  const now = samples.at(-1)?.at ?? 0;
  const values = samples.map((s) => s.value);
  const low = Math.min(0, ...values);
  const high = Math.max(1, ...values);
  const options: ChartOptions<'line'> = {
    ...STILL_CHART,
    scales: {
      x: { type: 'linear', min: -HISTORY_MS, max: 0, display: false },
      y: { type: 'linear', min: low, max: high, display: false },
    },
  };
  const data = {
    datasets: [{ data: samples.map(({ at, value }) => ({ x: at - now, y: value })), borderWidth: 1.3, pointRadius: 0, borderColor: tokens.mute }],
  };
  return (
    <Box sx={{ height, position: 'relative', minWidth: 0, borderBottom: '1px solid var(--line)' }}>
      <Line data={data} options={options} role="img" aria-label={`${name} over the last ten seconds`} />
    </Box>
  );
}
