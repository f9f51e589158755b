import type { ClipFound, StillFacts } from '../../formats/definition';
import { checkPlate } from '../../formats/inspect';
import { sha256Stream } from '../../formats/bytes/sha256';
import { mapAsNearness } from '../../formats/maps/mapFile';
import { proposeMap } from '../../formats/maps/proposal';
import type { Plane, Size } from '../../core/picture';
import type { DecodedStill, ReadMap } from '../messages/protocol';
import { endsOfClip } from '../../media/clipMaps';
import { mapIn, splitOf } from '../../media/halves';
import { decodePicture } from '../held/clipFrames';
import { decodeRaster, share } from '../held/decode';
import { openClip } from '../held/openClip';

/** SHA-256 of a file that is read in pieces: it is never whole in memory. */
async function hashOf(file: Blob): Promise<string> {
  const hash = sha256Stream();
  const reader = file.stream().getReader();
  for (let piece = await reader.read(); !piece.done; piece = await reader.read()) hash.update(piece.value);
  return hash.digest();
}

/** What a clip is, and its first frame. `whole`: its hash is wanted too. Throws OmbrageError. */
export async function decodeClipStart(file: Blob, name: string, whole: boolean): Promise<DecodedStill> {
  const clip = await openClip(file, name, decodePicture);
  try {
    const { format, width, height, bits, alpha, frames, fps, rotation, sound, codec, remarks, numbered, uneven, plate = true } = clip.facts;
    const raster = await clip.frame(0);
    const split = splitOf(raster);
    const facts: StillFacts = {
      format,
      width,
      height,
      bits,
      colour: alpha ? 'RGB with alpha' : 'RGB',
      animated: true,
      plate,
      hfovDegrees: null,
      depthInside: alpha ? 'possibly, in its alpha channel' : null,
      clip: { frames, fps, rotation, sound, codec, remarks, numbered, uneven, ...(split && { split }) },
    };
    checkPlate(facts, name);
    return { facts, raster: share(raster), sha256: whole ? await hashOf(file) : '' };
  } finally {
    clip.close();
  }
}

/** A clip of maps: its first frame as a map, and how it is best brought in. Throws OmbrageError. */
export async function readMapClip(file: Blob, name: string, channel: string | null, plate: Size, estimate: Plane | null): Promise<ReadMap> {
  const clip = await openClip(file, name, decodePicture);
  try {
    const map = await mapIn(clip, 0, channel, decodeRaster);
    const { format, frames, fps, rotation, sound, codec, remarks } = clip.facts;
    const found: ClipFound = { frames, fps, rotation, sound, codec, remarks };
    const first = proposeMap(map, plate, estimate);
    // all frames of a clip of distances are read between the same ends
    const ends = first.reading === 'distance' ? await endsOfClip(clip, frames, channel, decodeRaster) : null;
    const proposal = ends ? { ...first, ends } : first;
    const facts = { ...map.facts, format };
    return { facts, proposal, sha256: await hashOf(file), plane: mapAsNearness(map, proposal.reading, ends ?? undefined).plane, clip: found };
  } finally {
    clip.close();
  }
}
