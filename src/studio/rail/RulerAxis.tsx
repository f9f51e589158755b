import { rulerTicks } from '../../core/depth/ruler';
import { formatMetres } from '../../core/values/params';
import { END } from '../score/measures';
import { HEAD, LEFT, type RailScale } from './railLayout';

const tickText = (distance: number, last: boolean): string => {
  if (distance === Infinity) return '∞';
  const text = String(Number(formatMetres(distance).replace(' m', '')));
  return last ? `${text} m` : text;
};

/** The ruler's line with its figures. */
export function RulerAxis({ scale: { ruler, span, axis }, far }: { scale: RailScale; far: number }) {
  return (
    <>
      <line x1={LEFT} x2={LEFT + span} y1={axis + 0.5} y2={axis + 0.5} stroke="var(--paper)" strokeOpacity={0.3} />
      {rulerTicks(ruler, 46 / span).map((t) => (
        <g key={t.place}>
          <line x1={LEFT + span * t.place} x2={LEFT + span * t.place} y1={axis + 1} y2={axis + 6} stroke="var(--mute)" />
          {/* the last one ends where the window does */}
          <text
            x={LEFT + span * t.place + (t.place === 1 ? END - 4 : 0)}
            y={axis + 17}
            textAnchor={t.place === 1 ? 'end' : 'middle'}
            className="mono"
            style={{ fontSize: 10 }}
            fill="var(--mute)"
          >
            {tickText(t.place === 1 ? far : t.distance, t.place === 1)}
          </text>
        </g>
      ))}
    </>
  );
}

/** The picture's depths over the ruler. */
export function Histogram({ bins, scale: { span, axis } }: { bins: Float32Array; scale: RailScale }) {
  // a steep scale would hide everything beside the sky: heights follow the root of the share
  const top = Math.sqrt(bins.reduce((a, b) => Math.max(a, b), 1e-6));
  const points = Array.from(
    bins,
    (v, i) => `${(LEFT + (span * (i + 0.5)) / bins.length).toFixed(1)},${(axis - (Math.sqrt(v) / top) * (axis - HEAD - 2)).toFixed(1)}`,
  );
  return <path d={`M${LEFT},${axis} L${points.join(' ')} L${LEFT + span},${axis}Z`} fill="url(#near-far)" opacity={0.6} />;
}
