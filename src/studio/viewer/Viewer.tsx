import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import { useGesture } from '@use-gesture/react';
import { lazy, Suspense, useEffect, useMemo, useRef, useState } from 'react';
import type { LayerTool } from '../chapters/depth/tools/registry';
import { EffectHandles } from '../chapters/effects/EffectHandles';
import { chapters } from '../chapters/registry';
import type { PictureDrag } from '../state/picking';
import { plateViewOf } from '../chapters/depth/plateView';
import { useShot } from '../state/documentStore';
import { session } from '../state/session';
import { comparedIn } from '../state/seen';
import { useLayout } from '../state/layoutStore';
import { useSession } from '../state/sessionStore';
import { useLayerNow } from '../state/useLayerNow';
import { useView, useViewPart } from '../state/viewStore';
import { follower, wobbler, WOBBLE_FPS } from '../state/wobble';
import { PlayCanvas, type Instead } from '../timeline/PlayCanvas';
import { clickPicture } from './act';
import { drawLast, drawScene } from '../picture/draw';
import { panBy, placementOf, zoomAt, type Placement } from '../picture/geometry';
import { probeAt } from '../picture/probe';
import { ProbeTag } from './ProbeTag';
import { SafeFrame } from './SafeFrame';
import { Stakes } from './Stakes';
import { useLitPixels } from './useLitPixels';
import { useSize } from '../controls/useSize';
import { useViewSize } from './useZoom';
import { WipeDivider } from './WipeDivider';

const CheckChart = lazy(() => import('./CheckChart').then((m) => ({ default: m.CheckChart })));

const KEY_STEP = 0.01;

