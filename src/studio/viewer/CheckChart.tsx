import Box from '@mui/material/Box';
import { BarController, BarElement, CategoryScale, Chart, LinearScale } from 'chart.js';
import { Bar } from 'react-chartjs-2';
import type { CheckResult } from '../../core/depth/checks/definition';
import { fonts, tokens } from '../../theme/tokens';
import { useSettled } from '../controls/useSettled';

Chart.register(BarController, BarElement, CategoryScale, LinearScale);

/** The figures of a check as bars, in a corner of the picture. */
export function CheckChart({ chart: latest }: { chart: NonNullable<CheckResult['chart']> }) {
  const chart = useSettled(latest);
  return (
    <Box
      sx={{
        position: 'absolute',
        left: 12,
        bottom: 12,
        width: 220,
        padding: '8px 10px',
        background: 'rgba(26,26,25,.94)',
        border: '1px solid var(--line2)',
        borderRadius: '4px',
        pointerEvents: 'none',
      }}
    >
      <Box sx={{ fontSize: 11, color: 'var(--mute)', marginBottom: '4px' }}>{chart.title}</Box>
      <Box sx={{ height: 54, position: 'relative' }}>
        <Bar
          role="img"
          aria-label={chart.title}
          data={{
            labels: chart.bins.map(String),
            datasets: [{ data: [...chart.bins], backgroundColor: tokens.paper, barPercentage: 1, categoryPercentage: 0.92 }],
          }}
          options={{
            animation: false,
            responsive: true,
            maintainAspectRatio: false,
            events: [],
            font: { family: fonts.numbers },
            plugins: { legend: { display: false }, tooltip: { enabled: false } },
            scales: { x: { display: false }, y: { display: false, beginAtZero: true } },
          }}
        />
      </Box>
      <Box className="mono" sx={{ display: 'flex', justifyContent: 'space-between', fontSize: 10, color: 'var(--mute)', marginTop: '2px' }}>
        <span>{chart.from}</span>
        <span>{chart.to}</span>
      </Box>
    </Box>
  );
}
