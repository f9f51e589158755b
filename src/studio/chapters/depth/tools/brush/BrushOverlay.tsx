import Box from '@mui/material/Box';
import { useGesture } from '@use-gesture/react';
import { useEffect, useRef, type RefObject } from 'react';
import { thinStroke, type StrokesContent } from '../../../../../core/depth/layers/brush/content';
import { newId } from '../../../../../core/document/defaults';
import { nearnessHex } from '../../../../../core/raster/colour';
import { useView } from '../../../../state/viewStore';
import { beginLayerGesture, contentIn, type LayerGesture } from '../../layerActions';
import type { OverlayProps } from '../../plateView';
import { strokeWith, useBrush, type BrushSettings } from './brushStore';

/** Ink in the one colour code there is: towards the near end, towards the far end, or neither. */
const inkOf = (brush: BrushSettings): string =>
  brush.mode === 'nearer'
    ? nearnessHex(1)
    : brush.mode === 'farther'
      ? nearnessHex(0)
      : brush.mode === 'set'
        ? nearnessHex(brush.nearness)
        : '#efe9dc';

/** A stroke that is being painted. */
interface Stroke {
  readonly id: string;
  readonly points: number[];
  readonly brush: BrushSettings;
  readonly gesture: LayerGesture;
  /** the strokes that were there */
  readonly before: StrokesContent['strokes'];
  frame: number;
}

/** Paints: ink follows the pointer at once, the map follows when it can, the stroke is kept when the pointer is let go. */
export function BrushOverlay({ shot, layer, view }: OverlayProps) {
  const ink = useRef<HTMLCanvasElement>(null);
  const ring = useRef<HTMLDivElement>(null);
  const picking = useView((s) => s.picking);
  const { radius, softness, stroke: chosen } = useBrush();
  const shown = contentIn<StrokesContent>(layer).strokes.find((s) => s.id === chosen);
  useEffect(() => {
    const canvas = ink.current!;
    if (canvas.width !== Math.round(view.width) || canvas.height !== Math.round(view.height))
      Object.assign(canvas, { width: Math.round(view.width), height: Math.round(view.height) });
  }, [view.width, view.height]);
  const painting = usePainting({ shot, layer, view }, ink);
  const bind = useGesture(
    {
      onMove: ({ xy: [x, y] }) => {
        const rect = ink.current!.getBoundingClientRect();
        Object.assign(ring.current!.style, { transform: `translate(${x - rect.left}px, ${y - rect.top}px)`, visibility: 'visible' });
      },
      onHover: ({ hovering }) => {
        if (!hovering) ring.current!.style.visibility = 'hidden';
      },
      onDrag: ({ first, last, canceled, event }) => {
        const taken = first ? picking === null && !useView.getState().panning && painting.begin() : painting.going();
        if (!taken) return;
        event.stopPropagation();
        if (last) painting.end(canceled);
        else painting.add(nativeOf(event));
      },
    },
    { drag: { pointer: { keys: false } } },
  );
  const across = 2 * radius * view.scale;
  return (
    <>
      <Box
        component="canvas"
        ref={ink}
        data-testid="ink"
        {...bind()}
        sx={{
          position: 'absolute',
          inset: 0,
          width: '100%',
          height: '100%',
          opacity: 0.42,
          cursor: picking ? 'crosshair' : 'none',
          touchAction: 'none',
        }}
      />
      {shown && <StrokePath points={shown.points} view={view} />}
      <Box ref={ring} aria-hidden="true" sx={{ position: 'absolute', left: 0, top: 0, pointerEvents: 'none', visibility: 'hidden' }}>
        <div style={{ ...circle(across), border: '1.5px solid #fff', boxShadow: '0 0 0 1px #000a, inset 0 0 0 1px #0006' }} />
        <div style={{ ...circle(across * (1 - softness)), border: '1px dotted #fffc' }} />
      </Box>
    </>
  );
}

interface Painting {
  /** a stroke begins; false where the layer takes none */
  begin(): boolean;
  /** whether one is being painted */
  going(): boolean;
  /** it goes on to where the pointer is, and everywhere it was since the last frame */
  add(event: PointerEvent): void;
  /** it is kept, or `broken` off and forgotten */
  end(broken: boolean): void;
}

