import Box from '@mui/material/Box';
import InputBase from '@mui/material/InputBase';
import Slider from '@mui/material/Slider';
import Tooltip from '@mui/material/Tooltip';
import { useDrag } from '@use-gesture/react';
import { useId, useRef, useState, type CSSProperties, type RefObject } from 'react';
import { clampNumber, formatNumber, readNumber, trackPosition, valueAtTrack, type NumberParam } from '../../core/values/params';
import { fonts, tokens } from '../../theme/tokens';
import { beginGesture, keyGesture, shotOf, useDocument, type Gesture } from '../state/documentStore';
import { OwnTask } from './ownTask';
import { steady } from './steady';

const STEPS = 1000;
/** A row reaches so far beyond what stands in it, px: what is under the pointer is lit there as well. */
const SIDE = 8;
/** How high a row is, px. */
const HIGH = 29;
/** Of the row's end the mark of a drive takes so much. */
const MARK = 20;

const ROW = {
  position: 'relative',
  display: 'grid',
  gridTemplateColumns: 'minmax(0,1fr) auto',
  alignItems: 'center',
  columnGap: '8px',
  minHeight: HIGH,
  padding: `0 ${SIDE}px 8px`,
  margin: `0 -${SIDE}px`,
  borderRadius: '3px',
  touchAction: 'pan-y',
  '&[data-marked="true"]': { paddingRight: `${SIDE + MARK}px` },
} as const;
const DRAGGED = { ...ROW, cursor: 'ew-resize', '&:hover, &:focus-within': { background: 'var(--raise)' } } as const;
const LABEL = {
  color: 'var(--mute)',
  whiteSpace: 'nowrap',
  overflow: 'hidden',
  textOverflow: 'ellipsis',
  cursor: 'inherit',
  userSelect: 'none',
} as const;
const NUMBER = {
  width: 76,
  '& input': { textAlign: 'right', padding: 0, height: 20, fontSize: 11, fontFamily: fonts.numbers, color: 'var(--text)' },
} as const;
const WRONG = { ...NUMBER, '& input': { ...NUMBER['& input'], color: tokens.alert, textDecoration: `underline dotted ${tokens.alert}` } } as const;
/** The hairline under both. It takes no pointer of its own: the row does. */
const TRACK = {
  position: 'absolute',
  left: SIDE,
  right: SIDE,
  top: 24,
  width: 'auto',
  padding: 0,
  pointerEvents: 'none',
  height: '1px',
  '& .MuiSlider-track': { height: 2 },
  // what is dragged is the whole row, not a wide ring about the thumb
  '& .MuiSlider-thumb': { width: 9, height: 9, '&::after': { width: 21, height: 21 } },
} as const;
/** A colour that changes with the value is a variable: a rule of its own for every step would have the whole page styled anew. */
const TINTED = {
  ...TRACK,
  '& .MuiSlider-track': { height: 2, background: 'var(--tint)' },
  '& .MuiSlider-thumb': { ...TRACK['& .MuiSlider-thumb'], background: 'var(--tint)' },
} as const;

interface Props {
  readonly param: NumberParam;
  readonly value: number;
  /** with the gesture that the change is a part of, where it is one */
  readonly onChange: (value: number, gesture?: Gesture) => void;
  /** colour of the distance the control is set to */
  readonly tint?: string | undefined;
  readonly disabled?: boolean;
  /** room is left at its end for the mark of a drive */
  readonly marked?: boolean;
}

/** A drag that goes on: where the thumb would be, 0..1 of the track, which is so wide, px. */
interface Going {
  readonly gesture: Gesture;
  readonly place: number;
  readonly width: number;
}

/** From here down, px, a row is its track: a click there puts the thumb there. */
const TRACK_FROM = 19;
/** With Shift the thumb goes so much slower than the pointer. */
const FINE = 0.1;

type DragProps = Pick<Props, 'param' | 'value' | 'onChange' | 'disabled'>;

/** The whole row as its track: where it is dragged to, and where the thumb is meanwhile. */
function useTrackDrag(row: RefObject<HTMLDivElement | null>, { param, value, onChange, disabled }: DragProps) {
  /** where the thumb is while it is dragged: the shot follows in a task of its own */
  const [held, setHeld] = useState<number | null>(null);
  const [change] = useState(() => new OwnTask());
  const click = (x: number, y: number): void => {
    const { left, top, width } = row.current!.getBoundingClientRect();
    const share = (x - left - SIDE) / (width - 2 * SIDE);
    if (y >= top + TRACK_FROM && y <= top + HIGH) onChange(valueAtTrack(param, Math.min(1, Math.max(0, share))));
  };
  const end = (gesture: Gesture, broken: boolean): void => {
    change.flush();
    if (broken) gesture.cancel();
    else gesture.commit();
    setHeld(null);
  };
  const bind = useDrag(
    ({ first, last, tap, canceled, event, delta: [dx], xy: [x, y], memo }): Going | undefined => {
      if (tap) return void click(x, y);
      const before = memo as Going | undefined;
      const going = first ? { gesture: beginGesture(), place: trackPosition(param, value), width: row.current!.clientWidth - 2 * SIDE } : before;
      if (!going) return undefined;
      if (last) return void end(going.gesture, canceled);
      const place = going.place + (dx / Math.max(1, going.width)) * (event.shiftKey ? FINE : 1);
      const next = valueAtTrack(param, Math.min(1, Math.max(0, place)));
      setHeld(next);
      change.run(() => onChange(next, going.gesture));
      return { ...going, place };
    },
    { enabled: disabled !== true, filterTaps: true, axis: 'x', threshold: 2, pointer: { keys: false } },
  );
  return { bind, held };
}

