import type { FoundRef } from '../formats/definition';
import type { Raster } from '../core/picture';

/** What a clip turns out to be. */
export interface ClipFacts extends FoundRef {
  /** in words, such as MP4 or PNG sequence */
  readonly format: string;
  /** what its frames are encoded with, in words */
  readonly codec: string;
  /** px as displayed */
  readonly width: number;
  readonly height: number;
  readonly bits: number;
  readonly alpha: boolean;
  /** what is to be told: variable rate, high dynamic range, … */
  readonly remarks: readonly string[];
  /** false where its frames hold maps alone */
  readonly plate?: boolean;
}

/** An opened clip. Frames are told by their number, from 0; each has a time of its own. */
export interface ClipReader {
  readonly facts: ClipFacts;
  /** the pixels of a frame; frames asked for in their order are decoded once each. Throws OmbrageError. */
  frame(index: number): Promise<Raster>;
  /** looks at the pixels of a frame while `use` runs, and no longer: they are not allocated anew for each */
  glance?<T>(index: number, use: (raster: Raster) => T): Promise<T>;
  /** when each frame is shown, seconds from the first, where that is not even */
  readonly times?: readonly number[];
  /** the file of a frame, where each has one: maps are read from it without loss */
  file?(index: number): Promise<{ readonly bytes: Uint8Array; readonly name: string }>;
  /** lets go of frames that were decoded for those that follow */
  rest?(): void;
  close(): void;
}

/** What somebody sees in a frame that is needed no longer than that. Throws OmbrageError. */
export const glanceAt = async <T>(clip: Pick<ClipReader, 'frame' | 'glance'>, index: number, use: (raster: Raster) => T): Promise<T> =>
  clip.glance ? clip.glance(index, use) : use(await clip.frame(index));

/** Frames beyond these are refused. */
export const MOST_FRAMES = 60_000;

/** Decoded pixels turned clockwise by quarter turns. */
export function turned({ width: w, height: h, channels, data }: Raster, quarters: number): Raster {
  const turns = ((quarters % 4) + 4) % 4;
  if (turns === 0) return { width: w, height: h, channels, data };
  const width = turns === 2 ? w : h;
  const height = turns === 2 ? h : w;
  const out = data.slice();
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const sx = turns === 1 ? y : turns === 2 ? w - 1 - x : w - 1 - y;
      const sy = turns === 1 ? h - 1 - x : turns === 2 ? h - 1 - y : x;
      for (let k = 0; k < channels; k++) out[(y * width + x) * channels + k] = data[(sy * w + sx) * channels + k]!;
    }
  return { width, height, channels, data: out };
}