/** A stroke while it is painted, as ink on a canvas and as a change of the layer. */
function usePainting({ shot, layer, view }: OverlayProps, ink: RefObject<HTMLCanvasElement | null>): Painting {
  const stroke = useRef<Stroke | null>(null);
  useEffect(() => () => stroke.current?.gesture.cancel(), []);
  const context = (): CanvasRenderingContext2D => ink.current!.getContext('2d')!;
  const show = (s: Stroke): void => {
    s.frame = 0;
    s.gesture.set({ content: { strokes: [...s.before, strokeWith(s.brush, s.id, thinStroke(s.points, s.brush.radius, shot.plate))] } });
  };
  return {
    begin: () => {
      const gesture = beginLayerGesture(layer);
      if (!gesture) return false;
      useView.getState().set({ pointer: null });
      const { mode, radius, softness, amount, nearness, edgeStop } = useBrush.getState();
      const brush = { mode, radius, softness, amount, nearness, edgeStop };
      stroke.current = { id: newId(), points: [], brush, frame: 0, gesture, before: contentIn<StrokesContent>(layer).strokes };
      Object.assign(context(), { lineCap: 'round', lineJoin: 'round', strokeStyle: inkOf(brush) });
      return true;
    },
    going: () => stroke.current !== null,
    add: (event) => {
      const s = stroke.current!;
      const pen = context();
      const events = event.getCoalescedEvents?.() ?? [];
      for (const e of events.length > 0 ? events : [event]) {
        const p = view.pointer(e);
        const pressure = e.pointerType === 'pen' ? Math.max(0.02, e.pressure) : 1;
        const n = s.points.length;
        const to = view.toView(p.x, p.y);
        const from = n > 0 ? view.toView(s.points[n - 3]!, s.points[n - 2]!) : to;
        s.points.push(Math.min(20, Math.max(-20, p.x)), Math.min(20, Math.max(-20, p.y)), pressure);
        pen.lineWidth = Math.max(1, 2 * s.brush.radius * pressure * view.scale);
        pen.beginPath();
        pen.moveTo(from.x, from.y);
        pen.lineTo(to.x + 0.01, to.y);
        pen.stroke();
      }
      s.frame ||= requestAnimationFrame(() => stroke.current === s && show(s));
    },
    end: (broken) => {
      const s = stroke.current!;
      stroke.current = null;
      if (s.frame) cancelAnimationFrame(s.frame);
      context().clearRect(0, 0, ink.current!.width, ink.current!.height);
      if (broken) return s.gesture.cancel();
      show(s);
      s.gesture.commit();
    },
  };
}

/** React's events do not tell what the pointer did between two frames; those that they stand for do. */
const nativeOf = (event: object): PointerEvent => ('nativeEvent' in event ? event.nativeEvent : event) as PointerEvent;

const circle = (across: number) =>
  ({
    position: 'absolute',
    width: Math.max(3, across),
    height: Math.max(3, across),
    left: -Math.max(3, across) / 2,
    top: -Math.max(3, across) / 2,
    borderRadius: '50%',
  }) as const;

/** The middle of the stroke that is chosen in the list. */
function StrokePath({ points, view }: { points: readonly number[]; view: OverlayProps['view'] }) {
  const path: string[] = [];
  for (let i = 0; i < points.length; i += 3) {
    const p = view.toView(points[i]!, points[i + 1]!);
    path.push(`${p.x.toFixed(1)},${p.y.toFixed(1)}`);
  }
  const d = `M${path.join('L')}${path.length === 1 ? `L${path[0]}` : ''}`;
  return (
    <svg width={view.width} height={view.height} style={{ position: 'absolute', inset: 0, pointerEvents: 'none' }} aria-hidden="true">
      <path d={d} fill="none" stroke="#000" strokeOpacity={0.6} strokeWidth={4} strokeLinecap="round" />
      <path d={d} fill="none" stroke="#fff" strokeWidth={2} strokeLinecap="round" strokeDasharray="5 4" />
    </svg>
  );
}
