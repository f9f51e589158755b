import * as Comlink from 'comlink';
import * as z from 'zod';
import { newFloats, type Plane, type Raster } from '../core/picture';
import { valuesSchema } from '../core/values/params';
import type { Arrival } from './arrival';
import type { LiveFrame, LiveListener, LiveValues } from './definition';
import { SimulatedCamera } from './simulated/camera';
import { simulatedParams } from './simulated/params';

// nothing here may be made from text
z.config({ jitless: true });

/** What runs in this worker. */
interface Running {
  set(values: LiveValues): void;
  close(): void;
}

export type Told = Omit<LiveListener, 'frame'> & { frame(frame: LiveFrame): void };

/** What a page asks of a source that runs in a worker. */
export interface LiveWorkerApi {
  open(kind: string, values: LiveValues, on: Told): void;
  set(values: LiveValues): void;
  free(number: number): void;
}

let running: Running | null = null;
/** frames that the page reads, and who waits for the end of that */
const read = new Map<number, { readonly nearness: Float32Array; readonly done: () => void }>();
const spare: Float32Array[] = [];

/** Nearness as alpha holds it, 0..1. */
function nearnessOf({ width, height, data }: Raster): Plane {
  const length = width * height;
  const kept = spare.pop();
  const plane = { width, height, data: kept?.length === length ? kept : newFloats(length, true) };
  for (let i = 0; i < length; i++) plane.data[i] = data[4 * i + 3]! / 255;
  return plane;
}

/** Sends a picture to the page, which frees it when nobody reads it any more. */
const sending =
  (on: Told) =>
  ({ number, at, raster, channels }: Arrival): Promise<void> =>
    new Promise((done) => {
      const nearness = nearnessOf(raster);
      read.set(number, { nearness: nearness.data, done });
      on.frame({ number, at, raster, nearness, channels });
    });

const sources: Readonly<Record<string, (values: LiveValues, on: Told) => Running>> = {
  simulated: (values, on) => {
    const of = (v: LiveValues) => valuesSchema(simulatedParams).parse(v);
    const camera = new SimulatedCamera(of(values), sending(on));
    on.state({ is: 'running' });
    return { set: (v) => camera.set(of(v)), close: () => camera.close() };
  },
};

const api: LiveWorkerApi = {
  open(kind, values, on) {
    running?.close();
    running = sources[kind]!(values, on);
  },
  set: (values) => running?.set(values),
  free(number) {
    const freed = read.get(number);
    if (!freed) return;
    read.delete(number);
    spare.push(freed.nearness);
    freed.done();
  },
};

Comlink.expose(api);
