import '../headless/kernels';
import { writeFileSync } from 'node:fs';
import { cameraSpeed, cameraTable, softMapTable } from './camera';
import { cleanupTable } from './cleanup';
import { clipPageTable } from './clipPage';
import { clipTables } from './clips';
import { depthPageTable } from './depthPage';
import { chainSpeed, effectSpeed, relightTable } from './effects';
import { liveTable } from './live';
import { fogTable, matteSpeed, matteTable } from './matte';
import { pageTable } from './page';
import { peopleTable } from './people';
import { exportTable } from './exports';
import { estimateTable, lensTable } from './quality';
import { speedTable } from './speed';

/**
 * `npm run bench [-- quality|camera|matte|effects|clips|exports|speed|page|live …]`: prints the tables and writes bench/results.json. `npm run bench -- people FOLDER` is asked for by name: its pictures are
 * not in this repository.
 */
const parts = {
  quality: async () => ({ estimate: await estimateTable(), lens: await lensTable() }),
  matte: async () => ({ matte: matteTable(), speed: await matteSpeed(), fog: await fogTable() }),
  effects: async () => ({ relight: await relightTable(), speed: await effectSpeed(), chain: await chainSpeed() }),
  camera: async () => ({ views: await cameraTable(), soft: await softMapTable(), speed: await cameraSpeed() }),
  clips: async () => ({ depth: await clipTables(), page: await clipPageTable() }),
  cleanup: cleanupTable,
  exports: exportTable,
  speed: speedTable,
  page: pageTable,
  live: liveTable,
  depth: depthPageTable,
};
const wanted = process.argv.slice(2);
if (wanted[0] === 'people') {
  await peopleTable(wanted[1] ?? 'out/people');
  process.exit(0);
}
const results: Record<string, unknown> = {};
for (const [name, run] of Object.entries(parts)) if (wanted.length === 0 || wanted.includes(name)) results[name] = await run();
if (wanted.length === 0) writeFileSync('bench/results.json', `${JSON.stringify(results, null, 2)}\n`);
