import Box from '@mui/material/Box';
import { useRef, useState } from 'react';
import { moveValues, runEnds, runOf, startShare } from '../../../core/camera/definition';
import { judgedFrames, poseAt } from '../../../core/path/path';
import { moveOf } from '../../../core/camera/registry';
import { calibrationOf } from '../../../core/document/calibrationOf';
import type { MoveItem, Shot } from '../../../core/document/schema';
import { clampNumber, formatMetres } from '../../../core/values/params';
import { hfovOf } from '../../../core/document/framing';
import { useTint } from '../../controls/useTint';
import { beginGesture, changeSettings, keyGesture, type Gesture } from '../../state/documentStore';
import { useView } from '../../state/viewStore';
import { lensOf } from '../../state/shotLens';

const WIDTH = 264;
const HEIGHT = 128;
/** The camera's place in the drawing. */
const FOOT = HEIGHT - 22;
/** The longest way of a move takes so many px. */
const WAY = 46;

type Place = { readonly x: number; readonly y: number; readonly z: number };

/** A path before it is dragged: its ends, m, and what it is set to. */
interface Whole {
  readonly start: Place;
  readonly end: Place;
  readonly values: Readonly<Record<string, unknown>>;
}

/** The path of a move, seen from above or from the side, with the ends of depth; the ends that are not where the plate was taken are dragged. */
export function PathView({ shot, item }: { shot: Shot; item: MoveItem }) {
  const definition = moveOf(item.kind);
  const frame = useView((s) => s.frame);
  const tint = useTint();
  const drag = useRef<{ readonly x: number; readonly y: number; readonly gesture: Gesture; readonly scale: number; readonly whole: Whole } | null>(
    null,
  );
  const [held, setHeld] = useState(0);
  const { path } = definition;
  const { near, far } = calibrationOf(shot.settings.calibration);
  const lens = lensOf(shot);
  const hfov = hfovOf(lens.width, lens.focalPx);
  const alone = { time: shot.settings.time, camera: { ...shot.settings.camera, moves: [{ ...item, on: true }] } };
  const at = (f: number): Place => poseAt(alone, hfov, { frame: f, fps: shot.settings.time.fps });
  const side = path?.from === 'side';
  const frames = judgedFrames(shot.settings.time.length);
  const places = frames.map(at);
  const run = runOf(definition, item.values);
  const ends = run && runEnds(run, shot.settings.time.length);
  // what comes back ends where it turns
  const end = at(run?.returns && ends ? (ends.from + ends.to) / 2 : shot.settings.time.length - 1);
  const reach = Math.max(1e-4, ...places.map((p) => Math.hypot(side ? p.y : p.x, p.z)));
  // px for a metre: what is dragged keeps its scale until it is let go
  const scale = drag.current && held ? held : WAY / reach;
  const px = (p: Place): readonly [number, number] =>
    side ? [40 + p.z * scale, HEIGHT / 2 + p.y * scale] : [WIDTH / 2 + p.x * scale, FOOT - p.z * scale];
  const first = px(at(0));
  const last = px(end);
  const now = px(at(frame));
  const cone = Math.tan(((side ? (hfov * shot.settings.framing.height) / shot.settings.framing.width : hfov) * Math.PI) / 360);
  const line = `M${places
    .map((p) =>
      px(p)
        .map((v) => v.toFixed(1))
        .join(' '),
    )
    .join('L')}`;
  const whole: Whole = { start: at(0), end, values: moveValues(definition, item.values) };
  const begins = run ? startShare(run) : 0;
  // as the way grows by a length, its ends go so many lengths
  const shares = { Start: begins, End: 1 + begins };
  /** moves an end so many px from where it was */
  const put = (which: keyof typeof shares, dx: number, dy: number, by: number, gesture: Gesture, { start, end, values }: typeof whole): void => {
    if (!path) return;
    const per = by * shares[which];
    const to = side
      ? { x: 0, y: end.y - start.y + dy / per, z: end.z - start.z + dx / per }
      : { x: end.x - start.x + dx / per, y: 0, z: end.z - start.z - dy / per };
    const changed = path.drag(values as never, to) as Record<string, number>;
    changeSettings((s) => {
      const found = s.camera.moves.find((m) => m.id === item.id);
      for (const [name, value] of Object.entries(changed)) {
        const param = definition.params[name];
        if (found && param?.type === 'number') found.values[name] = Number(clampNumber(param, value).toFixed(param.decimals + 1));
      }
    }, gesture);
  };
  const depths = [
    { z: far, share: 0.88 },
    { z: near, share: 0.3 },
  ];
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
        style={{ display: 'block', background: 'var(--ground)', borderRadius: 3, touchAction: 'none' }}
      >
        {side ? (
          <path
            d={`M40 ${HEIGHT / 2}L${WIDTH - 8} ${HEIGHT / 2 - (WIDTH - 48) * cone * 0.5}V${HEIGHT / 2 + (WIDTH - 48) * cone * 0.5}Z`}
            fill="var(--raise)"
          />
        ) : (
          <path d={`M${WIDTH / 2} ${FOOT}L${WIDTH / 2 - (FOOT - 8) * cone} 8H${WIDTH / 2 + (FOOT - 8) * cone}Z`} fill="var(--raise)" />
        )}
        {depths.map(({ z, share }) => {
          const d = share * (side ? WIDTH - 56 : FOOT - 10);
          const half = Math.min(110, d * cone);
          return side ? (
            <g key={share}>
              <line x1={40 + d} x2={40 + d} y1={HEIGHT / 2 - half * 0.5} y2={HEIGHT / 2 + half * 0.5} stroke={tint(z)} strokeWidth={1.5} />
              <text x={40 + d + 4} y={14} className="mono" fill={tint(z)} style={{ fontSize: 9.5 }}>
                {formatMetres(z)}
              </text>
            </g>
          ) : (
            <g key={share}>
              <line x1={WIDTH / 2 - half} x2={WIDTH / 2 + half} y1={FOOT - d} y2={FOOT - d} stroke={tint(z)} strokeWidth={1.5} />
              <text x={Math.min(WIDTH - 34, WIDTH / 2 + half + 5)} y={FOOT - d + 3} className="mono" fill={tint(z)} style={{ fontSize: 9.5 }}>
                {formatMetres(z)}
              </text>
            </g>
          );
        })}
        <path d={line} fill="none" stroke="var(--paper)" strokeWidth={1.5} />
        <circle cx={now[0]} cy={now[1]} r={2.5} fill="var(--mute)" />
        {(['Start', 'End'] as const).map((which) => {
          const [cx, cy] = which === 'Start' ? first : last;
          const dot = (
            <circle
              cx={cx}
              cy={cy}
              r={which === 'Start' ? 4 : 5}
              fill={which === 'Start' ? 'var(--ground)' : 'var(--paper)'}
              stroke="var(--paper)"
              strokeWidth={1.5}
            />
          );
          if (!path || shares[which] === 0)
            return (
              <g key={which}>
                {run && <title>{`The ${which.toLowerCase()} stands where the plate was taken: see “Plate at its”`}</title>}
                {dot}
              </g>
            );
          return (
            <g
              key={which}
              role="slider"
              tabIndex={0}
              aria-label={`${which} of the path`}
              aria-valuenow={0}
              aria-valuemin={-1e6}
              aria-valuemax={1e6}
              aria-valuetext={definition.summary(moveValues(definition, item.values))}
              style={{ cursor: 'move' }}
              onPointerDown={(e) => {
                e.currentTarget.setPointerCapture(e.pointerId);
                const box = e.currentTarget.ownerSVGElement!.getBoundingClientRect();
                drag.current = { x: e.clientX, y: e.clientY, gesture: beginGesture(), scale: (scale * box.width) / WIDTH, whole };
                setHeld(scale);
              }}
              onPointerMove={(e) => {
                const d = drag.current;
                if (d) put(which, e.clientX - d.x, e.clientY - d.y, d.scale, d.gesture, d.whole);
              }}
              onPointerUp={() => {
                drag.current?.gesture.commit();
                drag.current = null;
                setHeld(0);
              }}
              onKeyDown={(e) => {
                const arrow = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key];
                if (!arrow) return;
                e.preventDefault();
                put(which, arrow[0]! * (e.shiftKey ? 10 : 2), arrow[1]! * (e.shiftKey ? 10 : 2), scale, keyGesture('path'), whole);
              }}
            >
              <title>{`Drag the ${which.toLowerCase()} of the move`}</title>
              <rect x={cx - 10} y={cy - 10} width={20} height={20} fill="transparent" />
              {dot}
            </g>
          );
        })}
      </svg>
    </Box>
  );
}
