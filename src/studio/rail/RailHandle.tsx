import { useState } from 'react';
import { OwnTask } from '../controls/ownTask';
import { steady } from '../controls/steady';
import { useView } from '../state/viewStore';
import { useHeldDrag } from '../controls/useHeldDrag';
import { keyGesture, type Gesture } from '../state/documentStore';

interface Props {
  readonly label: string;
  readonly x: number;
  /** the axis */
  readonly y: number;
  /** how far a stem runs down from the axis */
  readonly stem?: number;
  readonly shape: 'round' | 'end';
  readonly colour: string;
  readonly text: string;
  readonly value: number;
  /** the distance when a drag begins */
  readonly start: number;
  readonly onDrag: (dx: number, start: number, gesture: Gesture) => void;
  readonly onStep: (steps: number, gesture: Gesture) => void;
}

/** Something to take hold of on the rail: a pin with a round head, or an end. */
export const RailHandle = steady(function RailHandle({ label, x, y, stem = 0, shape, colour, text, value, start, onDrag, onStep }: Props) {
  const [change] = useState(() => new OwnTask());
  const bind = useHeldDrag({
    grab: () => {
      // the picture is what is looked at while its distances change
      useView.getState().set({ lit: null });
      return start;
    },
    move: (from, { x: dx }, gesture) => change.run(() => onDrag(dx, from, gesture)),
    done: () => change.flush(),
  });
  return (
    <g
      {...bind()}
      role="slider"
      tabIndex={0}
      aria-label={label}
      aria-valuenow={value}
      aria-valuemin={0}
      aria-valuemax={1e6}
      aria-valuetext={text}
      style={{ cursor: 'ew-resize', touchAction: 'none' }}
      onKeyDown={(e) => {
        const steps = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1, PageUp: 10, PageDown: -10 }[e.key];
        if (steps === undefined) return;
        e.preventDefault();
        onStep(steps * (e.shiftKey ? 5 : 1), keyGesture(label));
      }}
    >
      <title>{`${label}: ${text}`}</title>
      {shape === 'round' ? (
        <>
          <line x1={x} x2={x} y1={y} y2={y + stem} stroke={colour} strokeWidth={1.5} />
          <rect x={x - 10} y={y - 12} width={20} height={24} fill="transparent" />
          <circle cx={x} cy={y} r={5} fill={colour} stroke="var(--base)" strokeWidth={1} />
        </>
      ) : (
        <>
          <rect x={x - 9} y={y - 26} width={18} height={34} fill="transparent" />
          <rect x={x - 2.5} y={y - 18} width={5} height={22} rx={2} fill={colour} stroke="var(--base)" strokeWidth={1} />
        </>
      )}
    </g>
  );
});
