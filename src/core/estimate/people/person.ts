import type { Plane } from '../../picture';
import type { Found } from './finder';

/** A face on a map: x and y, px of the map; depth, px of the map, more is farther. */
export interface FaceOnMap {
  readonly x: Float32Array;
  readonly y: Float32Array;
  readonly depth: Float32Array;
}

/** A person in a picture. */
export interface Person {
  /** what is looked at, shares of the picture; may reach beyond it */
  readonly box: Found;
  /** how surely each pixel belongs to this person, 0..1 */
  readonly mask: Plane;
  /** the surface of their face, where it is seen */
  readonly face?: FaceOnMap | null;
}
