import type { StillFacts } from '../formats/definition';
import { checkPlate } from '../formats/inspect';
import { sha256Stream } from '../formats/sha256';
import type { DecodedStill } from './protocol';
import { decodePicture } from './clipFrames';
import { share } from './decode';
import { openClip } from './openClip';

/** SHA-256 of a file that is read in pieces: it is never whole in memory. */
export async function hashOf(file: Blob): Promise<string> {
  const hash = sha256Stream();
  const reader = file.stream().getReader();
  for (let piece = await reader.read(); !piece.done; piece = await reader.read()) hash.update(piece.value);
  return hash.digest();
}

/** What a clip is, and its first frame. `whole`: its hash is wanted too. Throws OmbrageError. */
export async function decodeClipStart(file: Blob, name: string, whole: boolean): Promise<DecodedStill> {
  const clip = await openClip(file, name, decodePicture);
  try {
    const { format, width, height, bits, alpha, frames, fps, rotation, sound, codec, remarks } = clip.facts;
    const facts: StillFacts = {
      format,
      width,
      height,
      bits,
      colour: alpha ? 'RGB with alpha' : 'RGB',
      animated: true,
      hfovDegrees: null,
      depthInside: null,
      clip: { frames, fps, rotation, sound, codec, remarks },
    };
    checkPlate(facts, name);
    return { facts, raster: share(await clip.frame(0)), sha256: whole ? await hashOf(file) : '' };
  } finally {
    clip.close();
  }
}
