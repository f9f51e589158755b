import { useEffect } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { shapeSchema, type Shape, type ShapePoint, type ShapesContent } from '../../../../../core/depth/layers/shape/content';
import {
  boundsOf,
  cornerAt,
  insertPoint,
  moveHandle,
  nearestOnCurve,
  removePoint,
  roundPoint,
  transformShape,
  type Transform,
} from '../../../../../core/depth/layers/shape/edit';
import { newId } from '../../../../../core/document/defaults';
import type { Layer } from '../../../../../core/document/schema';
import { liveLayer, useLive } from '../../../../state/liveStore';
import { useSession } from '../../../../state/sessionStore';
import { useView } from '../../../../state/viewStore';
import { rawUnder } from '../../../../viewer/probe';
import { useTint } from '../../../../controls/useTint';
import { changeContent, commitLive, contentIn, distanceOfRaw, isLocked } from '../../layerActions';
import { startDrag, type OverlayProps } from '../../plateView';
import { Handle } from '../Handle';
import { useShapeTool } from './shapeStore';

/** A square of a fifth of the plate's height in its middle. */
const squareIn = (aspect: number): ShapePoint[] =>
  [
    [-1, -1],
    [1, -1],
    [1, 1],
    [-1, 1],
  ].map(([x, y]) => cornerAt(0.5 + (0.1 * x!) / aspect, 0.5 + 0.1 * y!));

/** How near the first point a click closes a curve, px. */
const CLOSES = 12;

