import type { CSSProperties } from 'react';
import { arrowStep } from '../../../controls/arrowStep';

interface Props {
  readonly at: { readonly x: number; readonly y: number };
  readonly label: string;
  readonly cursor?: string;
  /** filled when chosen; its colour where it stands for a distance */
  readonly chosen?: boolean;
  readonly colour?: string;
  readonly small?: boolean;
  readonly square?: boolean;
  readonly onPointerDown: (event: React.PointerEvent) => void;
  /** an arrow key: one step to a side, ten with Shift */
  readonly onStep: (dx: number, dy: number) => void;
  readonly onDoubleClick?: (event: React.MouseEvent) => void;
  readonly onFocus?: () => void;
}

const PLACE: CSSProperties = { position: 'absolute', width: 22, height: 22, display: 'grid', placeItems: 'center', touchAction: 'none' };

/** Something to take hold of in the picture, by pointer or keys; larger to the pointer than to the eye. */
export function Handle({
  at,
  label,
  cursor = 'move',
  chosen = false,
  colour,
  small = false,
  square = false,
  onPointerDown,
  onStep,
  onDoubleClick,
  onFocus,
}: Props) {
  const size = small ? 8 : 12;
  const onKeyDown = (event: React.KeyboardEvent): void => {
    const by = arrowStep(event.key);
    if (!by) return;
    event.preventDefault();
    const far = event.shiftKey ? 10 : 1;
    onStep(by[0] * far, by[1] * far);
  };
  return (
    <div
      role="button"
      tabIndex={0}
      aria-label={label}
      title={label}
      onPointerDown={onPointerDown}
      onKeyDown={onKeyDown}
      onDoubleClick={onDoubleClick}
      onFocus={onFocus}
      style={{ ...PLACE, left: at.x - 11, top: at.y - 11, cursor }}
    >
      <div
        style={{
          width: size,
          height: size,
          borderRadius: square ? '2px' : '50%',
          border: '1.5px solid #fff',
          background: colour ?? (chosen ? '#fff' : 'var(--base)'),
          boxShadow: chosen ? '0 0 0 1px #000a, 0 0 0 3px #fff8' : '0 0 0 1px #000a',
        }}
      />
    </div>
  );
}
