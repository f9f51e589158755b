/** Thrown where compressed data hold more than they may. */
export class TooMuch extends Error {}

/** Hands on what zlib data unpack to, piece by piece, at most `most` bytes. Throws TooMuch as soon as there is more, Error where they are damaged. */
async function inflate(bytes: readonly Uint8Array[], most: number, take: (piece: Uint8Array) => void): Promise<number> {
  const source = new Blob(bytes as Uint8Array<ArrayBuffer>[]).stream();
  const reader = source.pipeThrough(new DecompressionStream('deflate')).getReader();
  let size = 0;
  for (;;) {
    let read: ReadableStreamReadResult<Uint8Array>;
    try {
      read = await reader.read();
    } catch (error) {
      // padding after the end of the data is no damage
      if (size === most) return size;
      throw error instanceof Error ? error : new Error(String(error));
    }
    if (read.done) return size;
    size += read.value.length;
    if (size > most) {
      await reader.cancel().catch(() => undefined);
      throw new TooMuch();
    }
    take(read.value);
  }
}

/** How many bytes zlib data unpack to. Throws as inflate does; nothing is kept. */
export const inflatedSize = (bytes: readonly Uint8Array[], most: number): Promise<number> => inflate(bytes, most, () => undefined);

/** What zlib data unpack to, at most `most` bytes. Throws as inflate does. */
export async function inflateUpTo(bytes: readonly Uint8Array[], most: number): Promise<Uint8Array> {
  const pieces: Uint8Array[] = [];
  const size = await inflate(bytes, most, (piece) => pieces.push(piece));
  const out = new Uint8Array(size);
  let at = 0;
  for (const piece of pieces) {
    out.set(piece, at);
    at += piece.length;
  }
  return out;
}
