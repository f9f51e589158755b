import { mkdirSync } from 'node:fs';
import sharp from 'sharp';
import { MARK_BARS } from '../src/studio/controls/markBars';
import { nearnessHex } from '../src/core/raster/colour';
import { tokens } from '../src/theme/tokens';

/** `npx tsx scripts/icons.ts`: the mark as icons, on the ground of the interface. */
const bars = MARK_BARS.map((b) => `<rect x="${b.x}" y="${b.y}" width="${b.w}" height="${b.h}" rx="1" fill="${nearnessHex(b.near)}"/>`).join('');
mkdirSync('public/icons', { recursive: true });
for (const [name, size, room] of [
  ['192', 192, 5],
  ['512', 512, 5],
  ['maskable', 512, 9],
] as const) {
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="${-room} ${-room} ${20 + 2 * room} ${20 + 2 * room}"><rect x="${-room}" y="${-room}" width="100" height="100" fill="${tokens.base}"/>${bars}</svg>`;
  await sharp(Buffer.from(svg), { density: 1200 }).resize(size, size).png({ palette: true }).toFile(`public/icons/${name}.png`);
}
