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
import { ownLanes } from './ownLanes';
import { useSession } from '../state/sessionStore';
import { useShotNow } from '../state/shotNow';
import { useViewPart } from '../state/viewStore';
import { FoldButton } from '../score/FoldButton';
import { END } from '../score/measures';
import { RowName } from '../score/RowName';
import { useLayout } from '../state/layoutStore';
import { useSize } from '../controls/useSize';
import { factsOf } from '../state/chapterFacts';

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

/** What lies on the rail, and where: the lanes in hand, those of effects, and the ruler over them. */
function useLanes(width: number, tall: number) {
  const shot = useShot();
  const now = useShotNow();
  const view = useViewPart('ruler', 'chapter', 'selectedLayer', 'selectedEffect', 'selectedMove');
  const { lanes: unfolded, score } = useLayout(useShallow(({ lanes, score: high }) => ({ lanes, score: high })));
  const hues = useHues();
  const span = Math.max(10, width - LEFT - END);
  const calibration = now?.settings.calibration;
  const own = shot && now ? ownLanes(factsOf(view.chapter), shot, now, view) : [];
  const effects = now ? withLanes(now) : [];
  const chosen = own.length > 0 ? undefined : (effects.find((e) => e.id === view.selectedEffect) ?? effects[0]);
  const others = effects.filter((e) => e !== chosen);
  const inHand = own.length + (chosen ? 1 : 0);
  const least = laneRows(inHand, others.length, unfolded, HEAD + HISTOGRAM).height;
  // what room there is besides is the histogram's
  const axis = HEAD + HISTOGRAM + (score === null ? 0 : Math.max(0, tall - least));
  const { rows, fold, height } = laneRows(inHand, others.length, unfolded, axis);
  const scale = useMemo(() => {
    if (!calibration) return null;
    const c = calibrationOf(calibration);
    return railScale(rulerOf(c, view.ruler === 'as-map' ? c.spacing : view.ruler), span, axis, (z) => nearnessHex(hueOf(z, c, hues)));
  }, [calibration, view.ruler, span, axis, hues]);
  const rowOf = new Map([...(chosen ? [chosen] : []), ...others].map((item, k) => [item, rows[own.length + k]!]));
  return { now, calibration, scale, own, chosen, others, rows, rowOf, fold, least, height };
}

/** The depth rail: a ruler from the near end to the far end, the picture's depths on it, and a lane for what acts by distance. */
export function Rail() {
  const [ref, size] = useSize<HTMLDivElement>();
  const { set, lit } = useViewPart('set', 'lit');
  const preview = useSession((s) => s.preview);
  const { now, calibration, scale, own, chosen, others, rows, rowOf, fold, least, height } = useLanes(size.width, size.height);
  const lighting = useLighting(scale?.span ?? 10);
  if (!now || !calibration || !scale) return <Box ref={ref} />;
  const c = calibrationOf(calibration);
  const lens = renderLens({ plate: now.plate, settings: now.settings, size: now.settings.framing });
  const choose = (item: EffectItem) => () => set({ selectedEffect: item.id });
  return (
    <Box ref={ref} data-testid="rail" sx={{ position: 'relative', flex: '1 0 auto' }} style={{ minHeight: least }}>
      <RailHead calibration={c} scaled={calibration.scaled} />
      <svg width={Math.max(1, size.width)} height={height} style={{ position: 'absolute', inset: 0, touchAction: 'none' }} {...lighting(scale)}>
        <NearToFar scale={scale} />
        <rect x={LEFT} y={HEAD} width={scale.span} height={height - HEAD} fill="transparent" />
        {preview && <Histogram bins={preview.histogram} scale={scale} />}
        {lit && <Lit lit={lit} scale={scale} />}
        <RulerAxis scale={scale} far={c.far} />
        {rows.length === 0 && (
          <text x={LEFT} y={scale.axis + 36} fill="var(--mute)" style={{ fontSize: 11 }}>
            Effects that act by distance get a lane here.
          </text>
        )}
        {[...rowOf].map(([item, row]) => (
          <EffectLane key={item.id} item={item} lens={lens} scale={scale} row={row} onChoose={choose(item)} />
        ))}
        {own.map((lane, k) => lane.draw(scale, rows[k]!))}
        <ProbeMark scale={scale} height={height} />
        <Ends scale={scale} near={c.near} far={c.far} />
      </svg>
      {own.map((lane, k) => lane.name(rows[k]!))}
      {chosen && <EffectName item={chosen} lens={lens} row={rowOf.get(chosen)!} onChoose={choose(chosen)} />}
      <OtherNames others={others} rowOf={rowOf} choose={choose} />
      {fold && <Fold fold={fold} others={others} />}
    </Box>
  );
}

/** The colours of distances along the ruler, for what is filled by them. */
const NearToFar = ({ scale }: { scale: RailScale }) => (
  <defs>
    <linearGradient id="near-far" x1={LEFT} x2={LEFT + scale.span} gradientUnits="userSpaceOnUse">
      {GRADIENT.map((p) => (
        <stop key={p} offset={p} stopColor={scale.colour(rulerDistance(scale.ruler, p))} />
      ))}
    </linearGradient>
  </defs>
);

/** The ends of depth, which are dragged. */
const Ends = ({ scale, near, far }: { scale: RailScale; near: number; far: number }) => (
  <>
    <EndHandle
      which="near"
      x={LEFT}
      axis={scale.axis}
      distance={near}
      colour={scale.colour(near)}
      limits={[0.01, far === Infinity ? 1e6 : far * 0.98]}
    />
    <EndHandle which="far" x={LEFT + scale.span} axis={scale.axis} distance={far} colour={scale.colour(far)} limits={[near * 1.02, Infinity]} />
  </>
);

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
