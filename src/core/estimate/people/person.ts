import type { Plane } from '../../picture';
import type { Found } from './finder';

/** A person in a picture. */
export interface Person {
  /** what is looked at, shares of the picture; may reach beyond it */
  readonly box: Found;
  /** how surely each pixel belongs to this person, 0..1 */
  readonly mask: Plane;
}
