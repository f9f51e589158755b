import { hasText } from '../bytes/bytes';
import { defineFormat } from '../definition';

export const webp = defineFormat({
  kind: 'webp',
  label: 'WebP',
  extensions: ['webp'],
  mime: 'image/webp',
  decodedBy: 'platform',
  writePicture: (picture, { quality, encoders }) => encoders.webp(picture, quality),
  use: 'plates; pictures out',
  matches: (bytes) => hasText(bytes, 0, 'RIFF') && hasText(bytes, 8, 'WEBP'),
  describe: (bytes) => {
    const extended = hasText(bytes, 12, 'VP8X');
    const flags = extended ? bytes[20]! : 0;
    const alpha = (flags & 0x10) !== 0 || (hasText(bytes, 12, 'VP8L') && ((bytes[24]! >> 4) & 1) === 1);
    return { bits: 8, colour: alpha ? 'RGB and alpha' : 'RGB', animated: (flags & 0x02) !== 0 };
  },
});
