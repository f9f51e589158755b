import { mkdirSync, writeFileSync } from 'node:fs';
import { encodeHdr } from '../src/formats/hdr/hdr';

/** Makes the picture of surroundings that ships: a harbour at dusk, told by a formula. `tsx scripts/surroundings.ts` */
const [WIDTH, HEIGHT] = [128, 64];
const rgb = new Float32Array(WIDTH * HEIGHT * 3);
for (let y = 0; y < HEIGHT; y++)
  for (let x = 0; x < WIDTH; x++) {
    const up = Math.cos(((y + 0.5) / HEIGHT) * Math.PI);
    const round = ((x + 0.5) / WIDTH - 0.5) * 2 * Math.PI;
    const set = rgb.subarray((y * WIDTH + x) * 3, (y * WIDTH + x) * 3 + 3);
    if (up < 0) {
      // water takes the sky, the darker the steeper
      const share = 0.12 * (1 + up) ** 2;
      set.set([0.9 * share, share, 1.3 * share]);
      continue;
    }
    const level = 1 - up;
    const glow = level ** 6 * (0.5 + 0.5 * Math.cos(round - 1.1)) ** 2;
    set.set([0.12 + 1.6 * glow, 0.2 + 0.7 * glow, 0.42 + 0.15 * glow]);
    // the sun has just gone; lamps of the quay stand in a row on the other side
    const sun = Math.exp(-(((round - 1.1) / 0.12) ** 2) - ((up - 0.03) / 0.05) ** 2);
    const lamps = up > 0.04 && up < 0.1 && Math.cos(9 * round) > 0.92 && Math.cos(round - 1.1) < 0 ? 14 : 0;
    set[0]! += 26 * sun + lamps;
    set[1]! += 13 * sun + 0.62 * lamps;
    set[2]! += 4 * sun + 0.25 * lamps;
  }
mkdirSync('public/surroundings', { recursive: true });
writeFileSync('public/surroundings/harbour-dusk.hdr', encodeHdr(WIDTH, HEIGHT, rgb));
