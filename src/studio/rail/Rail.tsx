import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useRef, useState } from 'react';
import type { Spacing } from '../../core/depth/calibrate';
import { hueOf } from '../../core/depth/hues';
import { rulerDistance, rulerOf, rulerPlace, rulerTicks, type Ruler } from '../../core/depth/ruler';
import { calibrationOf, storedFar } from '../../core/document/defaults';
import type { EffectItem, Shot } from '../../core/document/schema';
import { effectOf } from '../../core/effects/registry';
import { nearnessHex } from '../../core/raster/colour';
import { renderLens } from '../../core/shot/frame';
import { clampNumber, formatMetres, valuesSchema, type NumberParam } from '../../core/values/params';
import { steady } from '../controls/steady';
import { useHues } from '../controls/useTint';
import { changeSettings, useShot } from '../state/documentStore';
import { useSession } from '../state/sessionStore';
import { useViewPart } from '../state/viewStore';
import { probeAt } from '../viewer/probe';
import { useSize } from '../viewer/useSize';
import { DepthLane } from './DepthLane';
import { RailHandle } from './RailHandle';
import { LaneShape } from './LaneShape';

const PAD = 22;
const HEAD = 30;
const HISTOGRAM = 52;
const AXIS = HEAD + HISTOGRAM;
const LANE_TOP = AXIS + 23;
const LANE = 19;
/** half width of what lights up under the pointer, share of the ruler */
const GLANCE = 0.012;

/** Places along the ruler at which its colour is told. */
const GRADIENT = Array.from({ length: 33 }, (_, k) => k / 32);

const SPACINGS: Record<Spacing, string> = { perspective: 'perspective', even: 'even', log: 'log' };

