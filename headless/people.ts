import { workingPicture } from '../src/core/estimate/estimate';
import { trainedNearness } from '../src/core/estimate/network/network';
import type { Encoded } from '../src/core/estimate/network/unet';
import { peopleIn } from '../src/core/estimate/people/people';
import type { Person } from '../src/core/estimate/people/person';
import type { Raster } from '../src/core/picture';

/** The persons in a picture, at the sizes at which a fine estimate reads it. The networks must be loaded. */
export function personsIn(raster: Raster): Person[] {
  const small = workingPicture(raster, 576);
  const read: Encoded[] = [];
  const views = [448 * 448, 288 * 192].map((area) => ({ area, mirrored: false }));
  trainedNearness(
    small,
    views,
    () => true,
    (encoded) => read.push(encoded),
  );
  return peopleIn(raster, small, read)!;
}
