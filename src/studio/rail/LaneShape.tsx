import type { Lane } from '../../core/matte/lane';
import { LEFT, type LaneRow, type RailScale } from './railLayout';

interface Props {
  readonly lane: Lane;
  readonly scale: RailScale;
  readonly row: LaneRow;
}

/** How strongly an effect acts along the rail. What it is called stands beside it. */
export function LaneShape({ lane, scale: { x, span, colour }, row: { y, height, folded } }: Props) {
  const first = lane.points[0]!;
  const last = lane.points[lane.points.length - 1]!;
  const at = (distance: number): number => (distance > 0 ? x(distance) : LEFT);
  const edge = folded ? 0 : 2;
  const rise = (strength: number): number => y + height - edge - strength * (height - 2 * edge);
  const outline = [
    `${LEFT},${rise(first.strength)}`,
    ...lane.points.map((p) => `${at(p.distance).toFixed(1)},${rise(p.strength).toFixed(1)}`),
    `${LEFT + span},${rise(last.strength)}`,
  ];
  const bar = lane.solid && { from: at(lane.solid.from), to: at(lane.solid.to) };
  const middle = lane.handles[0]?.distance || lane.solid?.from || first.distance || 1;
  const inset = folded ? 0 : Math.min(3, height / 4);
  return (
    <g>
      <title>{lane.caption}</title>
      <rect x={LEFT} y={y} width={span} height={height} rx={folded ? 0 : 2} fill="#fff" opacity={folded ? 0.025 : 0.04} />
      <path
        d={`M${LEFT},${y + height - edge} L${outline.join(' ')} L${LEFT + span},${y + height - edge}Z`}
        fill="url(#near-far)"
        opacity={folded ? 0.6 : 0.42}
      />
      {bar && (
        <rect
          x={bar.from}
          y={y + inset}
          width={Math.max(1.5, bar.to - bar.from)}
          height={height - 2 * inset}
          rx={folded ? 0 : 1}
          fill={colour(middle)}
        />
      )}
    </g>
  );
}