/** Closed curves over the picture: drawn, then edited by their points, their handles, and as a whole. */
export function ShapeOverlay({ shot, layer: stored, view }: OverlayProps) {
  const live = useLive((s) => s.live);
  const layer = liveLayer(stored, live);
  const { drawing, chosen, point, set } = useShapeTool();
  const tint = useTint();
  const { shapes } = contentIn<ShapesContent>(layer);
  const aspect = shot.plate.width / shot.plate.height;
  const selected = shapes.filter((s) => chosen.includes(s.id));
  const active = shapes.find((s) => s.id === chosen[chosen.length - 1]) ?? null;
  useEffect(() => () => useShapeTool.getState().set({ drawing: null, point: null }), []);

  const show = (next: (shape: Shape) => Shape): void =>
    useLive
      .getState()
      .set({ layer: layer.id, content: { shapes: contentIn<ShapesContent>(stored).shapes.map(next) } as unknown as Layer['content'] });
  const put = (next: (shape: Shape) => Shape, key?: string): void =>
    changeContent<ShapesContent>(layer.id, (c) => void (c.shapes = c.shapes.map((s) => next(s as Shape))), key);

  const close = (points: readonly ShapePoint[]): void => {
    set({ drawing: null });
    if (points.length < 3) return;
    const id = newId();
    // as near as what it is drawn on
    const nearness = rawUnder(shot, useSession.getState().preview, insideOf(points)) ?? undefined;
    changeContent<ShapesContent>(
      layer.id,
      (c) => void c.shapes.push(shapeSchema.parse({ id, name: `Shape ${c.shapes.length + 1}`, points, nearness })),
    );
    set({ chosen: [id], point: null });
  };
  // with no corner yet, Enter lays a square in the middle, to be moved by keys
  useHotkeys('enter', () => drawing && close(drawing.length > 0 ? drawing : squareIn(aspect)), {
    enabled: drawing !== null,
    // the button that began the drawing has the focus still
    preventDefault: true,
  });
  useHotkeys('escape', () => set(drawing ? { drawing: null } : { chosen: [], point: null }));
  useHotkeys(
    'delete,backspace',
    () => {
      if (drawing) set({ drawing: drawing.slice(0, -1) });
      else deleteChosen(stored);
    },
    { enabled: drawing !== null || chosen.length > 0 },
  );

  const draw = (event: React.PointerEvent): void => {
    if (event.button !== 0 || !drawing || useView.getState().panning) return;
    const p = view.pointer(event);
    const first = drawing[0] && view.toView(drawing[0].x, drawing[0].y);
    const at = view.toView(p.x, p.y);
    if (first && drawing.length >= 3 && Math.hypot(first.x - at.x, first.y - at.y) < CLOSES) {
      event.stopPropagation();
      close(drawing);
      return;
    }
    const points = [...drawing, cornerAt(p.x, p.y)];
    set({ drawing: points });
    // pulling while the pointer is down rounds the point
    startDrag(event, (e) => {
      const q = view.pointer(e);
      const last = points[points.length - 1]!;
      set({ drawing: [...points.slice(0, -1), moveHandle(last, 'out', q.x - last.x, q.y - last.y, false, aspect)] });
    });
  };

  const transform = (
    event: React.PointerEvent,
    of: (e: PointerEvent, from: { x: number; y: number }) => Transform,
    done?: (moved: boolean) => void,
  ): void => {
    if (event.button !== 0 || isLocked(stored)) return;
    const ids = new Set(useShapeTool.getState().chosen);
    const whole = contentIn<ShapesContent>(stored).shapes.filter((s) => ids.has(s.id));
    const b = boundsOf(whole);
    const about = { x: (b.left + b.right) / 2, y: (b.top + b.bottom) / 2 };
    const from = view.pointer(event);
    startDrag(
      event,
      (e) => {
        const by = of(e, from);
        show((s) => (ids.has(s.id) ? transformShape(s, by, about, aspect) : s));
      },
      (moved) => {
        commitLive();
        done?.(moved);
      },
    );
  };
  const still: Transform = { moveX: 0, moveY: 0, scale: 1, turn: 0 };
  const moveWhole = (event: React.PointerEvent, id: string): void => {
    if (drawing || event.button !== 0 || useView.getState().panning) return;
    const had = chosen.includes(id);
    if (event.shiftKey) set({ chosen: had ? chosen.filter((c) => c !== id) : [...chosen, id], point: null });
    else if (!had) set({ chosen: [id], point: null });
    transform(event, (e, from) => {
      const p = view.pointer(e);
      return { ...still, moveX: p.x - from.x, moveY: p.y - from.y };
    });
  };
  const movePoint = (event: React.PointerEvent, index: number): void => {
    if (event.button !== 0 || isLocked(stored) || !active) return;
    set({ point: index });
    const p = active.points[index]!;
    const from = view.pointer(event);
    startDrag(
      event,
      (e) => {
        const to = view.pointer(e);
        show((s) => (s.id === active.id ? withPoint(s, index, { ...p, x: p.x + to.x - from.x, y: p.y + to.y - from.y }) : s));
      },
      commitLive,
    );
  };
  const pullHandle = (event: React.PointerEvent, index: number, end: 'in' | 'out'): void => {
    if (event.button !== 0 || isLocked(stored) || !active) return;
    const p = active.points[index]!;
    startDrag(
      event,
      (e) => {
        const to = view.pointer(e);
        show((s) => (s.id === active.id ? withPoint(s, index, moveHandle(p, end, to.x - p.x, to.y - p.y, e.altKey, aspect)) : s));
      },
      commitLive,
    );
  };
  const addPoint = (event: React.MouseEvent, shape: Shape): void => {
    if (isLocked(stored)) return;
    const { index, t } = nearestOnCurve(shape.points, view.pointer(event), aspect);
    put((s) => (s.id === shape.id ? insertPoint(s, index, t) : s));
    set({ chosen: [shape.id], point: index + 1 });
  };
  /** px of the plate, from keys, to shares of it */
  const [stepX, stepY] = [1 / shot.plate.width, 1 / shot.plate.height];
  const putActive = (what: string, next: (s: Shape) => Shape): void => {
    if (active && !isLocked(stored)) put((s) => (s.id === active.id ? next(s) : s), `${what}#keys`);
  };
  const stepPoint = (dx: number, dy: number, index: number): void =>
    putActive(`point:${index}`, (s) => {
      const p = s.points[index]!;
      return withPoint(s, index, { ...p, x: p.x + dx * stepX, y: p.y + dy * stepY });
    });
  const stepHandle = (dx: number, dy: number, index: number, end: 'in' | 'out'): void =>
    putActive(`handle:${index}`, (s) => {
      const p = s.points[index]!;
      const [x, y] = end === 'in' ? [p.inX, p.inY] : [p.outX, p.outY];
      return withPoint(s, index, moveHandle(p, end, x + dx * stepX, y + dy * stepY, false, aspect));
    });
  /** The chosen shapes scaled or turned about their middle, by keys. */
  const stepWhole = (what: string, by: Partial<Transform>): void => {
    if (isLocked(stored)) return;
    const b = boundsOf(selected);
    const about = { x: (b.left + b.right) / 2, y: (b.top + b.bottom) / 2 };
    put((s) => (chosen.includes(s.id) ? transformShape(s, { ...still, ...by }, about, aspect) : s), `${what}#keys`);
  };
  const corners = selected.length > 0 && !drawing ? boxOf(selected, view) : null;
  const colourOf = (s: Shape): string => tint(distanceOfRaw(s.nearness, shot.settings.calibration));
  return (
    <>
      <svg
        width={view.width}
        height={view.height}
        data-testid="shapes"
        onPointerDown={draw}
        style={{ position: 'absolute', inset: 0, pointerEvents: drawing ? 'all' : 'none', cursor: 'crosshair', touchAction: 'none' }}
      >
        {shapes.map((s) => {
          const d = pathOf(s.points, view, true);
          const on = chosen.includes(s.id);
          return (
            <g key={s.id}>
              <path d={d} fill="none" stroke="#000" strokeOpacity={0.55} strokeWidth={on ? 4.5 : 3.5} pointerEvents="none" />
              <path
                d={d}
                fill={on ? colourOf(s) : 'transparent'}
                fillOpacity={on ? 0.16 : 1}
                stroke={on ? '#fff' : colourOf(s)}
                strokeWidth={on ? 2 : 1.5}
                style={{ pointerEvents: drawing ? 'none' : 'all', cursor: 'move' }}
                aria-label={s.name}
                onPointerDown={(e) => moveWhole(e, s.id)}
                onDoubleClick={(e) => addPoint(e, s)}
              />
            </g>
          );
        })}
        {drawing && drawing.length > 0 && <path d={pathOf(drawing, view, false)} fill="none" stroke="#fff" strokeWidth={2} strokeDasharray="5 3" />}
        {drawing?.map((p, i) => {
          const at = view.toView(p.x, p.y);
          return <circle key={i} cx={at.x} cy={at.y} r={i === 0 ? 6 : 4} fill={i === 0 ? '#fff' : 'var(--ground)'} stroke="#fff" strokeWidth={1.5} />;
        })}
        {active?.slope && <SlopeLine shape={active} view={view} />}
        {corners && (
          <rect
            x={corners.left}
            y={corners.top}
            width={corners.right - corners.left}
            height={corners.bottom - corners.top}
            fill="none"
            stroke="#fff"
            strokeOpacity={0.5}
            strokeDasharray="2 4"
          />
        )}
        {active && !drawing && active.points.map((p, i) => (i === point ? <HandleLines key={i} point={p} view={view} /> : null))}
      </svg>
      {corners &&
        (['left', 'right'] as const).flatMap((side) =>
          (['top', 'bottom'] as const).map((edge) => (
            <Handle
              key={`${side}${edge}`}
              small
              square
              at={{ x: corners[side], y: corners[edge] }}
              label="Scale"
              cursor="nwse-resize"
              onStep={(dx, dy) => stepWhole('scale', { scale: 1.01 ** (dx - dy) })}
              onPointerDown={(e) =>
                transform(e, (now, from) => {
                  const b = boundsOf(selected);
                  const about = { x: (b.left + b.right) / 2, y: (b.top + b.bottom) / 2 };
                  const p = view.pointer(now);
                  const away = (q: { x: number; y: number }): number => Math.hypot((q.x - about.x) * aspect, q.y - about.y);
                  return { ...still, scale: Math.max(0.02, away(p) / Math.max(1e-6, away(from))) };
                })
              }
            />
          )),
        )}
      {corners && (
        <Handle
          small
          at={{ x: (corners.left + corners.right) / 2, y: corners.top - 22 }}
          label="Turn"
          cursor="grab"
          onStep={(dx, dy) => stepWhole('turn', { turn: dx + dy })}
          onPointerDown={(e) =>
            transform(e, (now, from) => {
              const b = boundsOf(selected);
              const about = { x: (b.left + b.right) / 2, y: (b.top + b.bottom) / 2 };
              const angle = (q: { x: number; y: number }): number => Math.atan2(q.y - about.y, (q.x - about.x) * aspect);
              return { ...still, turn: ((angle(view.pointer(now)) - angle(from)) * 180) / Math.PI };
            })
          }
        />
      )}
      {active &&
        !drawing &&
        active.points.map((p, i) => (
          <Handle
            key={i}
            small
            at={view.toView(p.x, p.y)}
            chosen={i === point}
            label={`Point ${i + 1} of ${active.name}`}
            onPointerDown={(e) => movePoint(e, i)}
            onFocus={() => set({ point: i })}
            onStep={(dx, dy) => stepPoint(dx, dy, i)}
            onDoubleClick={() =>
              !isLocked(stored) && put((s) => (s.id === active.id ? roundPoint(s, i, p.outX === 0 && p.outY === 0 && p.inX === 0 && p.inY === 0) : s))
            }
          />
        ))}
      {active &&
        !drawing &&
        point !== null &&
        active.points[point] &&
        (['in', 'out'] as const).map((end) => {
          const p = active.points[point]!;
          const [dx, dy] = end === 'in' ? [p.inX, p.inY] : [p.outX, p.outY];
          if (dx === 0 && dy === 0) return null;
          return (
            <Handle
              key={end}
              small
              at={view.toView(p.x + dx, p.y + dy)}
              label={`${end === 'in' ? 'First' : 'Second'} handle of point ${point + 1}`}
              onPointerDown={(e) => pullHandle(e, point, end)}
              onStep={(dx, dy) => stepHandle(dx, dy, point, end)}
            />
          );
        })}
      {active?.slope && !drawing && (
        <SlopeEnds
          shape={active}
          view={view}
          show={show}
          locked={() => isLocked(stored)}
          step={(end, dx, dy) =>
            putActive(`slope:${end}`, (s) => {
              if (!s.slope) return s;
              const { x0, y0, x1, y1 } = s.slope;
              const to = end === 0 ? { x0: x0 + dx * stepX, y0: y0 + dy * stepY } : { x1: x1 + dx * stepX, y1: y1 + dy * stepY };
              return { ...s, slope: { ...s.slope, ...to } };
            })
          }
        />
      )}
    </>
  );
}

