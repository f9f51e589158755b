import * as Comlink from 'comlink';
import type { FoundFace } from '../../core/estimate/face/faces';
import type { Rgb8 } from '../../core/estimate/face/tensors';

export interface FaceWorkerApi {
  find(picture: Rgb8, report: (share: number) => void): Promise<FoundFace | null>;
}

/**
 * Looks for the largest face in a picture with a small model that runs on this machine, in a worker of its own that ends with the
 * work: few pictures need it. Null where there is no face, or where it was stopped.
 */
export function findFace(picture: Promise<Rgb8>, report: (share: number) => void): { done: Promise<FoundFace | null>; cancel(): void } {
  const worker = new Worker(new URL('../worker/faceWorker.ts', import.meta.url), { type: 'module' });
  let stop: () => void = () => undefined;
  const stopped = new Promise<null>((done) => (stop = () => done(null)));
  const failed = new Promise<never>((_, fail) => {
    worker.onerror = (event) => fail(new Error(event.message || 'the face model could not be started'));
  });
  const remote = Comlink.wrap<FaceWorkerApi>(worker);
  const work = picture.then((small) => remote.find(small, Comlink.proxy(report)));
  const done = Promise.race([work, stopped, failed]).finally(() => worker.terminate());
  return { done, cancel: stop };
}

/** Looks for the largest face in pictures that come one after the other: the models are read once. */
export class FaceWatch {
  private worker: Worker | null = null;
  private remote: Comlink.Remote<FaceWorkerApi> | null = null;

  /** Throws where the models cannot be read. */
  look(picture: Rgb8): Promise<FoundFace | null> {
    this.worker ??= new Worker(new URL('../worker/faceWorker.ts', import.meta.url), { type: 'module' });
    this.remote ??= Comlink.wrap<FaceWorkerApi>(this.worker);
    return this.remote.find(
      picture,
      Comlink.proxy(() => undefined),
    );
  }

  close(): void {
    this.worker?.terminate();
    this.worker = null;
    this.remote = null;
  }
}
