import { readFileSync } from 'node:fs';
import { OmbrageError } from '../src/core/error';

/** A file's bytes. Throws OmbrageError `no-file`. */
export function readBytes(path: string): Uint8Array {
  try {
    return new Uint8Array(readFileSync(path));
  } catch {
    throw new OmbrageError('no-file', `${path} cannot be read.`, 'Check the path.');
  }
}
