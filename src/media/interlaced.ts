/** Reads bits of a parameter set, the highest first, past the bytes that keep start codes apart (ITU-T H.264, 7.4.1). */
class Bits {
  private at = 0;
  private readonly bytes: Uint8Array;

  constructor(unit: Uint8Array) {
    this.bytes = unit.filter((v, i) => !(v === 3 && unit[i - 1] === 0 && unit[i - 2] === 0));
  }

  bit(): number {
    const byte = this.bytes[this.at >> 3];
    if (byte === undefined) throw new RangeError('the parameter set ends early');
    return (byte >> (7 - (this.at++ & 7))) & 1;
  }

  skip(bits: number): void {
    this.at += bits;
  }

  /** ue(v), 9.1 */
  whole(): number {
    let zeros = 0;
    while (this.bit() === 0) if (++zeros > 31) throw new RangeError('no such number');
    let value = 1;
    for (let k = 0; k < zeros; k++) value = value * 2 + this.bit();
    return value - 1;
  }

  /** se(v), 9.1.1 */
  signed(): number {
    const k = this.whole();
    return k % 2 ? (k + 1) / 2 : -k / 2;
  }
}

/** Profiles whose parameter sets tell of chroma and scaling lists (7.3.2.1.1). */
const HIGH = [100, 110, 122, 244, 44, 83, 86, 118, 128, 138, 139, 134, 135];

function skipScalingList(bits: Bits, size: number): void {
  let [last, next] = [8, 8];
  for (let k = 0; k < size; k++) {
    if (next !== 0) next = (last + bits.signed() + 256) % 256;
    if (next !== 0) last = next;
  }
}

/** Whether a sequence parameter set allows fields: its frame_mbs_only_flag is 0 (7.3.2.1.1). `unit`: the NAL unit with its header. */
function allowsFields(unit: Uint8Array): boolean {
  const bits = new Bits(unit.subarray(4));
  const profile = unit[1]!;
  bits.whole();
  if (HIGH.includes(profile)) {
    const chroma = bits.whole();
    if (chroma === 3) bits.skip(1);
    bits.whole();
    bits.whole();
    bits.skip(1);
    if (bits.bit()) for (let k = 0; k < (chroma === 3 ? 12 : 8); k++) if (bits.bit()) skipScalingList(bits, k < 6 ? 16 : 64);
  }
  bits.whole();
  const order = bits.whole();
  if (order === 0) bits.whole();
  if (order === 1) {
    bits.skip(1);
    bits.signed();
    bits.signed();
    for (let left = bits.whole(); left > 0; left--) bits.signed();
  }
  bits.whole();
  bits.skip(1);
  bits.whole();
  bits.whole();
  return bits.bit() === 0;
}

/**
 * Whether an H.264 track was encoded as interlaced, by what its container says of its decoder: the record of ISO/IEC 14496-15, 5.3.3.1. False where
 * that cannot be read.
 */
export function isInterlaced(description: Uint8Array): boolean {
  try {
    const sets = description[5]! & 31;
    const length = (description[6]! << 8) | description[7]!;
    return description[0] === 1 && sets > 0 && allowsFields(description.subarray(8, 8 + length));
  } catch {
    return false;
  }
}
