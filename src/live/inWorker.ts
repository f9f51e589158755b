import * as Comlink from 'comlink';
import type { LiveFeed, LiveListener, LiveValues } from './definition';
import type { LiveWorkerApi } from './worker';

/** Runs a source in a worker of its own, which ends with it. */
export function inWorker(kind: string, values: LiveValues, on: LiveListener): LiveFeed {
  const worker = new Worker(new URL('./worker.ts', import.meta.url), { type: 'module' });
  const remote = Comlink.wrap<LiveWorkerApi>(worker);
  let closed = false;
  worker.onerror = () => {
    if (!closed) on.state({ is: 'gone', why: 'The source stopped.', hint: 'Begin it again; if it stops again, reload the page.', again: false });
  };
  // what was sent before it was closed may still come
  const told = Comlink.proxy({
    frame: (frame: Parameters<LiveListener['frame']>[0]) => !closed && on.frame(frame),
    heard: (...heard: Parameters<LiveListener['heard']>) => !closed && on.heard(...heard),
    state: (state: Parameters<LiveListener['state']>[0]) => !closed && on.state(state),
  });
  remote.open(kind, values, told as never).catch(() => undefined);
  return {
    set: (next) => void remote.set(next).catch(() => undefined),
    free: ({ id }) => void remote.free(id).catch(() => undefined),
    close: () => {
      closed = true;
      worker.terminate();
    },
  };
}