/** A value as text while it is typed, and why it is not taken, or only in part; the value stays as it was meanwhile. */
function useTyped(param: NumberParam, shown: string, onChange: Props['onChange']) {
  const [text, setText] = useState<string | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const [limited, setLimited] = useState<string | null>(null);
  const leave = (): void => {
    setText(null);
    setWrong(null);
  };
  const commit = (): void => {
    if (text === null || text === shown) return leave();
    const read = readNumber(param, text, shotOf(useDocument.getState())?.settings.time.fps);
    if (read.value === null) return setWrong(read.reason);
    leave();
    setLimited(read.limited ?? null);
    onChange(read.value);
  };
  return { text, wrong, limited, type: setText, forget: () => setLimited(null), leave, commit };
}

/**
 * A row with a label, a number with its unit, and a track under both over its whole width: dragged anywhere but on the number, typed, stepped with
 * the arrow keys, reset by double click.
 */
export const NumberRow = steady(function NumberRow({ param, value, onChange, tint, disabled = false, marked }: Props) {
  const id = useId();
  const row = useRef<HTMLDivElement>(null);
  const { bind, held } = useTrackDrag(row, { param, value, onChange, disabled });
  const shown = formatNumber(param, held ?? value);
  const typed = useTyped(param, shown, onChange);
  const { wrong, limited } = typed;
  const step = (direction: number, large: boolean): void => {
    const size = param.scale === 'log' ? Math.max(param.step, Math.abs(value) * 0.02) : param.step;
    const digits = param.unit === 'm' ? 3 : param.decimals;
    onChange(clampNumber(param, Number((value + direction * size * (large ? 10 : 1)).toFixed(digits))), keyGesture(id));
  };
  return (
    <Box ref={row} {...bind()} onDoubleClick={() => onChange(param.default)} sx={disabled ? ROW : DRAGGED} data-marked={marked ?? false}>
      <Tooltip title={param.help ?? ''} placement="left">
        <Box component="label" htmlFor={id} sx={LABEL}>
          {param.label}
        </Box>
      </Tooltip>
      <InputBase
        id={id}
        disabled={disabled}
        value={typed.text ?? shown}
        error={wrong !== null}
        onFocus={(event) => {
          typed.forget();
          event.target.select();
        }}
        onChange={(event) => typed.type(event.target.value)}
        onBlur={typed.commit}
        onPointerDown={(event) => event.stopPropagation()}
        onKeyDown={(event) => {
          if (event.key === 'Enter') typed.commit();
          else if (event.key === 'Escape') typed.leave();
          else if (event.key === 'ArrowUp' || event.key === 'ArrowDown') {
            event.preventDefault();
            typed.type(null);
            step(event.key === 'ArrowUp' ? 1 : -1, event.shiftKey);
          }
        }}
        slotProps={{
          input: { 'aria-invalid': wrong !== null, ...(wrong !== null && { 'aria-describedby': `${id}-wrong` }), spellCheck: false },
        }}
        sx={wrong === null ? NUMBER : WRONG}
      />
      <Slider
        aria-label={`${param.label}, track`}
        disabled={disabled}
        min={0}
        max={STEPS}
        value={trackPosition(param, held ?? value) * STEPS}
        getAriaValueText={() => shown}
        // the number beside it takes the same keys: one stop for both
        slotProps={{ input: { tabIndex: -1 } }}
        onKeyDown={(event) => {
          // by the parameter's own step, not the track's
          const direction = { ArrowUp: 1, ArrowRight: 1, PageUp: 1, ArrowDown: -1, ArrowLeft: -1, PageDown: -1 }[event.key];
          if (direction === undefined) return;
          event.preventDefault();
          step(direction, event.shiftKey || event.key.startsWith('Page'));
        }}
        sx={tint ? TINTED : TRACK}
        {...(tint && { style: { '--tint': tint } as CSSProperties })}
      />
      {limited !== null && wrong === null && (
        <Box role="status" sx={{ ...SAID, color: 'var(--mute)' }}>
          {limited}
        </Box>
      )}
      {wrong !== null && (
        <Box id={`${id}-wrong`} role="alert" sx={{ ...SAID, color: 'var(--alert)' }}>
          {wrong}
        </Box>
      )}
    </Box>
  );
});

const SAID = { gridColumn: '1 / -1', fontSize: 11.5, paddingBottom: '4px' } as const;
