import { findText, hasText, view } from '../bytes/bytes';
import { directoryOf } from '../tiff/tiffTags';

/** How formats name the metadata, and how far into a file it may begin. */
const MARKS = ['Exif\0\0', 'EXIF', 'eXIf'];
const WITHIN = 4e6;
/** Bytes between a name and the metadata, at most. */
const BETWEEN = 16;
const [ORIENTATION, PHOTO_DIRECTORY, FOCAL_LENGTH_35MM] = [274, 34665, 41989];

export interface PhotoFacts {
  /** 1..8, as EXIF counts the ways a picture may be turned */
  readonly orientation?: number;
  /** 35 mm-equivalent focal length, mm */
  readonly focalLength?: number;
}

/** Where the TIFF structure of the EXIF metadata begins; −1 where there is none. JPEG names it "Exif", WebP "EXIF", PNG "eXIf", AVIF as JPEG. */
function metadataAt(bytes: Uint8Array): number {
  for (const mark of MARKS)
    for (let p = findText(bytes, mark, WITHIN); p >= 0; p = findText(bytes, mark, WITHIN, p + 1))
      for (let at = p + 4; at <= p + BETWEEN; at++) if (hasText(bytes, at, 'II*\0') || hasText(bytes, at, 'MM\0*')) return at;
  return -1;
}

/** What a camera wrote about a photograph (EXIF 3.0, CIPA DC-008), as far as it is used. Metadata that cannot be read counts as not there. */
export function photoFacts(bytes: Uint8Array): PhotoFacts {
  const base = metadataAt(bytes);
  if (base < 0) return {};
  const first = directoryOf(bytes, base)?.directory;
  const orientation = first?.number(ORIENTATION) ?? 0;
  const offset = first?.number(PHOTO_DIRECTORY);
  const mm = (offset ? directoryOf(bytes, base, offset)?.directory.number(FOCAL_LENGTH_35MM) : null) ?? 0;
  return {
    ...(orientation >= 1 && orientation <= 8 ? { orientation } : {}),
    ...(mm > 1 && mm < 2000 ? { focalLength: mm } : {}),
  };
}

/** The segments of a JPEG up to its picture: marker, and where the content begins and ends. */
export function* segmentsOf(jpeg: Uint8Array): Generator<{ readonly marker: number; readonly from: number; readonly to: number }> {
  const data = view(jpeg);
  for (let p = 2; p + 4 < jpeg.length && jpeg[p] === 0xff;) {
    const marker = jpeg[p + 1]!;
    if (marker === 0xda) return;
    const to = p + 2 + data.getUint16(p + 2);
    yield { marker, from: p + 4, to: Math.min(to, jpeg.length) };
    p = to;
  }
}
