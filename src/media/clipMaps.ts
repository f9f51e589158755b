import type { MapEnds, MapNeed } from '../core/need/need';
import type { Plane } from '../core/picture';
import { distanceEnds, mapAsNearness, type DecodeRaster } from '../formats/maps/mapFile';
import type { ClipReader } from './clip';
import { mapIn } from './halves';

/** The frames of an opened clip, and how many there are. */
type Maps = Pick<ClipReader, 'frame' | 'glance' | 'file'>;

/** So many frames of a clip are looked at for the ends of its distances. */
const LOOKED_AT = 9;

/** Evenly chosen frames, the first and the last among them. */
const someOf = (frames: number): readonly number[] => [
  ...new Set(Array.from({ length: LOOKED_AT }, (_, k) => Math.round((k * (frames - 1)) / (LOOKED_AT - 1)))),
];

/** The nearest and the farthest distance in some frames of a clip of distances, metres: all its frames are read between the same ends. Throws OmbrageError. */
export async function endsOfClip(clip: Maps, frames: number, channel: string | null, decodeRaster: DecodeRaster): Promise<MapEnds> {
  let [near, far] = [Infinity, 0];
  for (const frame of someOf(frames)) {
    const { plane, facts } = await mapIn(clip, frame, channel, decodeRaster);
    const ends = facts.ends ?? distanceEnds(plane);
    near = Math.min(near, ends.near);
    far = Math.max(far, ends.far);
  }
  return { near, far };
}

/** Ends that were looked for, since nothing told them, by clip and channel. */
const found = new WeakMap<object, Map<string | null, Promise<MapEnds>>>();

function endsFound(clip: Maps, frames: number, channel: string | null, decodeRaster: DecodeRaster): Promise<MapEnds> {
  let known = found.get(clip);
  if (!known) found.set(clip, (known = new Map<string | null, Promise<MapEnds>>()));
  let ends = known.get(channel);
  if (!ends) {
    ends = endsOfClip(clip, frames, channel, decodeRaster);
    known.set(channel, ends);
    // one that failed can be tried again
    ends.catch(() => known.delete(channel));
  }
  return ends;
}

/** A frame of a clip of maps as its layer reads it: raw nearness 0..1, NaN where unknown. Distances lie between the ends of the whole clip. Throws OmbrageError. */
export async function nearnessIn(clip: Maps, need: MapNeed, decodeRaster: DecodeRaster): Promise<Plane> {
  const { ref, frame, channel, reading } = need;
  const map = await mapIn(clip, frame, channel, decodeRaster);
  const ends = reading === 'distance' ? (need.ends ?? (await endsFound(clip, ref.clip?.frames ?? 1, channel, decodeRaster))) : undefined;
  return mapAsNearness(map, reading, ends).plane;
}