/** The picture on its neutral surround. Focused, the arrow keys move the probe and Enter clicks. */
export function Viewer() {
  const shot = useShot();
  const [boxRef, size] = useSize<HTMLDivElement>();
  const canvasRef = useRef<HTMLCanvasElement>(null);
  const preview = useSession((s) => s.preview);
  const lastPicture = useSession((s) => s.lastPicture);
  const settling = useSession((s) => s.settling);
  const still = useSession((s) => s.estimating);
  const following = useSession((s) => s.following);
  const estimating = following ?? still;
  const view = useViewPart('mode', 'peek', 'overlay', 'wipe', 'check', 'zoom', 'chapter', 'selectedLayer', 'panning', 'picking', 'set');
  const lit = useLitPixels();
  const output = shot?.settings.framing ?? { width: 16, height: 9 };
  const place = placementOf(size, output, view.zoom);
  const ratio = globalThis.devicePixelRatio || 1;

  useEffect(() => {
    useViewSize.setState(size);
    if (size.width > 40) session().resize(Math.round((size.width - 36) * ratio), Math.round((size.height - 36) * ratio));
  }, [size, ratio]);

  useEffect(() => {
    const canvas = canvasRef.current;
    if (!canvas || size.width === 0) return;
    const frame = requestAnimationFrame(() => {
      const w = Math.round(size.width * ratio);
      const h = Math.round(size.height * ratio);
      if (canvas.width !== w || canvas.height !== h) Object.assign(canvas, { width: w, height: h });
      const part = useSession.getState().preview;
      if (part)
        drawScene(
          canvas,
          {
            part,
            mode: view.mode,
            peek: view.peek,
            overlay: view.overlay,
            wipe: view.wipe,
            check: view.check !== null,
            compares,
            unfinished: view.chapter === 'plate' && view.mode !== 'wipe',
            lit,
            output,
          },
          place,
          ratio,
        );
      else if (lastPicture && view.mode === 'picture' && view.chapter !== 'plate' && !view.check) drawLast(canvas, lastPicture, output, place, ratio);
    });
    return () => cancelAnimationFrame(frame);
  });

  const compares = comparedIn(view.chapter, shot);
  const chosen = view.chapter === 'depth' && shot ? shot.settings.layers.find((l) => l.id === view.selectedLayer && l.visible) : undefined;
  const layer = useLayerNow(chosen);
  const alone = useLayout((s) => s.alone);
  const Overlay = useOverlay(layer && !view.peek && !alone ? layer.kind : null);
  const plateView = shot && Overlay ? plateViewOf(shot, place, size, () => boxRef.current!.getBoundingClientRect()) : null;

  /** what a drag that begins here does besides moving the picture about */
  const chapterDrag = (event: Event): PictureDrag | null => {
    const at = outputPlace(event, boxRef.current, place, output);
    const probe = at && shot && preview ? probeAt(preview, shot, at.x, at.y) : null;
    return shot && probe ? (chapters[view.chapter].drag?.(shot, probe.distance) ?? null) : null;
  };

  const bind = useGesture(
    {
      onMove: ({ event, dragging }) => {
        if (dragging) return;
        const pointer = outputPlace(event, boxRef.current, place, output);
        view.set({ pointer });
        if (pointer && useView.getState().follow) follower.to(pointer.x, pointer.y);
      },
      onHover: ({ hovering }) => {
        if (!hovering) view.set({ pointer: null });
      },
      onDrag: ({ delta: [dx, dy], movement: [mx, my], tap, event, first, last, memo }) => {
        const held = (first && !view.panning ? chapterDrag(event) : memo) as PictureDrag | null | undefined;
        if (held) {
          if (!tap && (mx !== 0 || my !== 0)) held.move(mx / place.scale, my / place.scale);
          if (last) held.end();
        }
        if (tap) {
          const at = outputPlace(event, boxRef.current, place, output);
          if (at) clickPicture(at.x, at.y);
        } else if (!first && !held) view.set({ zoom: panBy(size, output, view.zoom, dx, dy), pointer: null });
        return held;
      },
      onWheel: ({ event, delta: [dx, dy], pinching }) => {
        if (pinching) return;
        const rect = boxRef.current!.getBoundingClientRect();
        if (event.shiftKey) view.set({ zoom: panBy(size, output, view.zoom, -(dx || dy), 0) });
        else view.set({ zoom: zoomAt(size, output, view.zoom, Math.exp(-dy / 400), event.clientX - rect.left, event.clientY - rect.top) });
      },
      onPinch: ({ delta: [d], origin: [ox, oy] }) => {
        const rect = boxRef.current!.getBoundingClientRect();
        view.set({ zoom: zoomAt(size, output, view.zoom, 1 + d, ox - rect.left, oy - rect.top) });
      },
    },
    { drag: { filterTaps: true, pointer: { keys: false, buttons: [1, 4] } } },
  );

  const moveProbe = (dx: number, dy: number): void => {
    const from = useView.getState().pointer ?? { x: 0.5, y: 0.5 };
    const clip = (v: number): number => Math.min(0.999, Math.max(0, v));
    view.set({ pointer: { x: clip(from.x + dx), y: clip(from.y + dy) } });
  };
  const onKeyDown = (event: React.KeyboardEvent): void => {
    const arrow = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (arrow) {
      event.preventDefault();
      if (event.shiftKey) view.set({ zoom: panBy(size, output, view.zoom, -arrow[0]! * 40, -arrow[1]! * 40) });
      else moveProbe(arrow[0]! * KEY_STEP, arrow[1]! * KEY_STEP);
      return;
    }
    const { pointer } = useView.getState();
    if (event.key === 'Enter' && pointer) clickPicture(pointer.x, pointer.y);
  };

  const clicks = (view.picking ?? (shot && chapters[view.chapter].picking?.(shot)))?.prompt ?? '';
  return (
    <Box
      ref={boxRef}
      data-testid="viewer"
      aria-busy={settling}
      data-look={lastPicture ? 'small' : ''}
      data-preview={preview ? `${preview.stage} ${preview.size.width}x${preview.size.height}` : ''}
      sx={{ position: 'relative', background: 'var(--surround)', overflow: 'hidden', minHeight: 0 }}
    >
      <Box {...bind()} sx={{ position: 'absolute', inset: 0, touchAction: 'none', ...(view.panning && { cursor: 'grab' }) }}>
        <Box
          component="canvas"
          ref={canvasRef}
          tabIndex={0}
          role="application"
          aria-roledescription="picture"
          aria-label={`The picture. Arrow keys move the probe, Enter clicks. ${clicks}`}
          onKeyDown={onKeyDown}
          sx={{
            position: 'absolute',
            inset: 0,
            width: '100%',
            height: '100%',
            cursor: clicks ? 'crosshair' : 'grab',
            '&:focus-visible': { outlineOffset: -2 },
          }}
        />
        {shot && preview && <Playing place={place} output={output} />}
        {shot && preview && view.chapter === 'effects' && !view.peek && !alone && (
          <EffectHandles shot={shot} place={place} box={() => boxRef.current!.getBoundingClientRect()} />
        )}
        {shot && preview && view.chapter === 'camera' && !alone && <SafeFrame shot={shot} place={place} />}
        {shot && preview && Overlay && layer && plateView && (
          <Box sx={view.panning ? { '& *': { pointerEvents: 'none !important' } } : undefined}>
            <Overlay key={layer.id} shot={shot} layer={layer} view={plateView} />
          </Box>
        )}
      </Box>
      {shot && preview && view.mode === 'wipe' && !view.peek && !alone && (
        <WipeDivider place={place} output={output} labels={compares === 'depth' ? ['Plate', 'Depth'] : ['Before', 'After']} />
      )}
      {shot && preview && view.chapter === 'calibrate' && !alone && <Stakes shot={shot} place={place} />}
      {shot && preview && !alone && <ProbeTag place={place} view={size} />}
      {preview?.chart && view.check && !alone && (
        <Suspense fallback={null}>
          <CheckChart chart={preview.chart} />
        </Suspense>
      )}
      {!preview && !(lastPicture && estimating) && <Opening corner={lastPicture !== null} />}
      {estimating && (
        <Box
          sx={{
            position: 'absolute',
            right: 12,
            bottom: 12,
            width: 300,
            whiteSpace: 'nowrap',
            padding: '8px 8px 8px 12px',
            background: 'rgba(26,26,25,.94)',
            borderRadius: '4px',
            border: '1px solid var(--line2)',
          }}
        >
          <Box sx={{ display: 'flex', alignItems: 'center', gap: '8px', marginBottom: '6px' }}>
            <Box sx={{ flex: 1 }}>{estimating.what}</Box>
            <span className="mono">{estimating.left === null ? '' : `${estimating.left.toFixed(1)} s left`}</span>
            <Button onClick={() => estimating.cancel()} sx={{ height: 22, padding: '0 8px' }}>
              Cancel
            </Button>
          </Box>
          <LinearProgress variant="determinate" value={100 * estimating.share} aria-label={estimating.what} />
        </Box>
      )}
    </Box>
  );
}

