import type { PersonsContent } from '../../../../../core/depth/layers/persons/content';
import { frameAt } from '../../../../../core/need/need';
import { changeContent, contentIn, dragLayer, isLocked } from '../../layerActions';
import type { OverlayProps } from '../../plateView';
import { keyGesture } from '../../../../state/documentStore';
import { useClipFrame } from '../../../../state/shotNow';
import { Handle } from '../Handle';

/** Marks where persons were clicked: dragged, moved by keys, and clicked to take them out. */
export function PersonsOverlay({ shot, layer, view }: OverlayProps) {
  const here = useClipFrame();
  const { clicked } = contentIn<PersonsContent>(layer);
  const frame = shot.plate.clip ? here : frameAt(shot.plate, { frame: 0, fps: 1 });
  const inside = (v: number): number => Math.min(1, Math.max(0, v));
  return (
    <>
      {clicked.map((mark, i) =>
        mark.frame !== frame ? null : (
          <Handle
            key={i}
            at={view.toView(mark.x, mark.y)}
            label={`Person ${i + 1}`}
            chosen
            onPointerDown={(event) =>
              dragLayer(
                event,
                layer,
                (e) => {
                  const p = view.pointer(e);
                  const at = { x: inside(p.x), y: inside(p.y), frame: mark.frame };
                  return { content: { clicked: clicked.map((c, k) => (k === i ? at : c)) } };
                },
                (moved) => {
                  if (!moved) changeContent<PersonsContent>(layer.id, (c) => void c.clicked.splice(i, 1));
                },
              )
            }
            onStep={(dx, dy) => {
              if (isLocked(layer)) return;
              changeContent<PersonsContent>(
                layer.id,
                (c) => {
                  const moved = c.clicked[i];
                  if (moved) Object.assign(moved, { x: inside(moved.x + dx / 200), y: inside(moved.y + dy / 200) });
                },
                keyGesture(`person:${layer.id}:${i}`),
              );
            }}
          />
        ),
      )}
    </>
  );
}
