import { OmbrageError } from '../../core/error';
import type { ClipReader } from '../../media/clip';
import { registryOf } from '../../core/values/registry';
import { clipKind, clipKinds, HEAD_BYTES, type ClipKind } from '../../media/clipKind';
import type { DecodePicture } from '../../media/pictureSequence';

type Open = (blob: Blob, name: string, decode: DecodePicture) => Promise<ClipReader>;

const own: Readonly<Record<ClipKind, Open>> = {
  container: async (blob, name) => (await import('../../media/readContainer')).openContainer(blob, name),
  animation: async (blob, name) => (await import('../../media/readAnimation')).openAnimation(blob, name),
  pictures: async (blob, name, decode) => (await import('../../media/pictureSequence')).openPictures(blob, name, decode),
};

/** What opens a clip of each sort; it is loaded when one is first opened. */
export const clipOpeners = registryOf<{ readonly kind: ClipKind; readonly open: Open }>(
  'opener of a clip',
  clipKinds.map((kind) => ({ kind, open: own[kind] })),
);

/** What sort of clip a file is; null where it is none. */
export const kindOfClip = async (blob: Blob): Promise<ClipKind | null> => clipKind(new Uint8Array(await blob.slice(0, HEAD_BYTES).arrayBuffer()));

/** Opens a clip of any sort. `name` is used in messages. Throws OmbrageError. */
export async function openClip(blob: Blob, name: string, decode: DecodePicture): Promise<ClipReader> {
  const kind = await kindOfClip(blob);
  if (kind) return clipOpeners.named(kind).open(blob, name, decode);
  throw new OmbrageError('bad-clip', `${name} is no clip.`, 'Choose an MP4, MOV, MKV or WebM file, an animated picture, or a folder of pictures.');
}
