import Box from '@mui/material/Box';
import { Fragment, useMemo } from 'react';
import { useShallow } from 'zustand/react/shallow';
import { isTimed, onlySignals } from '../../core/document/driven';
import type { Shot } from '../../core/document/schema';
import { FoldButton } from '../score/FoldButton';
import { END, hairlines } from '../score/measures';
import { useShot } from '../state/documentStore';
import { useLayout } from '../state/layoutStore';
import { useSession } from '../state/sessionStore';
import { useView, useViewPart } from '../state/viewStore';
import { useSize } from '../controls/useSize';
import { Ruler } from './TimeRuler';
import { FOLD, LABELS, timeScale, TRACK, type TimeScale } from './scale';
import { isInHand, rowsOf, type Looked, type TrackRow } from './trackRows';
import { Transport } from './Transport';

/** So many tracks are seen at once; more are scrolled to. */
const SEEN = 5;

/** The time of a shot in which something moves: playing, a ruler with the playhead, a track for every driven number and every move. */
export function Timeline() {
  const shot = useShot();
  if (!shot || !isTimed(shot) || (shot.plate.live && onlySignals(shot.settings))) return null;
  return <Tracks shot={shot} />;
}

/** Rows of which several are in hand come in their order; where none is, the first that is driven, or the first of all. */
function inHandOf(rows: readonly TrackRow[], view: Looked): readonly TrackRow[] {
  const held = rows.filter((r) => isInHand(r, view));
  return held.length > 0 ? held : [rows.find((r) => r.driven) ?? rows[0]!];
}

function Tracks({ shot }: { shot: Shot }) {
  const [ref, size] = useSize<HTMLDivElement>();
  const path = useSession((s) => s.path);
  const view = useViewPart('chapter', 'selectedLayer', 'selectedEffect', 'selectedMove');
  const { tracks: unfolded, set } = useLayout(useShallow(({ tracks, set: put }) => ({ tracks, set: put })));
  const { time } = shot.settings;
  const scale = useMemo(() => timeScale(time.length, size.width), [time.length, size.width]);
  const rows = rowsOf(shot, path?.stretch ?? []);
  const held = rows.length > 0 ? inHandOf(rows, view) : [];
  const others = rows.filter((r) => !held.includes(r));
  const shown = unfolded ? [...held, ...others] : held;
  const height = shown.length * TRACK;
  return (
    <Box
      ref={ref}
      component="section"
      aria-label="Timeline"
      data-testid="timeline"
      sx={{ borderTop: '1px solid var(--line)', flexShrink: 0, position: 'relative', paddingBottom: '4px' }}
    >
      <Transport shot={shot} />
      <Ruler shot={shot} scale={scale} width={size.width} />
      <Box sx={{ maxHeight: SEEN * TRACK, overflowY: shown.length > SEEN ? 'auto' : 'hidden', overflowX: 'hidden' }}>
        <Box sx={{ position: 'relative' }}>
          <svg width={Math.max(1, size.width)} height={Math.max(1, height)} style={{ display: 'block' }}>
            {shown.map((row, k) => (
              <g key={row.key}>{row.track(scale, k * TRACK)}</g>
            ))}
            <PlayheadLine scale={scale} height={height} />
          </svg>
          {shown.map((row, k) => (
            <Fragment key={row.key}>{row.label(k * TRACK, held.includes(row))}</Fragment>
          ))}
        </Box>
      </Box>
      {others.length > 0 && (
        <Box sx={{ position: 'relative', height: FOLD }}>
          {!unfolded && <Folded rows={others} scale={scale} />}
          <FoldButton
            y={0}
            height={FOLD}
            names={others.map((r) => r.name)}
            what="tracks"
            open={unfolded}
            onToggle={() => set({ tracks: !unfolded })}
          />
        </Box>
      )}
    </Box>
  );
}

/** Tracks that are folded away, a hairline each: from where to where something happens, and its keys. */
function Folded({ rows, scale }: { rows: readonly TrackRow[]; scale: TimeScale }) {
  const { step, high } = hairlines(rows.length, FOLD - 4);
  return (
    <svg width={LABELS + scale.span + END} height={FOLD} style={{ display: 'block' }} aria-hidden="true">
      {rows.map(({ key, glimpse: { from, to, keys } }, k) => {
        const y = 3 + k * step;
        return (
          <g key={key}>
            <line x1={scale.x(from)} x2={scale.x(to)} y1={y} y2={y} stroke="var(--line2)" strokeWidth={Math.min(1, high)} />
            {keys.map((f) => (
              <line key={f} x1={scale.x(f) - 1.5} x2={scale.x(f) + 1.5} y1={y} y2={y} stroke="var(--mute)" strokeWidth={Math.min(2, high)} />
            ))}
          </g>
        );
      })}
      <PlayheadLine scale={scale} height={FOLD} />
    </svg>
  );
}

/** The line of the playhead through the tracks. */
function PlayheadLine({ scale, height }: { scale: TimeScale; height: number }) {
  const frame = useView((s) => s.frame);
  return <line x1={scale.x(frame)} x2={scale.x(frame)} y1={0} y2={height} stroke="var(--paper)" strokeWidth={1} pointerEvents="none" />;
}
