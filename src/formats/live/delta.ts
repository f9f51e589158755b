import { OmbrageError } from '../../core/error';

/**
 * Frames of equal size as what differs from the one before: runs of 32-bit words, little endian, each as two counts (words that are the same, words
 * that follow) and those that follow. It never leaves this browser; it is fast, and frames in which little moves become small.
 */
export function deltaOf(before: Uint8Array | null, frame: Uint8Array): Uint8Array<ArrayBuffer> {
  const now = wordsOf(frame);
  const old = before && before.length === frame.length ? wordsOf(before) : null;
  const out = new Uint32Array(2 * now.length + 2);
  let [o, i] = [0, 0];
  while (i < now.length) {
    const same = i;
    while (i < now.length && now[i] === (old ? old[i] : 0)) i++;
    const counts = o;
    out[o++] = i - same;
    o++;
    const first = i;
    while (i < now.length && now[i] !== (old ? old[i] : 0)) out[o++] = now[i++]!;
    out[counts + 1] = i - first;
  }
  return new Uint8Array(out.buffer, 0, 4 * o).slice();
}

/** The frame that a delta makes of the one before, in place. Throws OmbrageError where it is no delta of such a frame. */
export function applyDelta(frame: Uint8Array, delta: Uint8Array): void {
  const words = wordsOf(frame);
  const given = wordsOf(delta);
  let [o, i] = [0, 0];
  const bad = (): never => {
    throw new OmbrageError('bad-recording', 'A recording is damaged.', 'The pictures before the damage are kept.');
  };
  while (o < given.length) {
    if (o + 2 > given.length) bad();
    i += given[o]!;
    const count = given[o + 1]!;
    o += 2;
    if (i + count > words.length || o + count > given.length) bad();
    words.set(given.subarray(o, o + count), i);
    i += count;
    o += count;
  }
}

/** Bytes as words; a copy where they do not lie at a word. */
function wordsOf(bytes: Uint8Array): Uint32Array {
  const length = bytes.length >> 2;
  return bytes.byteOffset % 4 === 0 ? new Uint32Array(bytes.buffer, bytes.byteOffset, length) : new Uint32Array(bytes.slice().buffer, 0, length);
}
