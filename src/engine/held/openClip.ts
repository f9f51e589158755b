import { OmbrageError } from '../../core/error';
import type { ClipReader } from '../../media/clip';
import { clipKind, HEAD_BYTES, type ClipKind } from '../../media/clipKind';
import type { DecodePicture } from '../../media/pictureSequence';

/** What sort of clip a file is; null where it is none. */
export const kindOfClip = async (blob: Blob): Promise<ClipKind | null> => clipKind(new Uint8Array(await blob.slice(0, HEAD_BYTES).arrayBuffer()));

/** Opens a clip of any sort; what decodes it is loaded then. `name` is used in messages. Throws OmbrageError. */
export async function openClip(blob: Blob, name: string, decode: DecodePicture): Promise<ClipReader> {
  switch (await kindOfClip(blob)) {
    case 'container':
      return (await import('../../media/readContainer')).openContainer(blob, name);
    case 'animation':
      return (await import('../../media/readAnimation')).openAnimation(blob, name);
    case 'pictures':
      return (await import('../../media/pictureSequence')).openPictures(blob, name, decode);
    case null:
      throw new OmbrageError(
        'bad-clip',
        `${name} is no clip.`,
        'Choose an MP4, MOV, MKV or WebM file, an animated picture, or a folder of pictures.',
      );
  }
}
