import { OmbrageError } from '../../core/error';

/** The chunks of a RIFF file (Google, "WebP container specification"). */
function chunksOf(bytes: Uint8Array): readonly { readonly name: string; readonly data: Uint8Array }[] {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const out: { name: string; data: Uint8Array }[] = [];
  for (let at = 12; at + 8 <= bytes.length;) {
    const name = String.fromCharCode(...bytes.subarray(at, at + 4));
    const size = view.getUint32(at + 4, true);
    out.push({ name, data: bytes.subarray(at + 8, at + 8 + size) });
    at += 8 + size + (size & 1);
  }
  return out;
}

const chunk = (name: string, data: Uint8Array): Uint8Array => {
  const out = new Uint8Array(8 + data.length + (data.length & 1));
  for (let k = 0; k < 4; k++) out[k] = name.charCodeAt(k);
  new DataView(out.buffer).setUint32(4, data.length, true);
  out.set(data, 8);
  return out;
};

const uint24 = (v: number): readonly number[] => [v & 255, (v >> 8) & 255, (v >> 16) & 255];

function joined(parts: readonly Uint8Array[]): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(parts.reduce((n, p) => n + p.length, 0));
  let at = 0;
  for (const p of parts) {
    out.set(p, at);
    at += p.length;
  }
  return out;
}

/** Still WebP files of one size as an animated one that goes on for ever; `milliseconds`: how long each is shown. Throws OmbrageError. */
export function animateWebp(stills: readonly Uint8Array[], width: number, height: number, milliseconds: readonly number[]): Uint8Array<ArrayBuffer> {
  if (width > 16384 || height > 16384)
    throw new OmbrageError('too-large', 'An animated WebP can be up to 16384 px wide and high.', 'Choose a smaller size.');
  let seeThrough = false;
  const frames = stills.map((still, k) => {
    const parts = chunksOf(still).filter((c) => c.name === 'ALPH' || c.name === 'VP8 ' || c.name === 'VP8L');
    if (parts.length === 0)
      throw new OmbrageError('bad-webp', `Frame ${k + 1} was not written as WebP by this browser.`, 'Export a GIF or a clip instead.');
    seeThrough ||= parts.some((c) => c.name !== 'VP8 ');
    const head = Uint8Array.from([0, 0, 0, 0, 0, 0, ...uint24(width - 1), ...uint24(height - 1), ...uint24(milliseconds[k]!), 2]);
    return chunk('ANMF', joined([head, ...parts.map((c) => chunk(c.name, c.data))]));
  });
  const head = chunk('VP8X', Uint8Array.from([2 | (seeThrough ? 16 : 0), 0, 0, 0, ...uint24(width - 1), ...uint24(height - 1)]));
  const body = joined([head, chunk('ANIM', new Uint8Array(6)), ...frames]);
  const file = chunk('RIFF', joined([Uint8Array.from([...'WEBP'].map((c) => c.charCodeAt(0))), body]));
  return Uint8Array.from(file);
}
