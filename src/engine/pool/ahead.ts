import { QUICKEST } from '../../core/need/estimators';
import type { FileRef } from '../../core/need/fileRef';
import { addressOfFile, stillNeed } from '../../core/need/need';
import type { Plane } from '../../core/picture';
import { engine, type Job } from './engine';

/** Drafts of pictures that were just brought in, begun before their shot is opened. */
const begun = new Map<string, { readonly job: Job<Plane>; readonly listener: { report(share: number): void } }>();

/** Begins the draft of a held plate; ends when that does. */
export function estimateAhead(plate: FileRef): Promise<unknown> {
  const listener = { report: (_share: number): void => undefined };
  const job = engine().estimate(stillNeed(plate), { quality: QUICKEST }, (share) => listener.report(share));
  // its failing is told where it is waited for
  job.done.catch(() => undefined);
  begun.clear();
  begun.set(addressOfFile(plate), { job, listener });
  return job.done;
}

/** The draft that was begun for a plate, handed over once; null where none was. */
export function takeAhead(address: string, report: (share: number) => void): Job<Plane> | null {
  const found = begun.get(address);
  if (!found) return null;
  begun.delete(address);
  found.listener.report = report;
  return found.job;
}
