/** Units of an H.264 packet that hold supplemental enhancement information (SEI), and its payload that is the encoder's own (ITU-T H.264, 7.4.1 and D.1). */
const SEI = 6;
const UNREGISTERED = 5;

/** A unit of a packet: with what sets it apart from the one before, and its own bytes. */
interface Unit {
  readonly whole: Uint8Array;
  readonly bytes: Uint8Array;
}

/** The units of a packet: each after its length in so many bytes, or after a start code where that is null. What is cut off is left out. */
function* unitsOf(data: Uint8Array, lengthSize: number | null): Generator<Unit, void> {
  if (lengthSize !== null) {
    for (let at = 0; at + lengthSize <= data.length;) {
      let length = 0;
      for (let k = 0; k < lengthSize; k++) length = length * 256 + data[at + k]!;
      const end = at + lengthSize + length;
      if (length === 0 || end > data.length) return;
      yield { whole: data.subarray(at, end), bytes: data.subarray(at + lengthSize, end) };
      at = end;
    }
    return;
  }
  const starts: number[] = [];
  for (let i = 0; i + 2 < data.length; i++) if (data[i] === 0 && data[i + 1] === 0 && data[i + 2] === 1) starts.push(i);
  for (const [k, start] of starts.entries()) {
    const end = starts[k + 1] ?? data.length;
    yield { whole: data.subarray(start, end), bytes: data.subarray(start + 3, end) };
  }
}

/** What tells how long the lengths before units are: the configuration of the decoder (ISO/IEC 14496-15); null where units have start codes. */
export function lengthSizeOf(description: AllowSharedBufferSource | undefined): number | null {
  if (!description) return null;
  const bytes = ArrayBuffer.isView(description)
    ? new Uint8Array(description.buffer, description.byteOffset, description.byteLength)
    : new Uint8Array(description);
  return bytes.length > 4 ? (bytes[4]! & 3) + 1 : null;
}

/**
 * The units of a packet in which the encoder says what it is; empty where there are none. Decoders put right what some encoders got wrong by it, and
 * it stands in the first packet alone: who begins elsewhere has to be told.
 */
export function encoderNote(data: Uint8Array, lengthSize: number | null): Uint8Array {
  const notes = [...unitsOf(data, lengthSize)].filter(({ bytes }) => (bytes[0]! & 31) === SEI && bytes[1] === UNREGISTERED).map((u) => u.whole);
  const out = new Uint8Array(notes.reduce((sum, n) => sum + n.length, 0));
  let at = 0;
  for (const note of notes) {
    out.set(note, at);
    at += note.length;
  }
  return out;
}

/** A packet with a note before it, where it has none of its own. */
export function withNote(data: Uint8Array, note: Uint8Array, lengthSize: number | null): Uint8Array {
  if (note.length === 0 || encoderNote(data, lengthSize).length > 0) return data;
  const out = new Uint8Array(note.length + data.length);
  out.set(note);
  out.set(data, note.length);
  return out;
}
