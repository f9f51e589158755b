import type { ReactNode } from 'react';
import { useHeldDrag } from '../controls/useHeldDrag';
import { keyGesture, type Gesture } from '../state/documentStore';
import type { TimeScale } from './scale';

interface Props {
  readonly label: string;
  readonly frame: number;
  readonly scale: TimeScale;
  /** said besides the frame */
  readonly text?: string;
  readonly limits?: readonly [number, number];
  /** false: it stands where it is */
  readonly movable?: boolean;
  readonly onGrab?: (more: boolean) => void;
  /** so many frames from where it was taken hold of, which was at `grabbed` */
  readonly onDrag: (by: number, grabbed: number, gesture: Gesture) => void;
  readonly onStep: (by: number, gesture: Gesture) => void;
  /** other keys; true where it took one */
  readonly onKey?: (event: React.KeyboardEvent) => boolean;
  readonly onFocus?: () => void;
  readonly onDoubleClick?: () => void;
  readonly children: ReactNode;
}

const STEPS: Readonly<Record<string, number>> = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1 };

/** Something at a frame that is dragged along the timeline, or stepped with the arrow keys: by ten with Shift. */
export function TrackHandle({
  label,
  frame,
  scale,
  text,
  limits,
  movable = true,
  onGrab,
  onDrag,
  onStep,
  onKey,
  onFocus,
  onDoubleClick,
  children,
}: Props) {
  const [least, most] = limits ?? [0, scale.length - 1];
  const bind = useHeldDrag({
    grab: (event) => {
      event.stopPropagation();
      if (!movable) return null;
      onGrab?.(event.shiftKey);
      return frame;
    },
    move: (grabbed, { x }, gesture) => onDrag((x / scale.span) * (scale.length - 1), grabbed, gesture),
  });
  return (
    <g
      {...bind()}
      role="slider"
      tabIndex={0}
      aria-label={label}
      aria-valuemin={least}
      aria-valuemax={most}
      aria-valuenow={frame}
      aria-valuetext={text ? `Frame ${frame}, ${text}` : `Frame ${frame}`}
      style={{ cursor: movable ? 'ew-resize' : 'default', touchAction: 'none' }}
      onFocus={onFocus}
      onDoubleClick={onDoubleClick}
      onKeyDown={(e) => {
        const by = movable ? STEPS[e.key] : undefined;
        if (by === undefined && !onKey?.(e)) return;
        e.preventDefault();
        e.stopPropagation();
        if (by !== undefined) onStep(by * (e.shiftKey ? 10 : 1), keyGesture(label.replace(/\d+/g, '')));
      }}
    >
      <title>{`${label}${text ? `: ${text}` : `: frame ${frame}`}`}</title>
      {children}
    </g>
  );
}
