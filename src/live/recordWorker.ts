import * as Comlink from 'comlink';
import type { Raster } from '../core/picture';
import { errorsCross } from '../engine/messages/errors';
import { quickPng } from '../formats/png/quickPng';
import { RecordingStore, type RecordingRow } from '../media/recordingStore';
import type { Arrival } from './arrival';
import { recordedClip, Recorder, type RecordedClip } from './recorder';

errorsCross();

const store = new RecordingStore();
let recorder: Promise<Recorder> | null = null;
let stopped = false;

const api = {
  async begin(row: RecordingRow): Promise<void> {
    recorder = Recorder.begin(store, row);
    await recorder;
  },
  /** one picture more; false where it was left out. Throws where the disk is full. */
  add: async (frame: Arrival): Promise<boolean> => (recorder ? (await recorder).add(frame) : false),
  /** what has been recorded is written, and no more comes */
  async end(): Promise<void> {
    const ending = recorder;
    recorder = null;
    await (await ending)?.flush();
  },
  /** a recording as a clip; null where it was stopped */
  clip(id: string, report: (share: number) => void): Promise<RecordedClip | null> {
    stopped = false;
    return recordedClip(store, id, (share) => {
      report(share);
      return !stopped;
    });
  },
  stop: (): void => void (stopped = true),
  left: (shot: string): Promise<RecordingRow[]> => store.left(shot),
  forget: (id: string): Promise<void> => store.forget(id),
  /** a picture with its depth in alpha, as a file */
  picture: (raster: Raster): Promise<Blob> => quickPng({ ...raster, data: raster.data as Uint8Array }),
};

export type RecordWorkerApi = typeof api;

Comlink.expose(api);