/** Places within an outline, from its corners towards its middle. */
function insideOf(points: readonly ShapePoint[]): { x: number; y: number }[] {
  const middle = { x: points.reduce((s, p) => s + p.x, 0) / points.length, y: points.reduce((s, p) => s + p.y, 0) / points.length };
  return [
    middle,
    ...[0.3, 0.6, 0.85].flatMap((t) => points.map((p) => ({ x: middle.x + t * (p.x - middle.x), y: middle.y + t * (p.y - middle.y) }))),
  ];
}

/** Deletes the chosen point, or where none is chosen the chosen shapes. */
export function deleteChosen(layer: Layer): void {
  const { chosen, point, set } = useShapeTool.getState();
  if (chosen.length === 0 || isLocked(layer)) return;
  const active = chosen[chosen.length - 1]!;
  changeContent<ShapesContent>(layer.id, (c) => {
    const at = c.shapes.findIndex((s) => s.id === active);
    const smaller = point !== null && at >= 0 ? removePoint(c.shapes[at] as Shape, point) : null;
    if (smaller) c.shapes[at] = smaller;
    else c.shapes = c.shapes.filter((s) => !chosen.includes(s.id));
  });
  if (point === null) set({ chosen: [] });
  set({ point: null });
}

const withPoint = (shape: Shape, index: number, point: ShapePoint): Shape => ({
  ...shape,
  points: shape.points.map((p, i) => (i === index ? point : p)),
});

