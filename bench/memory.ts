import { readdirSync, readFileSync } from 'node:fs';

/** Memory of the page's process, which is the largest of those that hold pages (the browser keeps empty ones ready), MB; what processes share counts in parts. */
export function pageMemory(): number {
  let kilobytes = 0;
  for (const pid of readdirSync('/proc').filter((name) => /^\d+$/.test(name)))
    try {
      if (!readFileSync(`/proc/${pid}/cmdline`, 'latin1').includes('--type=renderer')) continue;
      kilobytes = Math.max(kilobytes, Number(/^Pss:\s+(\d+)/m.exec(readFileSync(`/proc/${pid}/smaps_rollup`, 'latin1'))?.[1] ?? 0));
    } catch {
      // it has ended meanwhile
    }
  return kilobytes / 1024;
}
