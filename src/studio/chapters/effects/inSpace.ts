import { poseAt, hasCamera } from '../../../core/path/path';
import { ViewGeometry, type Placed } from '../../../core/camera/pose';
import type { Shot } from '../../../core/document/schema';
import { hfovOf } from '../../../core/document/framing';
import { momentOf } from '../../state/shotNow';
import { useSession } from '../../state/sessionStore';
import { lensOf } from '../../state/shotLens';

/** The view of the output as it is looked at now, the camera's moves included. */
function viewOf(shot: Shot): { readonly geometry: ViewGeometry; readonly focalPx: number; readonly cx: number; readonly cy: number } {
  const lens = lensOf(shot);
  const hfov = hfovOf(lens.width, lens.focalPx);
  const { path } = useSession.getState();
  const moved = hasCamera(shot.settings);
  const enlarged = moved && path && shot.settings.camera.border === 'overscan' ? path.overscan : 1;
  const geometry = new ViewGeometry(lens, poseAt(shot.settings, hfov, momentOf(shot)), enlarged);
  return { geometry, focalPx: lens.focalPx, cx: lens.width / 2, cy: lens.height / 2 };
}

/** Where a place in the plate's axes (metres: right, down, forward of the frame's middle) is seen, px of the output; null behind the camera. */
export function seenAt(shot: Shot, [x, y, z]: readonly [number, number, number]): { readonly x: number; readonly y: number } | null {
  if (!(z > 0.01)) return null;
  const { geometry, focalPx, cx, cy } = viewOf(shot);
  const out: Placed = { x: 0, y: 0, q: 0 };
  return geometry.forward(cx + (focalPx * x) / z, cy + (focalPx * y) / z, 1 / z, out) ? { x: out.x, y: out.y } : null;
}

/** The place that is seen at a share of the output, `distance` metres from where the camera stands. */
export function placeAt(shot: Shot, x: number, y: number, distance: number): readonly [number, number, number] {
  const { geometry, focalPx, cx, cy } = viewOf(shot);
  const out: Placed = { x: 0, y: 0, q: 0 };
  const { width, height } = shot.settings.framing;
  if (!geometry.backward(x * width, y * height, 1 / distance, out)) return [0, 0, distance];
  const z = 1 / out.q;
  return [((out.x - cx) / focalPx) * z, ((out.y - cy) / focalPx) * z, z];
}