function pathOf(points: readonly ShapePoint[], view: OverlayProps['view'], closed: boolean): string {
  const at = (x: number, y: number): string => {
    const p = view.toView(x, y);
    return `${p.x.toFixed(1)},${p.y.toFixed(1)}`;
  };
  const parts = [`M${at(points[0]!.x, points[0]!.y)}`];
  for (let i = 1; i < points.length + (closed ? 1 : 0); i++) {
    const [p, q] = [points[i - 1]!, points[i % points.length]!];
    parts.push(`C${at(p.x + p.outX, p.y + p.outY)} ${at(q.x + q.inX, q.y + q.inY)} ${at(q.x, q.y)}`);
  }
  return parts.join('') + (closed ? 'Z' : '');
}

function boxOf(shapes: readonly Shape[], view: OverlayProps['view']) {
  const b = boundsOf(shapes);
  const corners = [view.toView(b.left, b.top), view.toView(b.right, b.bottom), view.toView(b.left, b.bottom), view.toView(b.right, b.top)];
  const [xs, ys] = [corners.map((c) => c.x), corners.map((c) => c.y)];
  return { left: Math.min(...xs) - 9, top: Math.min(...ys) - 9, right: Math.max(...xs) + 9, bottom: Math.max(...ys) + 9 };
}

