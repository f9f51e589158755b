import { coverageAt, personsIn, placeOf, sizeOfMasks } from '../../core/estimate/people/chosen';
import type { Person } from '../../core/estimate/people/person';
import { needKey, type PersonsNeed, type RasterNeed } from '../../core/need/need';
import type { Plane, Raster, Size } from '../../core/picture';
import { plateAt, rendering } from '../held/holding';
import type { FoundPerson } from '../messages/estimateApi';
import { Newest } from '../messages/newest';
import { fetchNetwork } from './fetchNetwork';

/** The persons of the picture that was looked at last: they are clicked one after the other. */
let last: { readonly key: string; readonly people: readonly Person[]; readonly size: Size } | null = null;

async function look(plate: RasterNeed, progress: (share: number) => boolean): Promise<typeof last> {
  const key = needKey(plate);
  if (last?.key === key) return last;
  await fetchNetwork();
  const raster: Raster = await rendering(() => plateAt(plate));
  const people = personsIn(raster, progress);
  if (!people) return null;
  return (last = { key, people, size: sizeOfMasks(raster) });
}

/** What the persons at some places of a still cover; null where it was stopped. */
export async function personsCover(need: PersonsNeed, id: number, words: Int32Array, report: (share: number) => void): Promise<Plane | null> {
  const newest = new Newest(words);
  const found = await look({ is: 'raster', ref: need.of, frame: need.frame }, (share) => {
    report(share);
    return newest.is(id);
  });
  return found && coverageAt(found.people, need.places, found.size);
}

/** Where the persons of a plate are, the largest first; null where it was stopped. */
export async function personsFound(plate: RasterNeed, id: number, words: Int32Array, report: (share: number) => void): Promise<FoundPerson[] | null> {
  const newest = new Newest(words);
  const found = await look(plate, (share) => {
    report(share);
    return newest.is(id);
  });
  return found && found.people.map(placeOf).sort((a, b) => b.share - a.share);
}
