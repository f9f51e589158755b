import type { Job } from '../../engine/pool/engine';
import { notify, notifyError } from '../notices/noticeStore';
import { isFull } from '../../media/storage';
import { progressOf, useSession } from './sessionStore';

/** What work on a clip is done with. */
export interface ClipWork {
  /** does a part of it on the workers; null once it was stopped */
  run<T>(job: Job<T>): Promise<T | null>;
  /** the share of the whole that is done */
  report(share: number): void;
  stopped(): boolean;
}

let stopRunning: (() => void) | null = null;

/** Ends what is being done on a clip: another shot is opened. */
export const stopClipJob = (): void => stopRunning?.();

/** Does something on a clip that takes its time, one thing at a time: shown with its progress, and can be stopped there. */
export async function clipJob(doing: string, work: (how: ClipWork) => Promise<void>): Promise<void> {
  const { clipDepthJob, set } = useSession.getState();
  if (clipDepthJob) return;
  const jobs = new Set<Job<unknown>>();
  let stopped = false;
  const stop = (): void => {
    stopped = true;
    for (const job of jobs) job.cancel();
  };
  stopRunning = stop;
  const progress = progressOf(doing, stop, (p) => set({ clipDepthJob: p }));
  try {
    await work({
      run: async (job) => {
        jobs.add(job);
        const done = await job.done.finally(() => jobs.delete(job));
        return stopped ? null : done;
      },
      report: progress.report,
      stopped: () => stopped,
    });
  } catch (error) {
    stop();
    if (isFull(error))
      notify({ kind: 'error', text: 'The disk is full: work on the clip stopped.', hint: 'What is finished is kept. Make room, then go on.' });
    else notifyError(error);
  } finally {
    progress.end();
    if (stopRunning === stop) stopRunning = null;
  }
}
