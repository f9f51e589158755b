import { avif } from './avif';
import type { FormatDefinition } from './definition';
import { jpeg } from './jpeg';
import { pfm } from './pfm';
import { png } from './png';
import { webp } from './webp';

/** Every still format, in the order in which files are tried. */
export const formats: readonly FormatDefinition[] = [jpeg, png, webp, avif, pfm];

/** The format of a file by what is in it, not by its name; null where it is none of ours. */
export const formatOf = (bytes: Uint8Array): FormatDefinition | null => formats.find((f) => f.matches(bytes)) ?? null;

/** For a file picker: what may be chosen as a plate. */
export const PLATE_TYPES = ['image/jpeg', 'image/png', 'image/webp', 'image/avif'];
