import type { FileRef } from '../src/core/need/fileRef';
import { OmbrageError } from '../src/core/error';
import {
  needKey,
  stillNeed,
  type EstimateNeed,
  type MapNeed,
  type Need,
  type PersonsNeed,
  type PlaneNeed,
  type RasterNeed,
} from '../src/core/need/need';
import type { Plane, Raster } from '../src/core/picture';
import type { Held } from '../src/core/shot/stage';
import { mapAsNearness, readMapFile, type DecodeRaster } from '../src/formats/maps/mapFile';
import { coverageAt, personsIn, sizeOfMasks } from '../src/core/estimate/people/chosen';
import { loadNetwork } from './network';
import { estimated } from './ownNetwork';
import { decodeStill } from './stills';

/** The files of a project, by the hash of what is in them. */
export type Media = ReadonlyMap<string, Uint8Array>;

export const decodeAny: DecodeRaster = (bytes, name) => decodeStill(bytes, name, false);

function bytesOf(media: Media, { sha256, name }: FileRef): Uint8Array {
  const found = media.get(sha256);
  if (!found) throw new OmbrageError('missing-media', `${name} is missing from the project file.`, 'Export the project again where it is whole.');
  return found;
}

const loadRaster = async ({ ref, opaque }: RasterNeed, media: Media): Promise<Raster> => ({
  ...(await decodeStill(bytesOf(media, ref), ref.name, false)).raster,
  ...(opaque && { opaque }),
});

const loadMap = async ({ ref, channel, reading }: MapNeed, media: Media): Promise<Plane> =>
  mapAsNearness(await readMapFile(bytesOf(media, ref), ref.name, channel, decodeAny), reading).plane;

const loadEstimate = async (need: EstimateNeed, media: Media): Promise<Plane> => estimated(await loadRaster(stillNeed(need.of), media), need);

async function loadPersons({ of, places }: PersonsNeed, media: Media): Promise<Plane> {
  loadNetwork();
  const raster = await loadRaster(stillNeed(of), media);
  const people = personsIn(raster)!;
  return coverageAt(people, places, sizeOfMasks(raster));
}

function loadPlane(need: Exclude<PlaneNeed, { is: 'kept' }>, media: Media): Promise<Plane> {
  switch (need.is) {
    case 'map':
      return loadMap(need, media);
    case 'persons':
      return loadPersons(need, media);
    case 'estimate':
      return loadEstimate(need, media);
  }
}

/** Loads what a shot needs, each need by the loader of its sort. Throws OmbrageError that names the file. */
export async function heldFor(needs: readonly Need[], media: Media): Promise<Held> {
  const rasters = new Map<string, Raster>();
  const planes = new Map<string, Plane>();
  for (const need of needs) {
    const key = needKey(need);
    if (need.is === 'raster') rasters.set(key, await loadRaster(need, media));
    else if (need.is === 'kept') continue;
    else planes.set(key, await loadPlane(need, media));
  }
  return {
    raster: (need) => rasters.get(needKey(need)) ?? null,
    plane: (need) => {
      const [key, plane] = [needKey(need), planes.get(needKey(need))];
      return plane ? { key, plane } : null;
    },
  };
}
