import Box from '@mui/material/Box';
import { lazy, Suspense, useEffect, useMemo } from 'react';
import type { Shot } from '../../core/document/schema';
import type { Size } from '../../core/picture';
import { plateViewOf } from '../chapters/depth/plateView';
import { toolOf } from '../chapters/depth/tools/registry';
import { chapterOf } from '../chapters/registry';
import { useSize } from '../controls/useSize';
import { placementOf, type Placement } from '../picture/geometry';
import { useShot } from '../state/documentStore';
import { useLayout } from '../state/layoutStore';
import { factsOf } from '../state/chapterFacts';
import { session } from '../state/session';
import { useSession } from '../state/sessionStore';
import { holdsChosen, liveShown } from '../state/liveStore';
import { listenForShows, showOut } from '../state/showOut';
import { useLayerNow } from '../state/useLayerNow';
import { viewOf } from '../state/views';
import { useView, useViewPart } from '../state/viewStore';
import { follower, wobbler, WOBBLE_FPS } from '../state/wobble';
import { PlayCanvas, type Instead } from '../timeline/PlayCanvas';
import { AtWork, Opening } from './AtWork';
import { ProbeTag } from './ProbeTag';
import { useDrawnPicture } from './useDrawnPicture';
import { usePictureGestures, usePictureKeys } from './usePictureGestures';
import { useViewSize } from './useZoom';
import { WipeDivider } from './WipeDivider';

const ReliefView = lazy(() => import('../relief/ReliefView').then((m) => ({ default: m.ReliefView })));
const CheckChart = lazy(() => import('./CheckChart').then((m) => ({ default: m.CheckChart })));

/** Surround kept free around the picture, px on both sides together. */
const MARGIN = 36;

/** The picture on its neutral surround. Focused, the arrow keys move the probe and Enter clicks. */
export function Viewer() {
  const shot = useShot();
  useShows();
  const [boxRef, size] = useSize<HTMLDivElement>();
  const preview = useSession((s) => s.preview);
  const lastPicture = useSession((s) => s.lastPicture);
  const settling = useSession((s) => s.settling);
  const still = useSession((s) => s.estimating);
  const clipDepthJob = useSession((s) => s.clipDepthJob);
  const atWork = clipDepthJob ?? still;
  const view = useViewPart('zoom', 'chapter', 'panning', 'picking', 'mode', 'peek');
  const space = viewOf(view.mode).inSpace && !view.peek;
  const output = shot?.settings.framing ?? { width: 16, height: 9 };
  const place = placementOf(size, output, view.zoom);
  const ratio = globalThis.devicePixelRatio || 1;
  useEffect(() => {
    useViewSize.setState(size);
    if (size.width > MARGIN) session().resize(Math.round((size.width - MARGIN) * ratio), Math.round((size.height - MARGIN) * ratio));
  }, [size, ratio]);
  const canvasRef = useDrawnPicture(size, output, place, ratio);
  const bind = usePictureGestures({ box: boxRef, size, output, place });
  const onKeyDown = usePictureKeys({ size, output });
  const clicks = (view.picking ?? (shot && chapterOf(view.chapter).picking?.(shot)))?.prompt ?? '';
  const box = (): DOMRect => boxRef.current!.getBoundingClientRect();
  return (
    <Box
      ref={boxRef}
      data-testid="viewer"
      aria-busy={settling}
      data-look={lastPicture ? 'small' : ''}
      data-preview={preview ? `${preview.stage} ${preview.size.width}x${preview.size.height}` : ''}
      sx={{ position: 'relative', background: 'var(--surround)', overflow: 'hidden', minHeight: 0 }}
    >
      <Box {...bind()} inert={space === true} sx={{ position: 'absolute', inset: 0, touchAction: 'none', ...(view.panning && { cursor: 'grab' }) }}>
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
        {shot && preview && !space && <OnPicture shot={shot} place={place} size={size} box={box} />}
      </Box>
      {shot && preview && !space && <BesidePicture shot={shot} place={place} size={size} />}
      {shot && preview && space && (
        <Suspense fallback={null}>
          <ReliefView key={shot.id} shot={shot} size={size} />
        </Suspense>
      )}
      {!preview && !(lastPicture && atWork) && <Opening corner={lastPicture !== null} />}
      {atWork && <AtWork work={atWork} />}
    </Box>
  );
}

interface Laid {
  readonly shot: Shot;
  readonly place: Placement;
  /** of the view, px */
  readonly size: Size;
}

/** What is taken hold of on the picture: handles of effects, the safe frame, what the layer in hand lays over it. */
function OnPicture({ shot, place, size, box }: Laid & { box: () => DOMRect }) {
  const { chapter, peek, panning, selectedLayer } = useViewPart('chapter', 'peek', 'panning', 'selectedLayer');
  const alone = useLayout((s) => s.alone);
  const layer = useLayerNow(factsOf(chapter).inHand === 'layer' ? shot.settings.layers.find((l) => l.id === selectedLayer && l.visible) : undefined);
  const { OnPicture: On, overPeek } = chapterOf(chapter);
  const { Overlay } = toolOf(peek || alone ? null : layer);
  const plateView = Overlay ? plateViewOf(shot, place, size, box) : null;
  return (
    <>
      {On && !(peek && !overPeek) && !alone && <On shot={shot} place={place} box={box} />}
      {Overlay && layer && plateView && (
        <Box sx={panning ? { '& *': { pointerEvents: 'none !important' } } : undefined}>
          <Suspense fallback={null}>
            <Overlay key={layer.id} shot={shot} layer={layer} view={plateView} />
          </Suspense>
        </Box>
      )}
    </>
  );
}

/** What stands over the picture by itself: the wipe's line, stakes, what the probe reads, a check's chart. */
function BesidePicture({ shot, place, size }: Laid) {
  const { mode, peek, chapter, check } = useViewPart('mode', 'peek', 'chapter', 'check');
  const chart = useSession((s) => s.preview?.chart ?? null);
  const alone = useLayout((s) => s.alone);
  const Beside = chapterOf(chapter).BesidePicture;
  if (alone) return null;
  const labels: [string, string] = factsOf(chapter).compares(shot) === 'depth' ? ['Plate', 'Depth'] : ['Before', 'After'];
  return (
    <>
      {viewOf(mode).splits && !peek && <WipeDivider place={place} output={shot.settings.framing} labels={labels} />}
      {Beside && <Beside shot={shot} place={place} />}
      <ProbeTag place={place} view={size} />
      {chart && check && (
        <Suspense fallback={null}>
          <CheckChart chart={chart} />
        </Suspense>
      )}
    </>
  );
}

/** What windows that show the picture alone are sent while nothing plays. */
function useShows(): void {
  useEffect(() => {
    const finished = (): ImageBitmap | null => useSession.getState().preview?.finished ?? null;
    const stopListening = listenForShows(() => liveShown()?.picture ?? finished());
    const stop = useSession.subscribe((now, before) => {
      if (now.preview?.finished === before.preview?.finished || liveShown() || holdsChosen() || useView.getState().playing) return;
      showOut(now.preview?.finished);
    });
    return () => {
      stop();
      stopListening();
    };
  }, []);
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