/** The depth rail: a ruler from the near end to the far end, the picture's depths on it, and a lane for what acts by distance. */
export function Rail() {
  const shot = useShot();
  const [ref, size] = useSize<HTMLDivElement>();
  const { ruler: choice, set, lit, chapter, selectedLayer } = useViewPart('ruler', 'set', 'lit', 'chapter', 'selectedLayer');
  const preview = useSession((s) => s.preview);
  const drag = useRef<{ from: number } | null>(null);
  const hues = useHues();
  if (!shot) return <Box ref={ref} sx={{ borderTop: '1px solid var(--line)' }} />;
  const c = calibrationOf(shot.settings.calibration);
  const ruler = rulerOf(c, choice === 'as-map' ? c.spacing : choice);
  const span = Math.max(10, size.width - 2 * PAD);
  const x = (distance: number): number => PAD + span * rulerPlace(ruler, distance);
  const colour = (distance: number): string => nearnessHex(hueOf(distance, c, hues));
  const lanes = shot.settings.effects.filter((e) => effectOf(e.kind).lane !== undefined);
  // in Depth the layer being made has the first lane
  const first = chapter === 'depth' ? 1 : 0;
  const height = LANE_TOP + Math.max(1, first + lanes.length) * LANE + 8;
  const place = (event: React.PointerEvent<SVGElement>): number => (event.clientX - event.currentTarget.getBoundingClientRect().left - PAD) / span;
  const light = (a: number, b: number): void => {
    const [p, q] = [Math.min(a, b) - (a === b ? GLANCE : 0), Math.max(a, b) + (a === b ? GLANCE : 0)];
    set({ lit: { from: p <= 0 ? 0 : rulerDistance(ruler, p), to: q >= 1 ? Infinity : rulerDistance(ruler, q) } });
  };
  return (
    <Box ref={ref} data-testid="rail" sx={{ borderTop: '1px solid var(--line)', position: 'relative', height, flexShrink: 0 }}>
      <Box
        sx={{
          position: 'absolute',
          left: 14,
          right: 14,
          top: 5,
          height: 24,
          display: 'flex',
          alignItems: 'center',
          gap: '12px',
          color: 'var(--mute)',
        }}
      >
        <Box component="span" sx={{ fontWeight: 600, color: 'var(--text)', whiteSpace: 'nowrap' }}>
          Depth rail
        </Box>
        <Box component="span" className="mono" sx={{ whiteSpace: 'nowrap', overflow: 'hidden', textOverflow: 'ellipsis', minWidth: 0 }}>
          near end {formatMetres(c.near)}, far end {formatMetres(c.far)}
        </Box>
        {!shot.settings.calibration.scaled && (
          <Box
            component="span"
            title="No distance is known yet: the near end counts as 1 m. Set it, or put stakes, in Calibrate."
            sx={{ padding: '0 7px', border: '1px solid var(--line2)', borderRadius: '9px', fontSize: 11 }}
          >
            unscaled
          </Box>
        )}
        <Box sx={{ flex: 1 }} />
        <RulerChoice value={choice} of={c.spacing} onChange={(r) => set({ ruler: r })} />
      </Box>
      <svg
        width={Math.max(1, size.width)}
        height={height}
        style={{ display: 'block', touchAction: 'none' }}
        onPointerDown={(e) => {
          if ((e.target as Element).closest('[role="slider"]')) return;
          e.currentTarget.setPointerCapture(e.pointerId);
          drag.current = { from: place(e) };
        }}
        onPointerMove={(e) => {
          if (e.buttons === 0 || !drag.current) light(place(e), place(e));
          else light(drag.current.from, place(e));
        }}
        onPointerUp={() => {
          drag.current = null;
        }}
        onPointerLeave={() => set({ lit: null })}
      >
        <defs>
          <linearGradient id="near-far" x1={PAD} x2={PAD + span} gradientUnits="userSpaceOnUse">
            {GRADIENT.map((p) => (
              <stop key={p} offset={p} stopColor={colour(rulerDistance(ruler, p))} />
            ))}
          </linearGradient>
        </defs>
        <rect x={0} y={HEAD} width={size.width} height={height - HEAD} fill="transparent" />
        {preview && <path d={histogramPath(preview.histogram, span)} fill="url(#near-far)" opacity={0.6} />}
        {lit && (
          <rect
            x={lit.from === 0 ? PAD : x(lit.from)}
            width={Math.max(1, (lit.to === Infinity ? PAD + span : x(lit.to)) - (lit.from === 0 ? PAD : x(lit.from)))}
            y={HEAD + 4}
            height={AXIS - HEAD - 4}
            fill="var(--paper)"
            opacity={0.2}
          />
        )}
        <line x1={PAD} x2={PAD + span} y1={AXIS + 0.5} y2={AXIS + 0.5} stroke="var(--paper)" strokeOpacity={0.3} />
        {rulerTicks(ruler, 46 / span).map((t) => (
          <g key={t.place}>
            <line x1={PAD + span * t.place} x2={PAD + span * t.place} y1={AXIS + 1} y2={AXIS + 6} stroke="var(--mute)" />
            <text x={PAD + span * t.place} y={AXIS + 17} textAnchor="middle" className="mono" style={{ fontSize: 10 }} fill="var(--mute)">
              {tickText(t.place === 1 ? c.far : t.distance, t.place === 1)}
            </text>
          </g>
        ))}
        {first + lanes.length === 0 && (
          <text x={PAD + 4} y={LANE_TOP + 12} fill="var(--mute)" style={{ fontSize: 11 }}>
            Effects that act by distance get a lane here.
          </text>
        )}
        {lanes.map((item, row) => (
          <EffectLane key={item.id} item={item} shot={shot} row={first + row} x={x} span={span} colour={colour} ruler={ruler} />
        ))}
        {first > 0 && (
          <DepthLane
            shot={shot}
            layer={shot.settings.layers.find((l) => l.id === selectedLayer)}
            x={x}
            left={PAD}
            span={span}
            axis={AXIS}
            y={LANE_TOP}
            height={LANE - 4}
            colour={colour}
            ruler={ruler}
          />
        )}
        <ProbeMark x={x} right={PAD + span} height={height} />
        <EndHandle which="near" x={PAD} distance={c.near} colour={colour(c.near)} limits={[0.01, c.far === Infinity ? 1e6 : c.far * 0.98]} />
        <EndHandle which="far" x={PAD + span} distance={c.far} colour={colour(c.far)} limits={[c.near * 1.02, Infinity]} />
      </svg>
    </Box>
  );
}

/** Runs along the rail with the probe in the picture. */
function ProbeMark({ x, right, height }: { x: (distance: number) => number; right: number; height: number }) {
  const shot = useShot();
  const preview = useSession((s) => s.preview);
  const { pointer } = useViewPart('pointer');
  const probe = pointer && preview && shot ? probeAt(preview, shot, pointer.x, pointer.y) : null;
  if (!probe) return null;
  const at = x(probe.distance);
  const leftSide = at > right - 60;
  return (
    <g pointerEvents="none" data-testid="rail-probe">
      <line x1={at} x2={at} y1={HEAD + 2} y2={height - 8} stroke="#fff" strokeOpacity={0.85} />
      <text x={at + (leftSide ? -5 : 5)} y={HEAD + 10} textAnchor={leftSide ? 'end' : 'start'} className="mono" style={{ fontSize: 10 }} fill="#fff">
        {formatMetres(probe.distance)}
      </text>
    </g>
  );
}

const tickText = (distance: number, last: boolean): string => {
  if (distance === Infinity) return '∞';
  const text = String(Number(formatMetres(distance).replace(' m', '')));
  return last ? `${text} m` : text;
};

