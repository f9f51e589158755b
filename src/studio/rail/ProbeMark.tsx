import { formatMetres } from '../../core/values/params';
import { useShot } from '../state/documentStore';
import { useSession } from '../state/sessionStore';
import { useViewPart } from '../state/viewStore';
import { probeAt } from '../picture/probe';
import { HEAD, LEFT, type RailScale } from './railLayout';

/** Runs along the rail with the probe in the picture. */
export function ProbeMark({ scale, height }: { scale: RailScale; height: number }) {
  const shot = useShot();
  const preview = useSession((s) => s.preview);
  const { pointer } = useViewPart('pointer');
  const probe = pointer && preview && shot ? probeAt(preview, shot, pointer.x, pointer.y) : null;
  if (!probe) return null;
  const at = scale.x(probe.distance);
  const leftSide = at > LEFT + scale.span - 60;
  return (
    <g pointerEvents="none" data-testid="rail-probe">
      <line x1={at} x2={at} y1={HEAD + 2} y2={height - 4} stroke="#fff" strokeOpacity={0.85} />
      <text x={at + (leftSide ? -5 : 5)} y={HEAD + 8} textAnchor={leftSide ? 'end' : 'start'} className="mono" style={{ fontSize: 10 }} fill="#fff">
        {formatMetres(probe.distance)}
      </text>
    </g>
  );
}
