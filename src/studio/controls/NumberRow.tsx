import Box from '@mui/material/Box';
import InputBase from '@mui/material/InputBase';
import Slider from '@mui/material/Slider';
import Tooltip from '@mui/material/Tooltip';
import { useDrag } from '@use-gesture/react';
import { useId, useRef, useState, type CSSProperties } from 'react';
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

/**
 * A row with a label, a number with its unit, and a track under both over its whole width: dragged anywhere but on the number, typed, stepped with
 * the arrow keys, reset by double click.
 */
export const NumberRow = steady(function NumberRow({ param, value, onChange, tint, disabled, marked }: Props) {
  const id = useId();
  const row = useRef<HTMLDivElement>(null);
  const [text, setText] = useState<string | null>(null);
  /** why what was typed is not taken; the value stays as it was */
  const [wrong, setWrong] = useState<string | null>(null);
  /** that less was taken than what was typed */
  const [limited, setLimited] = useState<string | null>(null);
  /** where the thumb is while it is dragged: the shot follows in a task of its own */
  const [held, setHeld] = useState<number | null>(null);
  const [change] = useState(() => new OwnTask());
  const shown = formatNumber(param, held ?? value);
  const bind = useDrag(
    ({ first, last, tap, canceled, event, delta: [dx], xy: [x, y], memo }): Going | undefined => {
      const box = row.current!;
      if (tap) {
        const { left, top, width } = box.getBoundingClientRect();
        const share = (x - left - SIDE) / (width - 2 * SIDE);
        if (y >= top + TRACK_FROM && y <= top + HIGH) onChange(valueAtTrack(param, Math.min(1, Math.max(0, share))));
        return undefined;
      }
      const before = memo as Going | undefined;
      const going = first ? { gesture: beginGesture(), place: trackPosition(param, value), width: box.clientWidth - 2 * SIDE } : before;
      if (!going) return undefined;
      if (last) {
        change.flush();
        if (canceled) going.gesture.cancel();
        else going.gesture.commit();
        setHeld(null);
        return undefined;
      }
      const place = going.place + (dx / Math.max(1, going.width)) * (event.shiftKey ? FINE : 1);
      const next = valueAtTrack(param, Math.min(1, Math.max(0, place)));
      setHeld(next);
      change.run(() => onChange(next, going.gesture));
      return { ...going, place };
    },
    { enabled: disabled !== true, filterTaps: true, axis: 'x', threshold: 2, pointer: { keys: false } },
  );
  const commit = (): void => {
    if (text === null || text === shown) {
      setText(null);
      setWrong(null);
      return;
    }
    const read = readNumber(param, text, shotOf(useDocument.getState())?.settings.time.fps);
    if (read.value === null) {
      setWrong(read.reason);
      return;
    }
    setText(null);
    setWrong(null);
    setLimited(read.limited ?? null);
    onChange(read.value);
  };
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
        disabled={disabled ?? false}
        value={text ?? shown}
        error={wrong !== null}
        onFocus={(event) => {
          setLimited(null);
          event.target.select();
        }}
        onChange={(event) => setText(event.target.value)}
        onBlur={commit}
        onPointerDown={(event) => event.stopPropagation()}
        onKeyDown={(event) => {
          if (event.key === 'Enter') commit();
          else if (event.key === 'Escape') {
            setText(null);
            setWrong(null);
          } else if (event.key === 'ArrowUp' || event.key === 'ArrowDown') {
            event.preventDefault();
            setText(null);
            step(event.key === 'ArrowUp' ? 1 : -1, event.shiftKey);
          }
        }}
        slotProps={{
          input: {
            'aria-invalid': wrong !== null,
            ...(wrong !== null && { 'aria-describedby': `${id}-wrong` }),
            spellCheck: false,
          },
        }}
        sx={wrong === null ? NUMBER : WRONG}
      />
      <Slider
        aria-label={`${param.label}, track`}
        disabled={disabled ?? false}
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
        <Box role="status" sx={{ gridColumn: '1 / -1', color: 'var(--mute)', fontSize: 11.5, paddingBottom: '4px' }}>
          {limited}
        </Box>
      )}
      {wrong !== null && (
        <Box id={`${id}-wrong`} role="alert" sx={{ gridColumn: '1 / -1', color: 'var(--alert)', fontSize: 11.5, paddingBottom: '4px' }}>
          {wrong}
        </Box>
      )}
    </Box>
  );
});
