import type { Layer, Shot } from '../../core/document/schema';
import { formatMetres } from '../../core/values/params';
import { isLocked } from '../chapters/depth/layerActions';
import type { RailDistance } from '../chapters/depth/tools/tool';
import { toolOf } from '../chapters/depth/tools/registry';
import { useLayerNow } from '../state/useLayerNow';
import { RailHandle } from './RailHandle';
import { LEFT, type RailScale } from './railLayout';

interface Props {
  readonly shot: Shot;
  readonly layer: Layer | undefined;
  readonly scale: RailScale;
  readonly y: number;
  readonly height: number;
}

const NO_DISTANCES = (): RailDistance[] => [];

/** A lane for the distances of the layer being made. */
export function DepthLane({ shot, layer: set, scale, y, height }: Props) {
  const layer = useLayerNow(set);
  return (
    <g>
      <rect x={LEFT} y={y} width={scale.span} height={height} rx={2} fill="#fff" opacity={0.04} />
      {layer && <LayerDistances key={layer.id} shot={shot} layer={layer} scale={scale} y={y} height={height} />}
    </g>
  );
}

const Said = ({ y, text }: { y: number; text: string }) => (
  <text x={LEFT + 6} y={y + 4} fill="var(--mute)" style={{ fontSize: 11 }}>
    {text}
  </text>
);

/** What the layer has at distances; its kind stays the same for as long as this is shown, and so does its hook. */
function LayerDistances({ shot, layer, scale, y, height }: Props & { layer: Layer }) {
  const useDistances = toolOf(layer).useDistances ?? NO_DISTANCES;
  const marks = useDistances(shot, layer);
  if (marks.length === 0) return <Said y={y + height / 2} text="nothing at a distance of its own" />;
  return (
    <>
      {/* the chosen ones last, so that they lie on top */}
      {[...marks]
        .sort((a, b) => Number(a.chosen) - Number(b.chosen))
        .map((m) => (
          <g key={m.id} opacity={m.chosen ? 1 : 0.65}>
            <RailHandle
              label={m.label}
              x={scale.x(m.distance)}
              y={scale.axis}
              stem={y + height - scale.axis}
              shape="round"
              colour={scale.colour(m.distance)}
              text={formatMetres(m.distance)}
              value={m.distance === Infinity ? 1e6 : m.distance}
              start={m.distance}
              onDrag={(dx, start, gesture) => !isLocked(layer) && m.set(scale.moved(start, dx), gesture)}
              onStep={(steps, gesture) => !isLocked(layer) && m.set((m.distance === Infinity ? 1e5 : m.distance) * 1.02 ** steps, gesture)}
            />
          </g>
        ))}
    </>
  );
}
