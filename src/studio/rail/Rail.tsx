import Box from '@mui/material/Box';
import { useGesture } from '@use-gesture/react';
import { useMemo } from 'react';
import { useShallow } from 'zustand/react/shallow';
import { hueOf } from '../../core/depth/hues';
import { rulerDistance, rulerOf, type Ruler } from '../../core/depth/ruler';
import { calibrationOf } from '../../core/document/calibrationOf';
import type { EffectItem } from '../../core/document/schema';
import { effectOf } from '../../core/effects/registry';
import { nearnessHex } from '../../core/raster/colour';
import { renderLens } from '../../core/shot/frame';
import { useHues } from '../controls/useTint';
import { useShot } from '../state/documentStore';
import { useSession } from '../state/sessionStore';
import { useShotNow } from '../state/shotNow';
import { useViewPart } from '../state/viewStore';
import { FoldButton } from '../score/FoldButton';
import { END } from '../score/measures';
import { RowName } from '../score/RowName';
import { useLayout } from '../state/layoutStore';
import { useSize } from '../controls/useSize';
import { CameraLane, CameraName, cameraLanes } from './CameraLane';
import { DepthLane } from './DepthLane';
import { EffectLane, EffectName, withLanes } from './EffectLane';
import { EndHandle } from './EndHandle';
import { ProbeMark } from './ProbeMark';
import { RailHead } from './RailHead';
import { HEAD, HISTOGRAM, laneRows, LEFT, railScale, type LaneRow, type RailScale } from './railLayout';
import { Histogram, RulerAxis } from './RulerAxis';

/** half width of what lights up under the pointer, share of the ruler */
const GLANCE = 0.012;

/** Places along the ruler at which its colour is told. */
const GRADIENT = Array.from({ length: 33 }, (_, k) => k / 32);

/** The depth rail: a ruler from the near end to the far end, the picture's depths on it, and a lane for what acts by distance. */
export function Rail() {
  const shot = useShot();
  const now = useShotNow();
  const [ref, size] = useSize<HTMLDivElement>();
  const {
    ruler: choice,
    set,
    lit,
    chapter,
    selectedLayer,
    selectedEffect,
    selectedMove,
  } = useViewPart('ruler', 'set', 'lit', 'chapter', 'selectedLayer', 'selectedEffect', 'selectedMove');
  const { lanes: unfolded, score } = useLayout(useShallow(({ lanes, score: high }) => ({ lanes, score: high })));
  const preview = useSession((s) => s.preview);
  const hues = useHues();
  const span = Math.max(10, size.width - LEFT - END);
  const lighting = useLighting(span);
  const calibration = now?.settings.calibration;
  const camera = shot && now && chapter === 'camera' ? cameraLanes(shot, now, selectedMove) : [];
  const effects = now ? withLanes(now) : [];
  // in Depth the layer being made is in hand, in Camera what moves is
  const first = chapter === 'depth' ? 1 : camera.length;
  const chosen = first > 0 ? undefined : (effects.find((e) => e.id === selectedEffect) ?? effects[0]);
  const others = effects.filter((e) => e !== chosen);
  const inHand = first + (chosen ? 1 : 0);
  const least = laneRows(inHand, others.length, unfolded, HEAD + HISTOGRAM).height;
  // what room there is besides is the histogram's
  const axis = HEAD + HISTOGRAM + (score === null ? 0 : Math.max(0, size.height - least));
  const { rows, fold, height } = laneRows(inHand, others.length, unfolded, axis);
  const scale = useMemo(() => {
    if (!calibration) return null;
    const c = calibrationOf(calibration);
    return railScale(rulerOf(c, choice === 'as-map' ? c.spacing : choice), span, axis, (z) => nearnessHex(hueOf(z, c, hues)));
  }, [calibration, choice, span, axis, hues]);
  if (!shot || !now || !calibration || !scale) return <Box ref={ref} />;
  const { layers } = now.settings;
  const c = calibrationOf(calibration);
  const lens = renderLens({ plate: now.plate, settings: now.settings, size: now.settings.framing });
  const layer = layers.find((l) => l.id === selectedLayer);
  const rowOf = new Map([...(chosen ? [chosen] : []), ...others].map((item, k) => [item, rows[first + k]!]));
  const choose = (item: EffectItem) => () => set({ selectedEffect: item.id });
  return (
    <Box ref={ref} data-testid="rail" sx={{ position: 'relative', flex: '1 0 auto' }} style={{ minHeight: least }}>
      <RailHead calibration={c} scaled={calibration.scaled} />
      <svg width={Math.max(1, size.width)} height={height} style={{ position: 'absolute', inset: 0, touchAction: 'none' }} {...lighting(scale)}>
        <defs>
          <linearGradient id="near-far" x1={LEFT} x2={LEFT + span} gradientUnits="userSpaceOnUse">
            {GRADIENT.map((p) => (
              <stop key={p} offset={p} stopColor={scale.colour(rulerDistance(scale.ruler, p))} />
            ))}
          </linearGradient>
        </defs>
        <rect x={LEFT} y={HEAD} width={span} height={height - HEAD} fill="transparent" />
        {preview && <Histogram bins={preview.histogram} scale={scale} />}
        {lit && <Lit lit={lit} scale={scale} />}
        <RulerAxis scale={scale} far={c.far} />
        {rows.length === 0 && (
          <text x={LEFT} y={axis + 36} fill="var(--mute)" style={{ fontSize: 11 }}>
            Effects that act by distance get a lane here.
          </text>
        )}
        {[...rowOf].map(([item, row]) => (
          <EffectLane key={item.id} item={item} lens={lens} scale={scale} row={row} onChoose={choose(item)} />
        ))}
        {camera.map((lane, k) => (
          <CameraLane key={lane.key} lane={lane} scale={scale} row={rows[k]!} />
        ))}
        {chapter === 'depth' && <DepthLane shot={shot} layer={layer} scale={scale} y={rows[0]!.y} height={rows[0]!.height} />}
        <ProbeMark scale={scale} height={height} />
        <EndHandle
          which="near"
          x={LEFT}
          axis={axis}
          distance={c.near}
          colour={scale.colour(c.near)}
          limits={[0.01, c.far === Infinity ? 1e6 : c.far * 0.98]}
        />
        <EndHandle which="far" x={LEFT + span} axis={axis} distance={c.far} colour={scale.colour(c.far)} limits={[c.near * 1.02, Infinity]} />
      </svg>
      {camera.map((lane, k) => (
        <CameraName key={lane.key} lane={lane} row={rows[k]!} />
      ))}
      {chapter === 'depth' && <RowName y={rows[0]!.y} height={rows[0]!.height} name={layer?.name ?? 'Choose a layer'} inHand={layer !== undefined} />}
      {chosen && <EffectName item={chosen} lens={lens} row={rowOf.get(chosen)!} onChoose={choose(chosen)} />}
      <OtherNames others={others} rowOf={rowOf} choose={choose} />
      {fold && <Fold fold={fold} others={others} />}
    </Box>
  );
}

