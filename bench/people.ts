import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { estimateDepth } from '../src/core/estimate/estimate';
import type { Raster } from '../src/core/picture';
import { loadNetwork } from '../headless/network';
import { personsIn } from '../src/core/estimate/people/chosen';
import { table } from './metrics';

async function rasterOf(path: string): Promise<Raster> {
  const { data, info } = await sharp(path).rotate().removeAlpha().toColourspace('srgb').raw().toBuffer({ resolveWithObject: true });
  return { width: info.width, height: info.height, channels: 3, data };
}

/**
 * Who is found where somebody is, and where nobody is: `folder` holds pictures in `with` and `without`. Prints what is missed and what is falsely found, by name; and
 * the time of a fine estimate on both.
 */
export async function peopleTable(folder: string): Promise<void> {
  loadNetwork();
  const rows: string[][] = [];
  for (const kind of ['with', 'without']) {
    const names = readdirSync(join(folder, kind)).sort();
    const wrong: string[] = [];
    let ms = 0;
    for (const name of names) {
      const raster = await rasterOf(join(folder, kind, name));
      const found = personsIn(raster)!.length;
      if (found > 0 !== (kind === 'with')) wrong.push(name);
      const from = performance.now();
      estimateDepth(raster, 'fine');
      ms += performance.now() - from;
    }
    rows.push([kind, String(names.length), String(wrong.length), wrong.join(', '), `${Math.round(ms / names.length)} ms`]);
  }
  console.log(`\nPersons\n${table(['pictures', 'how many', 'wrong', 'which', 'fine estimate'], rows)}`);
}
