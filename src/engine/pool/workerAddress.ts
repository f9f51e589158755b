/**
 * The bundler tells a worker what to load behind the # of its address, which is lost where a service worker answers for it: it is told behind
 * the ? instead. Called once, before the first worker.
 */
export function tellWorkersByQuery(): void {
  const Plain = globalThis.Worker;
  if (!Plain) return;
  globalThis.Worker = class extends Plain {
    constructor(address: string | URL, options?: WorkerOptions) {
      const url = new URL(String(address), location.href);
      if (url.hash.startsWith('#params=')) {
        url.search = `?params=${url.hash.slice('#params='.length)}`;
        url.hash = '';
      }
      super(url, options);
    }
  };
}
