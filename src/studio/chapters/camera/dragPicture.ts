import { NOTHING } from '../../../core/camera/definition';
import type { Shot } from '../../../core/document/schema';
import { beginGesture } from '../../state/documentStore';
import type { PictureDrag } from '../../state/picking';
import { useView } from '../../state/viewStore';
import { leadTo, moveWay } from './moveWay';

/** Below this share of its depth a thing hardly moves with the camera: what is as near as can be stands in, 1/m. */
const LEAST = 0.02;

/**
 * A drag of the picture moves the end of the move in hand, so that what was taken hold of goes with the pointer: sideways and up for moves
 * aside, up and down for moves forward.
 */
export function dragPicture(shot: Shot, distance: number): PictureDrag | null {
  const item = shot.settings.camera.moves.find((m) => m.id === useView.getState().selectedMove);
  if (!item) return null;
  const way = moveWay(shot, item);
  const { definition, lens, start, end } = way;
  if (!definition.path) return null;
  const values = way.values as Record<string, unknown>;
  const fixed = definition.fixedDistance ? Number(values[definition.fixedDistance]) : NOTHING;
  const off = 1 / distance - (fixed < NOTHING ? 1 / fixed : 0);
  const parallax = Math.abs(off) < LEAST ? Math.sign(off || 1) * LEAST : off;
  const gesture = beginGesture();
  return {
    move: (dx, dy) => {
      const aside = { x: end.x - start.x - dx / (lens.focalPx * parallax), y: end.y - start.y - dy / (lens.focalPx * parallax), z: end.z - start.z };
      // towards the middle of the lower border a push of so many px comes from this way forward
      const forward = { ...aside, x: end.x - start.x, z: end.z - start.z + (dy * distance) / (lens.height / 2) };
      const pushes = Math.abs(end.z - start.z) > Math.abs(end.x - start.x) + Math.abs(end.y - start.y);
      leadTo(item.id, way, pushes ? forward : aside, gesture);
    },
    end: () => gesture.commit(),
  };
}
