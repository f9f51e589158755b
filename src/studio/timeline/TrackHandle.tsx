import { useRef, type ReactNode } from 'react';
import { beginGesture, keyGesture, type Gesture } from '../state/documentStore';
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
  const drag = useRef<{ readonly x: number; readonly frame: number; readonly gesture: Gesture } | null>(null);
  const [least, most] = limits ?? [0, scale.length - 1];
  const end = (how: 'commit' | 'cancel'): void => {
    drag.current?.gesture[how]();
    drag.current = null;
  };
  return (
    <g
      role="slider"
      tabIndex={0}
      aria-label={label}
      aria-valuemin={least}
      aria-valuemax={most}
      aria-valuenow={frame}
      aria-valuetext={text ? `Frame ${frame}, ${text}` : `Frame ${frame}`}
      style={{ cursor: movable ? 'ew-resize' : 'default' }}
      onPointerDown={(e) => {
        e.stopPropagation();
        if (!movable) return;
        e.currentTarget.setPointerCapture(e.pointerId);
        onGrab?.(e.shiftKey);
        drag.current = { x: e.clientX, frame, gesture: beginGesture() };
      }}
      onPointerMove={(e) => {
        const { current } = drag;
        if (current) onDrag(((e.clientX - current.x) / scale.span) * (scale.length - 1), current.frame, current.gesture);
      }}
      onPointerUp={() => end('commit')}
      onPointerCancel={() => end('cancel')}
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
