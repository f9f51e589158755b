import { OmbrageError } from '../core/error';
import type { MapReading } from '../core/need/need';

export type { MapReading };

/** What a map file turns out to hold. */
export interface MapFacts {
  readonly format: string;
  readonly width: number;
  readonly height: number;
  readonly bits: number;
  readonly float: boolean;
  /** where in the file the numbers were: grey, a channel by name, alpha, a further picture */
  readonly channel: string;
  /** every place in the file that could be read instead */
  readonly channels: readonly string[];
  /** lowest and highest finite number as stored; whole numbers as shares of full scale */
  readonly low: number;
  readonly high: number;
  /** share of pixels that hold no usable number */
  readonly holes: number;
  /** how the numbers should be read, as far as the file tells */
  readonly reading: MapReading;
  /** metres that the numbers stand for at the near and the far end, where the file tells */
  readonly ends: { readonly near: number; readonly far: number } | null;
  /** true where small numbers are near and the file says so, false where large ones are, null where it does not say */
  readonly smallIsNear: boolean | null;
  /** a picture rather than a map: its channels differ */
  readonly colourful: boolean;
}

/** Largest map, px. */
export const LARGEST_MAP = 120e6;

/** Refuses a map that is empty or too large. */
export function checkMapSize(width: number, height: number, what: string): void {
  if (!Number.isInteger(width) || !Number.isInteger(height) || width < 1 || height < 1)
    throw new OmbrageError('damaged-file', `${what} has no usable size (${width}x${height}).`, 'Choose an undamaged copy.');
  if (width * height > LARGEST_MAP)
    throw new OmbrageError('too-large', `${what} is ${width}x${height} px, more than 120 megapixels.`, 'Save a smaller map and choose that.');
}

/** No compression of still pictures gains more than this. */
const MOST_GAIN = 1100;

/** Refuses a file whose header promises more pixels than its bytes can hold, before room is made for them. */
export function checkFull(promised: number, bytes: number, what: string): void {
  if (promised > bytes * MOST_GAIN) throw new OmbrageError('damaged-file', `${what} is shorter than the size it gives.`, 'Choose an undamaged copy.');
}
