import type { Lane } from '../../core/effects/lane';

interface Props {
  readonly lane: Lane;
  readonly x: (distance: number) => number;
  readonly left: number;
  readonly span: number;
  readonly y: number;
  readonly height: number;
  readonly colour: (distance: number) => string;
}

/** How strongly an effect acts along the rail, its caption set where there is room. */
export function LaneShape({ lane, x, left, span, y, height, colour }: Props) {
  const first = lane.points[0]!;
  const last = lane.points[lane.points.length - 1]!;
  const rise = (strength: number): number => y + height - 2 - strength * (height - 4);
  const outline = [
    `${left},${rise(first.strength)}`,
    ...lane.points.map((p) => `${x(p.distance).toFixed(1)},${rise(p.strength).toFixed(1)}`),
    `${left + span},${rise(last.strength)}`,
  ];
  const bar = lane.solid && { from: x(lane.solid.from), to: x(lane.solid.to) };
  const middle = lane.handles[0]?.distance ?? lane.solid?.from ?? first.distance;
  const end = bar?.to ?? left;
  const roomAfter = left + span - end;
  return (
    <g>
      <rect x={left} y={y} width={span} height={height} rx={2} fill="#fff" opacity={0.04} />
      <path d={`M${left},${y + height - 2} L${outline.join(' ')} L${left + span},${y + height - 2}Z`} fill="url(#near-far)" opacity={0.35} />
      {bar && <rect x={bar.from} y={y + 3} width={Math.max(1.5, bar.to - bar.from)} height={height - 6} rx={1} fill={colour(middle)} />}
      <text
        x={roomAfter > 210 ? end + 10 : (bar?.from ?? left + span) - 10}
        y={y + height / 2 + 4}
        textAnchor={roomAfter > 210 ? 'start' : 'end'}
        fill="var(--text)"
        style={{ fontSize: 11, paintOrder: 'stroke', stroke: 'var(--ground)', strokeWidth: 3 }}
        pointerEvents="none"
      >
        {lane.caption}
      </text>
    </g>
  );
}
