import { newPlane, type Plane, type Raster, type Size } from '../../picture';
import { USUAL_QUALITY } from '../../need/estimators';
import { fitLongSide } from '../../raster/resample';
import { methodRegistry, workingPicture } from '../estimate';
import { trainedNearness } from '../network/network';
import type { Encoded } from '../network/unet';
import { peopleIn, SIZES } from './people';
import type { Person } from './person';

interface Place {
  readonly x: number;
  readonly y: number;
}

/** The size of the masks of a picture's persons, px. */
export const sizeOfMasks = (picture: Size): Size => fitLongSide(picture, methodRegistry.named(USUAL_QUALITY).side);

/** A mask that is as sure as this covers a place. */
const COVERED = 0.3;
/** Share of a person that lies within a region who is one of those that it is of. */
const MOSTLY = 0.5;

/** The persons in a picture, as a fine estimate finds them; null where `progress` answers false. The networks must be there. */
export function personsIn(raster: Raster, progress: (share: number) => boolean = () => true): Person[] | null {
  const { side, views: asked } = methodRegistry.named(USUAL_QUALITY);
  const small = workingPicture(raster, side);
  const read: Encoded[] = [];
  const views = asked.slice(0, SIZES).map(({ area }) => ({ area, mirrored: false }));
  const network = trainedNearness(
    small,
    views,
    (share) => progress(0.4 * share),
    (encoded) => read.push(encoded),
  );
  return network && peopleIn(raster, small, read, (share) => progress(0.4 + 0.6 * share));
}

const maskAt = ({ mask: { width, height, data } }: Person, { x, y }: Place): number =>
  data[Math.min(height - 1, Math.max(0, Math.floor(y * height))) * width + Math.min(width - 1, Math.max(0, Math.floor(x * width)))]!;

/** Who is at a place of the picture, shares: whose mask covers it most surely, or else the smallest whose box holds it; null where nobody is. */
export function personAt(people: readonly Person[], place: Place): Person | null {
  let best: Person | null = null;
  for (const person of people) if (maskAt(person, place) > Math.max(COVERED, best ? maskAt(best, place) : 0)) best = person;
  if (best) return best;
  const within = people.filter(({ box: b }) => place.x >= b.left && place.x <= b.right && place.y >= b.top && place.y <= b.bottom);
  const size = ({ box: b }: Person): number => (b.right - b.left) * (b.bottom - b.top);
  return within.reduce<Person | null>((a, b) => (a && size(a) <= size(b) ? a : b), null);
}

/** What some persons of one picture cover together, 0..1, of the size of their masks; nothing, of the size that is given, where there are none. */
export function coverageOf(people: readonly Person[], size: Size): Plane {
  const { width, height } = people[0]?.mask ?? size;
  const out = newPlane(width, height);
  for (const { mask } of people) for (let i = 0; i < out.data.length; i++) out.data[i] = Math.max(out.data[i]!, mask.data[i]!);
  return out;
}

/** What the persons at some places of a picture cover. Places where nobody is say nothing. */
export function coverageAt(people: readonly Person[], places: readonly Place[], size: Size): Plane {
  return coverageOf([...new Set(places.map((place) => personAt(people, place)).filter((p) => p !== null))], size);
}

/** The persons who lie for the most part within a region of the picture, of any size. */
export const personsWithin = (people: readonly Person[], region: Plane): Person[] =>
  people.filter(({ mask }) => {
    let [all, within] = [0, 0];
    for (let y = 0; y < mask.height; y++)
      for (let x = 0; x < mask.width; x++) {
        const m = mask.data[y * mask.width + x]!;
        if (m < 0.5) continue;
        const at = Math.floor(((y + 0.5) / mask.height) * region.height) * region.width + Math.floor(((x + 0.5) / mask.width) * region.width);
        all++;
        within += region.data[at]!;
      }
    return all > 0 && within / all > MOSTLY;
  });

/** A place that surely is this person's, shares: where their mask is surest, nearest to its middle; and the share of the picture that they cover. */
export function placeOf({ mask: { width, height, data } }: Person): Place & { readonly share: number } {
  let [sum, sx, sy] = [0, 0, 0];
  for (let i = 0; i < data.length; i++) {
    sum += data[i]!;
    sx += data[i]! * (i % width);
    sy += data[i]! * Math.floor(i / width);
  }
  const [cx, cy] = [sx / sum, sy / sum];
  let [best, least] = [0, Infinity];
  for (let i = 0; i < data.length; i++) {
    if (data[i]! < 0.9) continue;
    const apart = Math.hypot((i % width) - cx, Math.floor(i / width) - cy);
    if (apart < least) [best, least] = [i, apart];
  }
  const share = sum / data.length;
  return least === Infinity
    ? { x: (cx + 0.5) / width, y: (cy + 0.5) / height, share }
    : { x: ((best % width) + 0.5) / width, y: (Math.floor(best / width) + 0.5) / height, share };
}
