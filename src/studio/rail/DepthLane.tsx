import type { FlatsContent } from '../../core/depth/layers/flats/content';
import type { ShapesContent } from '../../core/depth/layers/shape/content';
import { rulerDistance, rulerPlace, type Ruler } from '../../core/depth/ruler';
import type { Layer, Shot } from '../../core/document/schema';
import { formatMetres } from '../../core/values/params';
import { changeContent, changeLayer, contentIn, distanceOfRaw, isLocked, rawOfDistance } from '../chapters/depth/layerActions';
import { useBrush } from '../chapters/depth/tools/brush/brushStore';
import { useFlats } from '../chapters/depth/tools/flats/flatsStore';
import { useShapeTool } from '../chapters/depth/tools/shape/shapeStore';
import { RailHandle } from './RailHandle';

/** Something in a depth layer that lies at a distance and is moved along the rail. */
interface Mark {
  readonly id: string;
  readonly label: string;
  readonly distance: number;
  readonly chosen: boolean;
  set(distance: number, key: string): void;
}

const tidy = (distance: number): number => Number(Math.min(1e6, Math.max(0.01, distance)).toPrecision(4));

/** What the chosen layer has on the rail. */
function useMarks(shot: Shot, layer: Layer | undefined): Mark[] {
  const brush = useBrush();
  const shapes = useShapeTool((s) => s.chosen);
  const flat = useFlats((s) => s.flat);
  const { calibration } = shot.settings;
  if (!layer) return [];
  const raw = (distance: number): number => rawOfDistance(distance, calibration);
  switch (layer.kind) {
    case 'brush':
      return brush.mode === 'set'
        ? [
            {
              id: 'set',
              label: 'Brush: distance that is set',
              distance: distanceOfRaw(brush.nearness, calibration),
              chosen: true,
              set: (d) => brush.set({ nearness: raw(d) }),
            },
          ]
        : [];
    case 'shape':
      return contentIn<ShapesContent>(layer)
        .shapes.filter((s) => !s.tie)
        .map((s) => ({
          id: s.id,
          label: `${s.name}: distance`,
          distance: distanceOfRaw(s.nearness, calibration),
          chosen: shapes.includes(s.id),
          set: (d, key) =>
            changeContent<ShapesContent>(
              layer.id,
              (c) => {
                const found = c.shapes.find((q) => q.id === s.id);
                if (found) found.nearness = raw(d);
              },
              key,
            ),
        }));
    case 'flats':
      return contentIn<FlatsContent>(layer)
        .flats.filter((f) => f.visible)
        .map((f) => ({
          id: f.id,
          label: `${f.name}: distance`,
          distance: f.distance,
          chosen: f.id === flat,
          set: (d, key) =>
            changeContent<FlatsContent>(
              layer.id,
              (c) => {
                const found = c.flats.find((q) => q.id === f.id);
                if (found) found.distance = tidy(d);
              },
              key,
            ),
        }));
    case 'head':
      return [
        {
          id: 'face',
          label: 'Head form: face',
          distance: Number(layer.values.distance),
          chosen: true,
          set: (d, key) => changeLayer(layer.id, (l) => void (l.values.distance = tidy(d)), key),
        },
        ...(layer.values.backdropOn
          ? [
              {
                id: 'backdrop',
                label: 'Head form: backdrop',
                distance: Number(layer.values.backdrop),
                chosen: false,
                set: (d: number, key: string) => changeLayer(layer.id, (l) => void (l.values.backdrop = tidy(d)), key),
              },
            ]
          : []),
      ];
    default:
      return [];
  }
}

interface Props {
  readonly shot: Shot;
  readonly layer: Layer | undefined;
  readonly x: (distance: number) => number;
  readonly left: number;
  readonly span: number;
  readonly axis: number;
  readonly y: number;
  readonly height: number;
  readonly colour: (distance: number) => string;
  readonly ruler: Ruler;
}

/** A lane for the distances of the layer being made. */
export function DepthLane({ shot, layer, x, left, span, axis, y, height, colour, ruler }: Props) {
  const marks = useMarks(shot, layer);
  return (
    <g>
      <rect x={left} y={y} width={span} height={height} rx={2} fill="#fff" opacity={0.04} />
      {marks.length === 0 && (
        <text x={left + 6} y={y + height / 2 + 4} fill="var(--mute)" style={{ fontSize: 11 }}>
          {layer ? `${layer.name}: nothing at a distance of its own` : 'Choose a layer'}
        </text>
      )}
      {/* the chosen ones last, so that they lie on top */}
      {[...marks]
        .sort((a, b) => Number(a.chosen) - Number(b.chosen))
        .map((m) => (
          <g key={m.id} opacity={m.chosen ? 1 : 0.65}>
            <RailHandle
              label={m.label}
              x={x(m.distance)}
              y={axis}
              stem={y + height - axis}
              shape="round"
              colour={colour(m.distance)}
              text={formatMetres(m.distance)}
              value={m.distance === Infinity ? 1e6 : m.distance}
              start={m.distance}
              onDrag={(dx, start, key) => layer && !isLocked(layer) && m.set(rulerDistance(ruler, rulerPlace(ruler, start) + dx / span), key)}
              onStep={(steps, key) => layer && !isLocked(layer) && m.set((m.distance === Infinity ? 1e5 : m.distance) * 1.02 ** steps, key)}
            />
          </g>
        ))}
    </g>
  );
}