function HandleLines({ point: p, view }: { point: ShapePoint; view: OverlayProps['view'] }) {
  const at = view.toView(p.x, p.y);
  return (
    <>
      {[view.toView(p.x + p.inX, p.y + p.inY), view.toView(p.x + p.outX, p.y + p.outY)].map((end, i) => (
        <line key={i} x1={at.x} y1={at.y} x2={end.x} y2={end.y} stroke="#fff" strokeWidth={1} />
      ))}
    </>
  );
}

function SlopeLine({ shape, view }: { shape: Shape; view: OverlayProps['view'] }) {
  const s = shape.slope!;
  const [a, b] = [view.toView(s.x0, s.y0), view.toView(s.x1, s.y1)];
  return <line x1={a.x} y1={a.y} x2={b.x} y2={b.y} stroke="#fff" strokeWidth={1.5} strokeDasharray="1 4" strokeLinecap="round" />;
}

/** The two ends of a direction along which a shape goes from one distance to another. */
function SlopeEnds({
  shape,
  view,
  show,
  locked,
  step,
}: {
  shape: Shape;
  view: OverlayProps['view'];
  show: (next: (s: Shape) => Shape) => void;
  locked: () => boolean;
  step: (end: 0 | 1, dx: number, dy: number) => void;
}) {
  const s = shape.slope!;
  const drag = (event: React.PointerEvent, end: 0 | 1): void => {
    if (event.button !== 0 || locked()) return;
    startDrag(
      event,
      (e) => {
        const p = view.pointer(e);
        show((q) =>
          q.id === shape.id && q.slope ? { ...q, slope: { ...q.slope, ...(end === 0 ? { x0: p.x, y0: p.y } : { x1: p.x, y1: p.y }) } } : q,
        );
      },
      commitLive,
    );
  };
  return (
    <>
      <Handle at={view.toView(s.x0, s.y0)} label="First distance holds here" onPointerDown={(e) => drag(e, 0)} onStep={(dx, dy) => step(0, dx, dy)} />
      <Handle
        at={view.toView(s.x1, s.y1)}
        label="Second distance holds here"
        onPointerDown={(e) => drag(e, 1)}
        onStep={(dx, dy) => step(1, dx, dy)}
      />
    </>
  );
}
