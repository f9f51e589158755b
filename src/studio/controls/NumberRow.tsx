import Box from '@mui/material/Box';
import InputBase from '@mui/material/InputBase';
import Slider from '@mui/material/Slider';
import Tooltip from '@mui/material/Tooltip';
import { useId, useRef, useState, type CSSProperties } from 'react';
import { clampNumber, formatNumber, readNumber, trackPosition, valueAtTrack, type NumberParam } from '../../core/values/params';
import { fonts, tokens } from '../../theme/tokens';
import { beginGesture, keyGesture, shotOf, useDocument, type Gesture } from '../state/documentStore';
import { OwnTask } from './ownTask';
import { steady } from './steady';

const STEPS = 1000;
/** A colour that changes with the value is a variable: a rule of its own for every step would have the whole page styled anew. */
const TINTED = { '& .MuiSlider-track, & .MuiSlider-thumb': { background: 'var(--tint)' } };

interface Props {
  readonly param: NumberParam;
  readonly value: number;
  /** with the gesture that the change is a part of, where it is one */
  readonly onChange: (value: number, gesture?: Gesture) => void;
  /** colour of the distance the control is set to */
  readonly tint?: string | undefined;
  readonly disabled?: boolean;
}

/** A labelled track and a number with its unit: dragged, typed, stepped with the arrow keys, reset by double click. */
export const NumberRow = steady(function NumberRow({ param, value, onChange, tint, disabled }: Props) {
  const id = useId();
  const gesture = useRef<Gesture | undefined>(undefined);
  const [text, setText] = useState<string | null>(null);
  /** why what was typed is not taken; the value stays as it was */
  const [wrong, setWrong] = useState<string | null>(null);
  /** that less was taken than what was typed */
  const [limited, setLimited] = useState<string | null>(null);
  /** where the thumb is while it is dragged: the shot follows in a task of its own */
  const [held, setHeld] = useState<number | null>(null);
  const [change] = useState(() => new OwnTask());
  const shown = formatNumber(param, held ?? value);
  const begin = (): void => {
    const begun = beginGesture();
    gesture.current = begun;
    // the track follows the pointer beyond its borders, and so does this
    const end = (): void => {
      window.removeEventListener('pointerup', end);
      window.removeEventListener('pointercancel', end);
      // the last change comes with the same event
      queueMicrotask(() => {
        change.flush();
        begun.commit();
        setHeld(null);
      });
    };
    window.addEventListener('pointerup', end);
    window.addEventListener('pointercancel', end);
  };
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
    <Box sx={{ display: 'grid', gridTemplateColumns: '96px 1fr 64px', alignItems: 'center', columnGap: '9px', minHeight: 26 }}>
      <Tooltip title={param.help ?? ''} placement="left">
        <Box component="label" htmlFor={id} sx={{ color: 'var(--mute)', whiteSpace: 'nowrap', overflow: 'hidden', textOverflow: 'ellipsis' }}>
          {param.label}
        </Box>
      </Tooltip>
      <Slider
        aria-label={`${param.label}, track`}
        disabled={disabled ?? false}
        min={0}
        max={STEPS}
        value={trackPosition(param, held ?? value) * STEPS}
        getAriaValueText={() => shown}
        // the number beside it takes the same keys: one stop for both
        slotProps={{ input: { tabIndex: -1 } }}
        onPointerDown={begin}
        onDoubleClick={() => onChange(param.default)}
        onChange={(event, t) => {
          // the keys step by the parameter's own step, below
          if ((event as { type?: string }).type === 'keydown' || typeof t !== 'number') return;
          const next = valueAtTrack(param, t / STEPS);
          setHeld(next);
          change.run(() => onChange(next, gesture.current));
        }}
        onKeyDown={(event) => {
          const direction = { ArrowUp: 1, ArrowRight: 1, PageUp: 1, ArrowDown: -1, ArrowLeft: -1, PageDown: -1 }[event.key];
          if (direction === undefined) return;
          event.preventDefault();
          step(direction, event.shiftKey || event.key.startsWith('Page'));
        }}
        {...(tint && { sx: TINTED, style: { '--tint': tint } as CSSProperties })}
      />
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
        onDoubleClick={() => onChange(param.default)}
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
        sx={{
          borderBottom: `1px dotted ${wrong ? tokens.alert : tokens.line2}`,
          '& input': { textAlign: 'right', padding: '1px 0', fontSize: 11, fontFamily: fonts.numbers, color: wrong ? tokens.alert : 'var(--text)' },
        }}
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
