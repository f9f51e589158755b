import { newFloats } from '../picture';

const KEPT = 6;
const free: Float32Array[] = [];

/** A float buffer for the time of one computation; its contents are whatever they were. Give it back with returnFloats. */
export function borrowFloats(length: number, shared = false): Float32Array {
  const sharedHere = shared && typeof SharedArrayBuffer !== 'undefined';
  const at = free.findIndex((f) => f.length === length && f.buffer instanceof ArrayBuffer !== sharedHere);
  return at >= 0 ? free.splice(at, 1)[0]! : newFloats(length, shared);
}

/** Fresh memory costs more than the arithmetic of small pictures, so the last few buffers are kept for the next computation. */
export function returnFloats(...buffers: readonly Float32Array[]): void {
  free.push(...buffers);
  free.splice(0, Math.max(0, free.length - KEPT));
}