interface OthersProps {
  readonly others: readonly EffectItem[];
  readonly rowOf: ReadonlyMap<EffectItem, LaneRow>;
  readonly choose: (item: EffectItem) => () => void;
}

/** The names of lanes that are not in hand, where they are unfolded. */
function OtherNames({ others, rowOf, choose }: OthersProps) {
  return others.map((item) => {
    const { y, height, folded } = rowOf.get(item)!;
    return folded ? null : <RowName key={item.id} y={y} height={height} name={effectOf(item.kind).label} off={!item.on} onChoose={choose(item)} />;
  });
}

/** How many lanes are folded away, and what unfolds them. */
function Fold({ fold, others }: { fold: { readonly y: number; readonly height: number }; others: readonly EffectItem[] }) {
  const { lanes, set } = useLayout(useShallow(({ lanes: open, set: put }) => ({ lanes: open, set: put })));
  return (
    <FoldButton
      y={fold.y}
      height={fold.height}
      names={others.map((e) => effectOf(e.kind).label)}
      what="lanes"
      open={lanes}
      onToggle={() => set({ lanes: !lanes })}
    />
  );
}

/** The distances that are lit up in the picture. */
function Lit({ lit, scale: { x, span, axis } }: { lit: { from: number; to: number }; scale: RailScale }) {
  const from = lit.from === 0 ? LEFT : x(lit.from);
  const to = lit.to === Infinity ? LEFT + span : x(lit.to);
  return <rect data-testid="lit" x={from} width={Math.max(1, to - from)} y={HEAD} height={axis - HEAD} fill="var(--paper)" opacity={0.2} />;
}

/** The pointer lights up the pixels under it; a drag those of a range. */
function useLighting(span: number): (scale: RailScale) => React.SVGProps<SVGSVGElement> {
  const { set } = useViewPart('set');
  const bind = useGesture(
    {
      onDrag: ({ first, xy: [x], event, currentTarget, args: [ruler], memo }): number | undefined => {
        if (first && (event.target as Element).closest('[role="slider"]')) return undefined;
        const at = placeIn(currentTarget, x);
        const from = first ? at : (memo as number | undefined);
        if (from !== undefined) light(ruler as Ruler, from, at);
        return from;
      },
      // it ends some time after the pointer has stopped, when another hand may have put the light out
      onMove: ({ dragging, last, xy: [x], currentTarget, args: [ruler] }) => {
        if (!dragging && !last) light(ruler as Ruler, placeIn(currentTarget, x), placeIn(currentTarget, x));
      },
      onHover: ({ hovering }) => {
        if (!hovering) set({ lit: null });
      },
    },
    { drag: { pointer: { keys: false } } },
  );
  const placeIn = (target: EventTarget, x: number): number => (x - (target as Element).getBoundingClientRect().left - LEFT) / span;
  const light = (ruler: Ruler, a: number, b: number): void => {
    const [p, q] = [Math.min(a, b) - (a === b ? GLANCE : 0), Math.max(a, b) + (a === b ? GLANCE : 0)];
    set({ lit: { from: p <= 0 ? 0 : rulerDistance(ruler, p), to: q >= 1 ? Infinity : rulerDistance(ruler, q) } });
  };
  return ({ ruler }) => bind(ruler);
}
