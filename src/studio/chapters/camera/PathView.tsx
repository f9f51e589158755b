import Box from '@mui/material/Box';
import { useState } from 'react';
import { moveValues } from '../../../core/camera/definition';
import { calibrationOf } from '../../../core/document/calibrationOf';
import type { MoveItem, Shot } from '../../../core/document/schema';
import { formatMetres } from '../../../core/values/params';
import { arrowStep } from '../../controls/arrowStep';
import { useHeldDrag } from '../../controls/useHeldDrag';
import { useTint } from '../../controls/useTint';
import { keyGesture, type Gesture } from '../../state/documentStore';
import { useView } from '../../state/viewStore';
import { dragged, FOOT, HEIGHT, pathDrawing, placeInDrawing, SIDE_FOOT, WIDTH, type PathDrawing, type PathEndName } from './pathDrawing';
import { leadTo, type Place, type Way } from './moveWay';

/** The path of a move, seen from above or from the side, with the ends of depth; the ends that are not where the plate was taken are dragged. */
export function PathView({ shot, item }: { shot: Shot; item: MoveItem }) {
  const frame = useView((s) => s.frame);
  const drawing = pathDrawing(shot, item);
  const { side, places } = drawing;
  // px for a metre: what is dragged keeps its scale until it is let go
  const [held, setHeld] = useState<number | null>(null);
  const scale = held ?? drawing.scale;
  const px = (p: Place): readonly [number, number] => placeInDrawing(side, scale, p);
  const [x, y] = px(drawing.at(frame));
  return (
    <Box sx={{ padding: '10px 14px', borderBottom: '1px solid var(--line)' }}>
      <Box sx={{ display: 'flex', justifyContent: 'space-between', marginBottom: '6px' }}>
        <Box component="h3" sx={{ fontSize: 'inherit', fontWeight: 500, margin: 0 }}>
          Path
        </Box>
        <span className="mono">seen from {side ? 'the side' : 'above'}</span>
      </Box>
      <svg
        width="100%"
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        style={{ display: 'block', background: 'var(--base)', borderRadius: 3, touchAction: 'none' }}
      >
        <Seen drawing={drawing} shot={shot} />
        <path
          d={`M${places
            .map((p) =>
              px(p)
                .map((v) => v.toFixed(1))
                .join(' '),
            )
            .join('L')}`}
          fill="none"
          stroke="var(--paper)"
          strokeWidth={1.5}
        />
        <circle cx={x} cy={y} r={2.5} fill="var(--mute)" />
        {(['Start', 'End'] as const).map((which) => (
          <PathEnd
            key={which}
            which={which}
            at={px(which === 'Start' ? drawing.start : drawing.end)}
            item={item}
            drawing={drawing}
            scale={scale}
            onHold={setHeld}
          />
        ))}
      </svg>
    </Box>
  );
}

/** What the lens sees, and the near and the far end of depth in it: not to scale. */
function Seen({ drawing: { side, cone }, shot }: { drawing: PathDrawing; shot: Shot }) {
  const tint = useTint();
  const { near, far } = calibrationOf(shot.settings.calibration);
  const deep = side ? WIDTH - SIDE_FOOT - 8 : FOOT - 8;
  const d = side
    ? `M${SIDE_FOOT} ${HEIGHT / 2}L${SIDE_FOOT + deep} ${HEIGHT / 2 - deep * cone * 0.5}V${HEIGHT / 2 + deep * cone * 0.5}Z`
    : `M${WIDTH / 2} ${FOOT}L${WIDTH / 2 - deep * cone} 8H${WIDTH / 2 + deep * cone}Z`;
  return (
    <>
      <path d={d} fill="var(--raise)" />
      {[
        { z: far, share: 0.88 },
        { z: near, share: 0.3 },
      ].map(({ z, share }) => {
        const away = share * (side ? WIDTH - 56 : FOOT - 10);
        const half = Math.min(110, away * cone);
        const line = side
          ? { x1: SIDE_FOOT + away, x2: SIDE_FOOT + away, y1: HEIGHT / 2 - half * 0.5, y2: HEIGHT / 2 + half * 0.5 }
          : { x1: WIDTH / 2 - half, x2: WIDTH / 2 + half, y1: FOOT - away, y2: FOOT - away };
        const label = side ? { x: SIDE_FOOT + away + 4, y: 14 } : { x: Math.min(WIDTH - 34, WIDTH / 2 + half + 5), y: FOOT - away + 3 };
        return (
          <g key={share}>
            <line {...line} stroke={tint(z)} strokeWidth={1.5} />
            <text {...label} className="mono" fill={tint(z)} style={{ fontSize: 9.5 }}>
              {formatMetres(z)}
            </text>
          </g>
        );
      })}
    </>
  );
}

interface EndProps {
  readonly which: PathEndName;
  readonly at: readonly [number, number];
  readonly item: MoveItem;
  readonly drawing: PathDrawing;
  readonly scale: number;
  /** the drawing keeps this scale; null: its own again */
  readonly onHold: (scale: number | null) => void;
}

/** An end of the path. */
function PathEnd({ which, at: [cx, cy], item, drawing, scale, onHold }: EndProps) {
  const { definition, shares, side, run, start, end, values } = drawing;
  /** moves it so many px of a drawing of that scale from where it was */
  const put = (way: Way, right: number, down: number, pxPerMetre: number, gesture: Gesture): void =>
    leadTo(item.id, { definition, values: way.values }, dragged(way, side, pxPerMetre * shares[which], right, down), gesture);
  const bind = useHeldDrag({
    grab: (_, taken) => {
      onHold(scale);
      const { width } = (taken as SVGElement).ownerSVGElement!.getBoundingClientRect();
      return { way: { start, end, values }, pxPerMetre: (scale * width) / WIDTH };
    },
    move: ({ way, pxPerMetre }, { x, y }, gesture) => put(way, x, y, pxPerMetre, gesture),
    done: () => onHold(null),
  });
  const dot = <circle cx={cx} cy={cy} {...DOTS[which]} stroke="var(--paper)" strokeWidth={1.5} />;
  if (!definition.path || shares[which] === 0)
    return (
      <g>
        {run && <title>{`The ${which.toLowerCase()} stands where the plate was taken: see “Plate at its”`}</title>}
        {dot}
      </g>
    );
  return (
    <g
      {...bind()}
      role="slider"
      tabIndex={0}
      aria-label={`${which} of the path`}
      aria-valuenow={0}
      aria-valuemin={-1e6}
      aria-valuemax={1e6}
      aria-valuetext={definition.summary(moveValues(definition, item.values))}
      style={{ cursor: 'move' }}
      onKeyDown={(e) => {
        const arrow = arrowStep(e.key);
        if (!arrow) return;
        e.preventDefault();
        const by = e.shiftKey ? 10 : 2;
        put({ start, end, values }, arrow[0] * by, arrow[1] * by, scale, keyGesture('path'));
      }}
    >
      <title>{`Drag the ${which.toLowerCase()} of the move`}</title>
      <rect x={cx - 10} y={cy - 10} width={20} height={20} fill="transparent" />
      {dot}
    </g>
  );
}

const DOTS = { Start: { r: 4, fill: 'var(--base)' }, End: { r: 5, fill: 'var(--paper)' } } as const;