function histogramPath(bins: Float32Array, span: number): string {
  // a steep scale would hide everything beside the sky: heights follow the root of the share
  const top = Math.sqrt(bins.reduce((a, b) => Math.max(a, b), 1e-6));
  const points = Array.from(
    bins,
    (v, i) => `${(PAD + (span * (i + 0.5)) / bins.length).toFixed(1)},${(AXIS - (Math.sqrt(v) / top) * (HISTOGRAM - 8)).toFixed(1)}`,
  );
  return `M${PAD},${AXIS} L${points.join(' ')} L${PAD + span},${AXIS}Z`;
}

/** An end of the map: dragging doubles or halves its distance every 120 px. */
function EndHandle({
  which,
  x,
  distance,
  colour,
  limits,
}: {
  which: 'near' | 'far';
  x: number;
  distance: number;
  colour: string;
  limits: readonly [number, number];
}) {
  const set = (value: number, key: string): void =>
    changeSettings((s) => {
      const v = Math.min(limits[1], Math.max(limits[0], value));
      s.calibration.scaled = true;
      if (which === 'near') s.calibration.near = Number(v.toPrecision(4));
      else s.calibration.far = v === Infinity ? 'infinite' : storedFar(Number(v.toPrecision(4)));
    }, key);
  return (
    <RailHandle
      label={which === 'near' ? 'Near end' : 'Far end'}
      x={x}
      y={AXIS}
      shape="end"
      colour={colour}
      text={formatMetres(distance)}
      value={distance === Infinity ? 1e6 : distance}
      onDrag={(dx, start, key) => set((start === Infinity ? 1e5 : start) * 2 ** (dx / 120), key)}
      start={distance}
      onStep={(steps, key) => set((distance === Infinity ? 1e5 : distance) * 1.02 ** steps, key)}
    />
  );
}

function EffectLane({
  item,
  shot,
  row,
  x,
  span,
  colour,
  ruler,
}: {
  item: EffectItem;
  shot: Shot;
  row: number;
  x: (d: number) => number;
  span: number;
  colour: (d: number) => string;
  ruler: Ruler;
}) {
  const definition = effectOf(item.kind);
  const params = valuesSchema(definition.params).parse(item.values);
  const lane = definition.lane!(params, renderLens({ plate: shot.plate, settings: shot.settings, size: shot.settings.framing }));
  const y = LANE_TOP + row * LANE;
  const set = (name: string, value: number, key: string): void =>
    changeSettings((s) => {
      const found = s.effects.find((e) => e.id === item.id);
      if (found) found.values[name] = Number(clampNumber(definition.params[name] as NumberParam, value).toPrecision(4));
    }, key);
  return (
    <g opacity={item.on ? 1 : 0.4}>
      <LaneShape lane={lane} x={x} left={PAD} span={span} y={y} height={LANE - 4} colour={colour} />
      {lane.handles.map((h) => (
        <RailHandle
          key={h.param}
          label={`${definition.label}: ${definition.params[h.param]?.label ?? h.param}`}
          x={x(h.distance)}
          y={AXIS}
          stem={y + LANE - 4 - AXIS}
          shape="round"
          colour={colour(h.distance)}
          text={formatMetres(h.distance)}
          value={h.distance}
          start={h.distance}
          onDrag={(dx, start, key) => set(h.param, rulerDistance(ruler, rulerPlace(ruler, start) + dx / span), key)}
          onStep={(steps, key) => set(h.param, h.distance * 1.02 ** steps, key)}
        />
      ))}
    </g>
  );
}

interface RulerProps {
  readonly value: Spacing | 'as-map';
  readonly of: Spacing;
  readonly onChange: (value: Spacing | 'as-map') => void;
}

const RulerChoice = steady(function RulerChoice({ value, of, onChange }: RulerProps) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const options: (Spacing | 'as-map')[] = ['as-map', 'perspective', 'even', 'log'];
  const name = (o: Spacing | 'as-map'): string => (o === 'as-map' ? `as the map, ${SPACINGS[of]}` : SPACINGS[o]);
  return (
    <>
      <Button
        onClick={(e) => setAnchor(e.currentTarget)}
        aria-haspopup="menu"
        sx={{ height: 22, padding: '0 8px', border: 'none', color: 'var(--mute)' }}
        className="mono"
      >
        ruler: {value === 'as-map' ? SPACINGS[of] : SPACINGS[value]}
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        {options.map((o) => (
          <MenuItem
            key={o}
            selected={o === value}
            onClick={() => {
              onChange(o);
              setAnchor(null);
            }}
          >
            {name(o)}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
});
