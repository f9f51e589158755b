import { moveValues, NOTHING, runEnds, runOf } from '../../../core/camera/definition';
import { poseAt } from '../../../core/path/path';
import { moveOf } from '../../../core/camera/registry';
import type { Shot } from '../../../core/document/schema';
import { hfovOf } from '../../../core/document/framing';
import { clampNumber } from '../../../core/values/params';
import { beginGesture, changeSettings } from '../../state/documentStore';
import { useView } from '../../state/viewStore';
import type { PictureDrag } from '../../state/picking';
import { lensOf } from '../../state/shotLens';

/** Below this share of its depth a thing hardly moves with the camera: what is as near as can be stands in, 1/m. */
const LEAST = 0.02;

/**
 * A drag of the picture moves the end of the move in hand, so that what was taken hold of goes with the pointer: sideways and up for moves
 * aside, up and down for moves forward.
 */
export function dragPicture(shot: Shot, distance: number): PictureDrag | null {
  const item = shot.settings.camera.moves.find((m) => m.id === useView.getState().selectedMove);
  const definition = item && moveOf(item.kind);
  const path = definition?.path;
  if (!item || !path) return null;
  const lens = lensOf(shot);
  const hfov = hfovOf(lens.width, lens.focalPx);
  const { time, camera } = shot.settings;
  const alone = { time, camera: { ...camera, moves: [{ ...item, on: true }] } };
  const at = (frame: number): { x: number; y: number; z: number } => poseAt(alone, hfov, { frame, fps: time.fps });
  const run = runOf(definition, item.values);
  const ends = run && runEnds(run, time.length);
  // what comes back ends where it turns
  const [start, end] = [at(0), at(run?.returns && ends ? (ends.from + ends.to) / 2 : time.length - 1)];
  const values = moveValues(definition, item.values) as Record<string, unknown>;
  const fixed = definition.fixedDistance ? Number(values[definition.fixedDistance]) : NOTHING;
  const off = 1 / distance - (fixed < NOTHING ? 1 / fixed : 0);
  const parallax = Math.abs(off) < LEAST ? Math.sign(off || 1) * LEAST : off;
  const gesture = beginGesture();
  return {
    move: (dx, dy) => {
      const aside = { x: end.x - start.x - dx / (lens.focalPx * parallax), y: end.y - start.y - dy / (lens.focalPx * parallax), z: end.z - start.z };
      // towards the middle of the lower border a push of so many px comes from this way forward
      const forward = { ...aside, x: end.x - start.x, z: end.z - start.z + (dy * distance) / (lens.height / 2) };
      const changed = path.drag(
        values as never,
        Math.abs(end.z - start.z) > Math.abs(end.x - start.x) + Math.abs(end.y - start.y) ? forward : aside,
      ) as Record<string, number>;
      changeSettings((s) => {
        const found = s.camera.moves.find((m) => m.id === item.id);
        for (const [name, value] of Object.entries(changed)) {
          const param = definition.params[name];
          if (found && param?.type === 'number') found.values[name] = Number(clampNumber(param, value).toFixed(param.decimals + 1));
        }
      }, gesture);
    },
    end: () => gesture.commit(),
  };
}
