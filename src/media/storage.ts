import { OmbrageError } from '../core/error';

export const STORAGE_FULL = 'storage-full';

/** What a browser says where there is no room: its own limit, or the disk itself. Libraries hand the browser's error on inside theirs. */
function saysFull(error: unknown, depth = 0): boolean {
  const { name = '', message = '', inner } = (error ?? {}) as { name?: string; message?: string; inner?: unknown };
  if (/QuotaExceeded/.test(`${name} ${message}`) || /full disk|no space left/i.test(message)) return true;
  return depth < 3 && inner !== undefined && saysFull(inner, depth + 1);
}

/** Turns the browser's own words for a full disk into ours. */
export function asStorageError(error: unknown): unknown {
  if (!saysFull(error)) return error;
  return new OmbrageError(
    STORAGE_FULL,
    'The browser has no room left to save this.',
    'Download the project file now, then free some space on this computer.',
  );
}

/** Whether something failed because there is no room. */
export const isFull = (error: unknown): boolean => (error instanceof OmbrageError && error.code === STORAGE_FULL) || saysFull(error);

/** Waits until something is written. Throws OmbrageError `storage-full`. */
export async function written(writing: PromiseLike<unknown>): Promise<void> {
  try {
    await writing;
  } catch (error) {
    throw asStorageError(error);
  }
}
