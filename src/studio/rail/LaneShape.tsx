import type { Lane } from '../../core/effects/lane';
import { PAD, type RailScale } from './railLayout';

interface Props {
  readonly lane: Lane;
  readonly scale: RailScale;
  readonly row: { readonly y: number; readonly height: number; readonly folded: boolean };
}

/** Room for a caption, px a letter. */
const LETTER = 6.3;

/** How strongly an effect acts along the rail, its caption set where there is room. */
export function LaneShape({ lane, scale: { x, span, colour }, row: { y, height, folded } }: Props) {
  const first = lane.points[0]!;
  const last = lane.points[lane.points.length - 1]!;
  const at = (distance: number): number => (distance > 0 ? x(distance) : PAD);
  const rise = (strength: number): number => y + height - 2 - strength * (height - 4);
  const outline = [
    `${PAD},${rise(first.strength)}`,
    ...lane.points.map((p) => `${at(p.distance).toFixed(1)},${rise(p.strength).toFixed(1)}`),
    `${PAD + span},${rise(last.strength)}`,
  ];
  const bar = lane.solid && { from: at(lane.solid.from), to: at(lane.solid.to) };
  const middle = lane.handles[0]?.distance || lane.solid?.from || first.distance || 1;
  const room = lane.caption.length * LETTER + 12;
  const end = bar?.to ?? PAD;
  const begin = bar?.from ?? PAD + span;
  // after its bar, before it, or in it where neither side has room
  const caption =
    PAD + span - end > room
      ? { x: end + 10, anchor: 'start' as const }
      : begin > room
        ? { x: begin - 10, anchor: 'end' as const }
        : { x: begin + 10, anchor: 'start' as const };
  return (
    <g>
      <rect x={PAD} y={y} width={span} height={height} rx={2} fill="#fff" opacity={0.04} />
      <path
        d={`M${PAD},${y + height - 2} L${outline.join(' ')} L${PAD + span},${y + height - 2}Z`}
        fill="url(#near-far)"
        opacity={folded ? 0.28 : 0.35}
      />
      {bar && <rect x={bar.from} y={y + 3} width={Math.max(1.5, bar.to - bar.from)} height={height - 6} rx={1} fill={colour(middle)} />}
      <text
        x={caption.x}
        y={y + height / 2 + (folded ? 3.5 : 4)}
        textAnchor={caption.anchor}
        fill={folded ? 'var(--mute)' : 'var(--text)'}
        style={{ fontSize: folded ? 10 : 11, paintOrder: 'stroke', stroke: 'var(--ground)', strokeWidth: 3 }}
        pointerEvents="none"
      >
        {lane.caption}
      </text>
    </g>
  );
}
