import { encodePicture8 } from '../../core/raster/colour';
import { sampleRaster, stretch } from '../../core/raster/resample';
import type { Size } from '../../core/picture';
import type { ClipReader } from '../../media/clip';
import { bitrateFor } from '../../formats/outputs/clips';
import { checkEncoder, writePiece, type PieceFormat, type PieceFrame } from '../../media/writeClip';

/** Key frames lie so close, frames, that any frame is reached at once. */
const KEY_FRAMES = 6;
const QUALITY = 85;

/** Half the size of a clip, as codecs take it. */
export const proxySize = ({ width, height }: Size): Size => ({ width: 2 * Math.round(width / 4), height: 2 * Math.round(height / 4) });

/** A clip of half the size, frame for frame, of which any is decoded at once. Throws OmbrageError, and what `onProgress` throws. */
export async function makeProxy(
  clip: Pick<ClipReader, 'facts' | 'frame'>,
  onProgress: (share: number) => void,
): Promise<{ readonly blob: Blob } & Size> {
  const { frames: count, fps } = clip.facts;
  const size = proxySize(clip.facts);
  const of = (codec: PieceFormat['codec']): PieceFormat => ({
    codec,
    ...size,
    fps,
    bitrate: bitrateFor(QUALITY, { ...size, fps }),
    keyEvery: (KEY_FRAMES - 0.5) / fps,
  });
  // the quicker one, where the browser has it
  const format = await checkEncoder(of('h264')).then(
    () => of('h264'),
    () => of('vp9'),
  );
  async function* halved(): AsyncGenerator<PieceFrame> {
    for (let k = 0; k < count; k++) {
      onProgress(k / count);
      const raster = await clip.frame(k);
      const picture = sampleRaster(raster, stretch(raster, size.width, size.height), size.width, size.height);
      const rgba = new Uint8ClampedArray(picture.data.length);
      encodePicture8(picture, rgba);
      yield { rgba };
    }
  }
  return { blob: await writePiece(format, halved()), ...size };
}
