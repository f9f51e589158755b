import { imageSize } from 'image-size';
import { OmbrageError } from '../core/error';
import { hfovOfFocalLength } from '../core/optics';
import { findText, hasText } from './bytes/bytes';
import type { StillFacts } from './definition';
import { photoFacts } from './jpeg/exif';
import { formatOf } from './registry';

/** Largest plate, and smallest side. */
export const LARGEST_PLATE = 50e6;
export const SMALLEST_SIDE = 16;

const REFUSED: readonly { matches(bytes: Uint8Array): boolean; what: string }[] = [
  { matches: (b) => hasText(b, 0, 'GIF8'), what: 'a GIF' },
  { matches: (b) => hasText(b, 4, 'ftyphei') || hasText(b, 4, 'ftypmif1') || hasText(b, 4, 'ftypmsf1'), what: 'a HEIC or HEIF picture' },
  { matches: (b) => hasText(b, 4, 'ftyp'), what: 'a video or an unknown media file' },
  { matches: (b) => hasText(b, 0, 'BM'), what: 'a bitmap file' },
  { matches: (b) => hasText(b, 0, '%PDF'), what: 'a PDF' },
  { matches: (b) => hasText(b, 0, 'PK'), what: 'a zip' },
  { matches: (b) => findText(b, '<svg', 2048) >= 0, what: 'an SVG drawing' },
];

/** Names of channels that hold depth beside colours. */
const DEPTH_CHANNEL = /(^|[ .])z(,|$)|depth/i;

const CHOOSE = 'Choose a JPEG, PNG, WebP, AVIF, TIFF or OpenEXR picture, or an MP4, MOV, MKV or WebM clip.';

/**
 * What a file is, from its header and metadata: no pixels are decoded. `name` is used in messages. Without `metadata` neither its turning nor its
 * field of view is told: for files that are known already.
 * Throws OmbrageError: `empty-file`, `unknown-format`, `damaged-file`.
 */
export async function inspectStill(bytes: Uint8Array, name: string, metadata = true): Promise<StillFacts> {
  if (bytes.length === 0) throw new OmbrageError('empty-file', `${name} is empty.`, CHOOSE);
  const format = formatOf(bytes);
  if (!format) {
    const refused = REFUSED.find((r) => r.matches(bytes));
    throw new OmbrageError(
      'unknown-format',
      `${name} is ${refused ? `${refused.what}, which is not read here` : 'not a picture or a clip that can be read'}.`,
      CHOOSE,
    );
  }
  const damaged = (why: string): OmbrageError => new OmbrageError('damaged-file', `${name} is damaged: ${why}.`, 'Choose an undamaged copy.');
  if (format.size) {
    try {
      const { width, height } = format.size(bytes);
      const found = format.describe(bytes);
      const inside = found.plate === false ? 'the file holds a map' : DEPTH_CHANNEL.test(found.colour) ? 'in a channel of its own' : null;
      return { format: format.label, ...found, width, height, hfovDegrees: null, depthInside: inside };
    } catch (error) {
      throw error instanceof OmbrageError
        ? new OmbrageError(error.code, `${name}: ${error.message}`, error.hint)
        : damaged('its header cannot be read');
    }
  }
  let size: { width: number; height: number; orientation?: number };
  try {
    size = imageSize(bytes);
  } catch {
    throw damaged('its size cannot be read');
  }
  if (format.isWhole?.(bytes) === false) throw damaged('the end of the picture is missing');
  let described;
  try {
    described = format.describe(bytes);
  } catch (error) {
    throw error instanceof OmbrageError
      ? new OmbrageError(error.code, `${name}: ${error.message}`, error.hint)
      : damaged('its header cannot be read');
  }
  const meta = metadata ? photoFacts(bytes) : {};
  const turned = (meta.orientation ?? 1) >= 5;
  const width = turned ? size.height : size.width;
  const height = turned ? size.width : size.height;
  return {
    format: format.label,
    width,
    height,
    ...described,
    hfovDegrees: meta.focalLength ? fieldOfView(meta.focalLength, width, height) : null,
    depthInside: depthInside(bytes, described.colour),
  };
}

/** The 35 mm-equivalent focal length refers to the picture's longer side. */
const fieldOfView = (mm: number, width: number, height: number): number => {
  const long = hfovOfFocalLength(mm);
  if (width >= height) return long;
  return (2 * Math.atan((Math.tan((long * Math.PI) / 360) * width) / height) * 180) / Math.PI;
};

function depthInside(bytes: Uint8Array, colour: string): string | null {
  const head = 262144;
  if (findText(bytes, 'GDepth:', head) >= 0) return 'a depth map in its XMP metadata';
  if (findText(bytes, 'Item:Semantic="Depth"', head) >= 0) return 'a further depth picture named in its XMP metadata';
  if (findText(bytes, 'MPF\0', head) >= 0) return 'possibly, in a further picture';
  return colour.includes('alpha') ? 'possibly, in its alpha channel' : null;
}

/** Refuses a plate that is too large, too small or no colour picture. `name` is used in messages. */
export function checkPlate(facts: StillFacts, name: string): void {
  const size = `${facts.width}x${facts.height} px`;
  if (facts.plate === false)
    throw new OmbrageError(
      'not-a-plate',
      `${name} is read as a depth map only (${facts.format}), not as a plate.`,
      `${CHOOSE} Bring maps in under Depth.`,
    );
  if (facts.width * facts.height > LARGEST_PLATE)
    throw new OmbrageError('too-large', `${name} is ${size}, more than 50 megapixels.`, 'Save a smaller copy and choose that.');
  if (facts.width < SMALLEST_SIDE || facts.height < SMALLEST_SIDE)
    throw new OmbrageError('too-small', `${name} is ${size}.`, `Choose a picture of at least ${SMALLEST_SIDE}x${SMALLEST_SIDE} px.`);
}
