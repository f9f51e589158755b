import { Handle } from '../Handle';
import type { ShapeEdits } from './shapeEdits';

interface Props {
  /** around the chosen shapes, px of the view */
  readonly box: { readonly left: number; readonly top: number; readonly right: number; readonly bottom: number };
  readonly edits: ShapeEdits;
}

/** The frame around the chosen shapes. */
export const WholeFrame = ({ box }: Pick<Props, 'box'>) => (
  <rect
    x={box.left}
    y={box.top}
    width={box.right - box.left}
    height={box.bottom - box.top}
    fill="none"
    stroke="#fff"
    strokeOpacity={0.5}
    strokeDasharray="2 4"
  />
);

/** Handles that scale and turn the chosen shapes as a whole. */
export function WholeHandles({ box, edits }: Props) {
  const { aspect } = edits;
  return (
    <>
      {(['left', 'right'] as const).flatMap((side) =>
        (['top', 'bottom'] as const).map((edge) => (
          <Handle
            key={`${side}${edge}`}
            small
            square
            at={{ x: box[side], y: box[edge] }}
            label="Scale"
            cursor="nwse-resize"
            onStep={(dx, dy) => edits.stepWhole('scale', { scale: 1.01 ** (dx - dy) })}
            onPointerDown={(e) =>
              edits.dragWhole(e, (to, from, about) => {
                const away = (q: { x: number; y: number }): number => Math.hypot((q.x - about.x) * aspect, q.y - about.y);
                return { scale: Math.max(0.02, away(to) / Math.max(1e-6, away(from))) };
              })
            }
          />
        )),
      )}
      <Handle
        small
        at={{ x: (box.left + box.right) / 2, y: box.top - 22 }}
        label="Turn"
        cursor="grab"
        onStep={(dx, dy) => edits.stepWhole('turn', { turn: dx + dy })}
        onPointerDown={(e) =>
          edits.dragWhole(e, (to, from, about) => {
            const angle = (q: { x: number; y: number }): number => Math.atan2(q.y - about.y, (q.x - about.x) * aspect);
            return { turn: ((angle(to) - angle(from)) * 180) / Math.PI };
          })
        }
      />
    </>
  );
}
