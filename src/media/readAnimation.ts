import { OmbrageError } from '../core/error';
import type { Raster } from '../core/picture';
import { MOST_FRAMES, type ClipReader } from './clip';
import { animationType, HEAD_BYTES } from './clipKind';

const LABELS: Readonly<Record<string, string>> = {
  'image/gif': 'GIF',
  'image/webp': 'Animated WebP',
  'image/png': 'Animated PNG',
  'image/avif': 'Animated AVIF',
};

/** Opens an animated picture: GIF, WebP, PNG or AVIF. `name` is used in messages. Throws OmbrageError. */
export async function openAnimation(blob: Blob, name: string): Promise<ClipReader> {
  const type = animationType(new Uint8Array(await blob.slice(0, HEAD_BYTES).arrayBuffer()));
  const damaged = (what: string): OmbrageError => new OmbrageError('bad-clip', `${name} ${what}`, 'Save it as MP4 or WebM and choose that.');
  if (typeof ImageDecoder === 'undefined' || !(await ImageDecoder.isTypeSupported(type)))
    throw damaged(`is an animated picture (${LABELS[type]!}), which this browser cannot decode.`);
  const decoder = new ImageDecoder({ type, data: await blob.arrayBuffer() });
  const pixelsOf = async (index: number): Promise<{ raster: Raster; seconds: number }> => {
    try {
      const { image } = await decoder.decode({ frameIndex: index, completeFramesOnly: true });
      const [width, height] = [image.displayWidth, image.displayHeight];
      const data = new Uint8Array(width * height * 4);
      await image.copyTo(data, { format: 'RGBA' });
      const seconds = (image.duration ?? 100_000) / 1e6;
      image.close();
      return { raster: { width, height, channels: 4, data }, seconds };
    } catch {
      throw damaged(`is damaged: frame ${index} cannot be decoded.`);
    }
  };
  try {
    await decoder.tracks.ready;
    await decoder.completed;
  } catch {
    throw damaged('is damaged.');
  }
  const frames = decoder.tracks.selectedTrack?.frameCount ?? 0;
  if (frames === 0) throw damaged('has no frames.');
  if (frames > MOST_FRAMES) throw damaged(`has more than ${MOST_FRAMES} frames.`);
  const first = await pixelsOf(0);
  // most animations are even: the first frame's time stands for all
  const fps = Math.min(100, Math.max(1, Math.round(1000 / Math.max(0.01, first.seconds)) / 1000));
  return {
    facts: {
      format: LABELS[type]!,
      codec: LABELS[type]!,
      width: first.raster.width,
      height: first.raster.height,
      frames,
      fps,
      rotation: 0,
      bits: 8,
      alpha: hasAlpha(first.raster),
      sound: false,
      remarks: [],
    },
    frame: async (index) => (await pixelsOf(index)).raster,
    close: () => decoder.close(),
  };
}

const hasAlpha = ({ data }: Raster): boolean => {
  for (let i = 3; i < data.length; i += 4) if (data[i]! < 255) return true;
  return false;
};
