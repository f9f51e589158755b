import { registryOf } from '../core/values/registry';
import { avif } from './avif/avif';
import type { FormatDefinition } from './definition';
import { jpeg } from './jpeg/jpeg';
import { exr } from './exr/exr';
import { npy } from './npy/npy';
import { pfm } from './pfm/pfm';
import { png } from './png/png';
import { tiff } from './tiff/tiff';
import { webp } from './webp/webp';

/** Every still format, in the order in which files are tried. */
export const formatRegistry = registryOf<FormatDefinition>('format', [jpeg, png, webp, avif, tiff, exr, pfm, npy]);
export const formats = formatRegistry.all;

/** The format of a file by what is in it, not by its name; null where it is none of ours. */
export const formatOf = (bytes: Uint8Array): FormatDefinition | null => formats.find((f) => f.matches(bytes)) ?? null;

/** For a file picker: what may be chosen as a map. */
export const MAP_TYPES = ['image/*', '.tif', '.tiff', '.exr', '.pfm', '.npy', 'video/*', '.mkv', '.zip'];

/** For a file picker: what may be chosen as a clip, or as frames of one. */
export const CLIP_TYPES = ['video/*', '.mkv', '.mov', 'image/gif', '.zip'];

/** For a file picker: what may be chosen as a plate. */
export const PLATE_TYPES = ['image/jpeg', 'image/png', 'image/webp', 'image/avif', '.tif', '.tiff', '.exr'];