/** Frames over the picture: the wobble, the camera that follows the pointer, a check that runs in a loop, or the shot as it plays. */
function Playing({ place, output }: { place: Placement; output: { width: number; height: number } }) {
  const { wobble, follow, check } = useViewPart('wobble', 'follow', 'check');
  const loop = useSession((s) => s.preview?.loop ?? null);
  const instead = useMemo((): Instead | null => {
    if (wobble) return { of: () => wobbler.store.getState().of, at: (f) => wobbler.at(f)?.picture ?? null, fps: WOBBLE_FPS };
    if (follow) return { of: () => 1, at: () => follower.shown(), fps: 1 };
    if (check && loop) return { of: () => loop.length, at: (f) => loop[f] ?? null, fps: 16 };
    return null;
  }, [wobble, follow, check, loop]);
  return <PlayCanvas place={place} output={output} instead={instead} />;
}

/** What a kind of layer lays over the picture; it comes when one is first chosen. */
function useOverlay(kind: string | null): LayerTool['Overlay'] {
  const [tools, setTools] = useState<Readonly<Record<string, LayerTool>> | null>(null);
  useEffect(() => {
    if (kind && !tools) void import('../chapters/depth/tools/registry').then((m) => setTools(m.layerTools));
  }, [kind, tools]);
  return kind ? tools?.[kind]?.Overlay : undefined;
}

/** Says that the plate is on its way: in the middle, or in a corner of the picture as it was left. */
function Opening({ corner }: { corner: boolean }) {
  const place = corner ? { right: 12, bottom: 12, padding: '8px 12px', background: 'rgba(26,26,25,.94)', borderRadius: '4px' } : { inset: 0 };
  return (
    <Box sx={{ position: 'absolute', display: 'flex', alignItems: 'center', justifyContent: 'center', color: 'var(--text)', ...place }}>
      Opening the plate…
    </Box>
  );
}

/** Place of a pointer in the output, 0..1, or null outside it. */
function outputPlace(
  event: Event | React.SyntheticEvent,
  box: HTMLElement | null,
  place: Placement,
  output: { width: number; height: number },
): { x: number; y: number } | null {
  const { clientX, clientY } = event as PointerEvent;
  const rect = box?.getBoundingClientRect();
  if (!rect || clientX === undefined) return null;
  const x = (clientX - rect.left - place.left) / (output.width * place.scale);
  const y = (clientY - rect.top - place.top) / (output.height * place.scale);
  return x >= 0 && y >= 0 && x < 1 && y < 1 ? { x, y } : null;
}
