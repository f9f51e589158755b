import * as Comlink from 'comlink';
import type { Raster } from '../core/picture';
import { errorsCross } from '../engine/messages/errors';
import { quickPng } from '../formats/png/quickPng';
import { RecordingStore, type RecordingRow } from '../media/recordingStore';
import type { Arrival } from './arrival';
import { recordedClip, Recorder, type RecordedClip } from './recorder';

errorsCross();

const store = new RecordingStore();
/** Tells pages that a recording is at work somewhere, so that none takes it for broken off: held until what is answered ends it. */
async function atWork(id: string): Promise<() => void> {
  const { locks } = navigator as { locks?: LockManager };
  if (!locks) return () => undefined;
  return new Promise((held) => void locks.request(LOCK + id, () => new Promise<void>((end) => held(end))));
}

/** Recordings that are at work somewhere. */
async function atWorkNow(): Promise<ReadonlySet<string>> {
  const { locks } = navigator as { locks?: LockManager };
  const held = (await locks?.query())?.held ?? [];
  return new Set(held.flatMap(({ name }) => (name?.startsWith(LOCK) ? [name.slice(LOCK.length)] : [])));
}

const LOCK = 'ombrage-recording ';

let over: () => void = () => undefined;
let recorder: Promise<Recorder> | null = null;
let stopped = false;

const api = {
  async begin(row: RecordingRow): Promise<void> {
    recorder = Recorder.begin(store, row);
    const [ends] = await Promise.all([atWork(row.id), recorder]);
    over = ends;
  },
  /** one picture more; false where it was left out. Throws where the disk is full. */
  add: async (frame: Arrival): Promise<boolean> => (recorder ? (await recorder).add(frame) : false),
  /** what has been recorded is written, and no more comes */
  async end(): Promise<void> {
    const ending = recorder;
    recorder = null;
    try {
      await (await ending)?.flush();
    } finally {
      over();
    }
  },
  /** a recording as a clip; null where it was stopped */
  async clip(id: string, report: (share: number) => void): Promise<RecordedClip | null> {
    stopped = false;
    const ends = await atWork(id);
    try {
      return await recordedClip(store, id, (share) => {
        report(share);
        return !stopped;
      });
    } finally {
      ends();
    }
  },
  stop: (): void => void (stopped = true),
  /** recordings of a shot that were broken off */
  async left(shot: string): Promise<RecordingRow[]> {
    const busy = await atWorkNow();
    return (await store.left(shot)).filter(({ id }) => !busy.has(id));
  },
  forget: (id: string): Promise<void> => store.forget(id),
  /** a picture with its depth in alpha, as a file */
  picture: (raster: Raster): Promise<Blob> => quickPng({ ...raster, data: raster.data as Uint8Array }),
};

export type RecordWorkerApi = typeof api;

Comlink.expose(api);
