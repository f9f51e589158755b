import { findText, hasText } from '../bytes/bytes';
import { defineFormat } from '../definition';

export const avif = defineFormat({
  kind: 'avif',
  label: 'AVIF',
  extensions: ['avif'],
  mime: 'image/avif',
  decodedBy: 'platform',
  use: 'plates',
  matches: (bytes) => hasText(bytes, 4, 'ftyp') && (hasText(bytes, 8, 'avif') || hasText(bytes, 8, 'avis') || findText(bytes, 'avif', 40, 16) > 0),
  describe: (bytes) => {
    // av1C: second byte after the marker holds the profile, the third the depth flags
    const at = findText(bytes, 'av1C', 4096);
    const flags = at > 0 ? (bytes[at + 6] ?? 0) : 0;
    const bits = flags & 0x40 ? (flags & 0x20 ? 12 : 10) : 8;
    return { bits, colour: flags & 0x10 ? 'grey' : 'RGB', animated: hasText(bytes, 8, 'avis') };
  },
});
