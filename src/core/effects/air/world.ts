import { ViewGeometry } from '../../camera/pose';
import type { EffectInput } from '../definition';

type Vector = readonly [number, number, number];

export interface World {
  /** a place that the camera has at (x, y, z), in the plate's axes */
  place(x: number, y: number, z: number): Vector;
  /** a place of the plate's axes, as the camera has it */
  seen(x: number, y: number, z: number): Vector;
}

/** The way between the axes of the moved camera and those of the plate: metres, x right, y down, z forward. */
export function worldOf({ camera: { pose }, lens, picture: { width, height } }: Pick<EffectInput<unknown>, 'camera' | 'lens' | 'picture'>): World {
  const geometry = new ViewGeometry({ width, height, focalPx: lens.focalPx }, { ...pose, zoom: 1, shiftX: 0, shiftY: 0 });
  const { r } = geometry;
  return {
    place: (x, y, z) => [
      pose.x + r[0]! * x + r[3]! * y + r[6]! * z,
      pose.y + r[1]! * x + r[4]! * y + r[7]! * z,
      pose.z + r[2]! * x + r[5]! * y + r[8]! * z,
    ],
    seen: (x, y, z) => {
      const [a, b, c] = [x - pose.x, y - pose.y, z - pose.z];
      return [r[0]! * a + r[1]! * b + r[2]! * c, r[3]! * a + r[4]! * b + r[5]! * c, r[6]! * a + r[7]! * b + r[8]! * c];
    },
  };
}
