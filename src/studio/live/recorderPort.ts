import * as Comlink from 'comlink';
import type { Raster } from '../../core/picture';
import type { RecordWorkerApi } from '../../live/recordWorker';

let remote: Comlink.Remote<RecordWorkerApi> | null = null;

/** The worker that writes recordings, begun with its first work. */
export const recorderPort = (): Comlink.Remote<RecordWorkerApi> =>
  (remote ??= Comlink.wrap<RecordWorkerApi>(new Worker(new URL('../../live/recordWorker.ts', import.meta.url), { type: 'module' })));

/** A picture with its depth in alpha, as a file. */
export const pictureOf = (raster: Raster): Promise<Blob> => recorderPort().picture(raster);
