import type { Flat, FlatsContent } from '../../../../../core/depth/layers/flats/content';
import { formatMetres } from '../../../../../core/values/params';
import { useTint } from '../../../../controls/useTint';
import { keyGesture } from '../../../../state/documentStore';
import { changeContent, contentIn, dragLayer, isLocked } from '../../layerActions';
import type { OverlayProps } from '../../plateView';
import { Handle } from '../Handle';
import { useFlats } from './flatsStore';

/** The corners of a flat, shares of the plate: upper left, upper right, lower right, lower left. */
const cornersOf = (flat: Flat, aspect: number): readonly (readonly [number, number])[] => {
  const half = (flat.height * flat.aspect) / aspect / 2;
  return [
    [flat.x - half, flat.y - flat.height],
    [flat.x + half, flat.y - flat.height],
    [flat.x + half, flat.y],
    [flat.x - half, flat.y],
  ];
};

/** Height of a flat, shares of the plate's. */
const clampHeight = (height: number): number => Math.min(20, Math.max(0.005, height));

/** The flats over the picture: moved by dragging, sized by an upper corner. */
export function FlatsOverlay({ shot, layer, view }: OverlayProps) {
  const { flat: chosen, set } = useFlats();
  const tint = useTint();
  const { flats } = contentIn<FlatsContent>(layer);
  const aspect = shot.plate.width / shot.plate.height;
  const drag = (
    event: React.PointerEvent,
    flat: Flat,
    change: (p: { x: number; y: number }, from: { x: number; y: number }) => Partial<Flat>,
  ): void => {
    const from = view.pointer(event);
    dragLayer(event, layer, (e) => {
      const part = change(view.pointer(e), from);
      return { content: { flats: flats.map((f) => (f.id === flat.id ? { ...f, ...part } : f)) } };
    });
  };
  const move = (event: React.PointerEvent, flat: Flat): void => {
    if (event.button === 0) set({ flat: flat.id });
    drag(event, flat, (p, from) => ({ x: flat.x + p.x - from.x, y: flat.y + p.y - from.y }));
  };
  const size = (event: React.PointerEvent, flat: Flat): void => drag(event, flat, (p) => ({ height: clampHeight(flat.y - p.y) }));
  /** Changes a flat by keys. */
  const put = (id: string, change: (flat: Flat) => Partial<Flat>): void => {
    if (isLocked(layer)) return;
    changeContent<FlatsContent>(
      layer.id,
      (c) => {
        const flat = c.flats.find((f) => f.id === id);
        if (flat) Object.assign(flat, change(flat));
      },
      keyGesture(`flat:${id}`),
    );
  };
  // the farthest first, so that the nearest is taken hold of
  const order = [...flats].sort((a, b) => b.distance - a.distance);
  const active = flats.find((f) => f.id === chosen);
  return (
    <>
      <svg width={view.width} height={view.height} style={{ position: 'absolute', inset: 0, pointerEvents: 'none' }}>
        {order.map((f) => (
          <Outline
            key={f.id}
            flat={f}
            points={cornersOf(f, aspect).map(([x, y]) => view.toView(x, y))}
            chosen={f.id === chosen}
            colour={tint(f.distance)}
            onMove={(e) => move(e, f)}
          />
        ))}
      </svg>
      {active && (
        <>
          <Handle
            at={view.toView(active.x, active.y)}
            label={`Foot of ${active.name}`}
            onPointerDown={(e) => move(e, active)}
            onStep={(dx, dy) => put(active.id, (f) => ({ x: f.x + dx / shot.plate.width, y: f.y + dy / shot.plate.height }))}
          />
          <Handle
            small
            square
            at={view.toView(...(cornersOf(active, aspect)[1] as [number, number]))}
            label={`Height of ${active.name}`}
            cursor="nesw-resize"
            onPointerDown={(e) => size(e, active)}
            onStep={(dx, dy) => put(active.id, (f) => ({ height: clampHeight(f.height + (dx - dy) / shot.plate.height) }))}
          />
        </>
      )}
    </>
  );
}

interface OutlineProps {
  readonly flat: Flat;
  /** its corners in the view, the top left one first */
  readonly points: readonly { readonly x: number; readonly y: number }[];
  readonly chosen: boolean;
  readonly colour: string;
  readonly onMove: (event: React.PointerEvent) => void;
}

/** Where a flat stands, with its distance where it is chosen. */
const Outline = ({ flat, points, chosen, colour, onMove }: OutlineProps) => (
  <g>
    <polygon
      points={points.map((p) => `${p.x.toFixed(1)},${p.y.toFixed(1)}`).join(' ')}
      fill="transparent"
      stroke={chosen ? '#fff' : colour}
      strokeWidth={chosen ? 2 : 1.2}
      strokeDasharray={chosen ? undefined : '4 3'}
      style={{ pointerEvents: flat.visible ? 'all' : 'none', cursor: 'move' }}
      onPointerDown={onMove}
    />
    {chosen && (
      <text
        x={points[0]!.x}
        y={points[0]!.y - 6}
        className="mono"
        fill="#fff"
        style={{ fontSize: 11, paintOrder: 'stroke', stroke: '#000a', strokeWidth: 3 }}
      >
        {formatMetres(flat.distance)}
      </text>
    )}
  </g>
);
