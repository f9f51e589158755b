import { rulerTicks } from '../../core/depth/ruler';
import { formatMetres } from '../../core/values/params';
import { AXIS, HISTOGRAM, PAD, type RailScale } from './railLayout';

const tickText = (distance: number, last: boolean): string => {
  if (distance === Infinity) return '∞';
  const text = String(Number(formatMetres(distance).replace(' m', '')));
  return last ? `${text} m` : text;
};

/** The ruler's line with its figures. */
export function RulerAxis({ scale: { ruler, span }, far }: { scale: RailScale; far: number }) {
  return (
    <>
      <line x1={PAD} x2={PAD + span} y1={AXIS + 0.5} y2={AXIS + 0.5} stroke="var(--paper)" strokeOpacity={0.3} />
      {rulerTicks(ruler, 46 / span).map((t) => (
        <g key={t.place}>
          <line x1={PAD + span * t.place} x2={PAD + span * t.place} y1={AXIS + 1} y2={AXIS + 6} stroke="var(--mute)" />
          <text x={PAD + span * t.place} y={AXIS + 17} textAnchor="middle" className="mono" style={{ fontSize: 10 }} fill="var(--mute)">
            {tickText(t.place === 1 ? far : t.distance, t.place === 1)}
          </text>
        </g>
      ))}
    </>
  );
}

/** The picture's depths over the ruler. */
export function Histogram({ bins, span }: { bins: Float32Array; span: number }) {
  // a steep scale would hide everything beside the sky: heights follow the root of the share
  const top = Math.sqrt(bins.reduce((a, b) => Math.max(a, b), 1e-6));
  const points = Array.from(
    bins,
    (v, i) => `${(PAD + (span * (i + 0.5)) / bins.length).toFixed(1)},${(AXIS - (Math.sqrt(v) / top) * (HISTOGRAM - 8)).toFixed(1)}`,
  );
  return <path d={`M${PAD},${AXIS} L${points.join(' ')} L${PAD + span},${AXIS}Z`} fill="url(#near-far)" opacity={0.6} />;
}
