import { Euler, Vector3 } from 'three';
import type { CameraPose, PlateLens } from '../../core/camera/pose';

/** Where the camera of the shot stands, and where it goes. */
export interface CameraDrawing {
  readonly lens: PlateLens;
  readonly now: CameraPose;
  readonly way: readonly CameraPose[];
}

/** The camera's frustum, so deep (m), and its path, as the ends of lines. */
export function cameraCorners({ lens, now, way }: CameraDrawing, deep: number): Vector3[] {
  const at = (pose: CameraPose, x: number, y: number, z: number): Vector3 =>
    new Vector3(x, -y, -z).applyEuler(turnOf(pose)).add(new Vector3(pose.x, -pose.y, -pose.z));
  const corners: Vector3[] = [];
  const [w, h] = [((lens.width / 2) * deep) / (lens.focalPx * now.zoom), ((lens.height / 2) * deep) / (lens.focalPx * now.zoom)];
  const four = [at(now, -w, -h, deep), at(now, w, -h, deep), at(now, w, h, deep), at(now, -w, h, deep)];
  const eye = at(now, 0, 0, 0);
  for (const [k, corner] of four.entries()) corners.push(eye, corner, corner, four[(k + 1) % 4]!);
  const moves = way.some((p) => p.x !== way[0]!.x || p.y !== way[0]!.y || p.z !== way[0]!.z);
  if (moves) for (let k = 0; k + 1 < way.length; k++) corners.push(at(way[k]!, 0, 0, 0), at(way[k + 1]!, 0, 0, 0));
  return corners;
}

/** How a camera of the shot is turned, in space as three has it. */
const turnOf = ({ yaw, pitch, roll }: CameraPose): Euler => new Euler(pitch, -yaw, -roll, 'YXZ');
