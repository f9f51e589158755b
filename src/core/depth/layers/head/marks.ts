import type { HeadShape } from './parts';
import { headPoint, turn, type Point3 } from './surface';

/** Points of the face that are dragged onto the picture, by direction from the middle of the head, degrees. */
export const headMarks = {
  eyeLeft: { label: 'Left eye', across: -18.5, up: 0.5, part: 'socket' },
  eyeRight: { label: 'Right eye', across: 18.5, up: 0.5, part: 'socket' },
  nose: { label: 'Tip of the nose', across: 0, up: -19, part: 'nose' },
  mouthLeft: { label: 'Left corner of the mouth', across: -12, up: -36, part: 'lips' },
  mouthRight: { label: 'Right corner of the mouth', across: 12, up: -36, part: 'lips' },
  chin: { label: 'Chin', across: 0, up: -55, part: 'jaw' },
  crown: { label: 'Crown', across: 0, up: 86, part: null },
  templeLeft: { label: 'Left temple', across: -62, up: 12, part: null },
  templeRight: { label: 'Right temple', across: 62, up: 12, part: null },
} as const;
export type MarkName = keyof typeof headMarks;
export const markNames = Object.keys(headMarks) as MarkName[];

/** Where a head is and how it is turned. Angles in degrees; place of its middle in shares of the plate; height in shares of the plate's height. */
export interface HeadPose {
  readonly yaw: number;
  readonly pitch: number;
  readonly roll: number;
  readonly x: number;
  readonly y: number;
  readonly height: number;
}

export interface PlatePlace {
  readonly x: number;
  readonly y: number;
}

/** A mark's point on the surface, with the part it belongs to moved as the shape says. */
export function markPoint(name: MarkName, shape: HeadShape): Point3 {
  const { across, up, part } = headMarks[name];
  if (!part) return headPoint(across, up, shape);
  const p = shape[part];
  const side = Math.sign(across);
  return headPoint(side === 0 ? p.across : side * (Math.abs(across) * p.size + p.across), up + p.up, shape);
}

/** A turned point as it lies in the plate (weak perspective: depth does not change its place). Shares of the plate. */
export function placeInPlate(point: Point3, pose: HeadPose, aspect: number): PlatePlace & { z: number } {
  const [x, y, z] = turn(point, pose.yaw, pose.pitch, pose.roll);
  return { x: pose.x + (x * pose.height) / aspect, y: pose.y + y * pose.height, z };
}

/** Where every mark lies in the plate. `aspect` is width/height of the plate. */
export function placeMarks(pose: HeadPose, shape: HeadShape, aspect: number): Record<MarkName, PlatePlace> {
  const places: Partial<Record<MarkName, PlatePlace>> = {};
  for (const name of markNames) places[name] = placeInPlate(markPoint(name, shape), pose, aspect);
  return places as Record<MarkName, PlatePlace>;
}

export const facings = [
  { name: 'camera', label: 'To the camera', yaw: 0, pitch: 0 },
  { name: 'up', label: 'Up', yaw: 0, pitch: 28 },
  { name: 'down', label: 'Down', yaw: 0, pitch: -28 },
  { name: 'profile-left', label: 'Left profile', yaw: -90, pitch: 0 },
  { name: 'profile-right', label: 'Right profile', yaw: 90, pitch: 0 },
  { name: 'half-left', label: 'Three-quarter left', yaw: -42, pitch: 0 },
  { name: 'half-right', label: 'Three-quarter right', yaw: 42, pitch: 0 },
] as const;
