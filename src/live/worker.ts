import * as Comlink from 'comlink';
import * as z from 'zod';
import { newFloats, type Plane, type Raster } from '../core/picture';
import { valuesSchema } from '../core/values/params';
import type { Arrival } from './arrival';
import type { LiveFrame, LiveListener, LiveValues } from './definition';
import type { LivePacket } from '../formats/live/packet';
import { DeviceLink } from './device/link';
import { DEVICE_ADDRESS } from './device/params';
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
  free(id: number): void;
}

let running: Running | null = null;
let sent = 0;
/** pictures that the page reads, by their ids, and who waits for the end of that */
const read = new Map<number, { readonly nearness: Float32Array | null; readonly done: () => void }>();
const spare: Float32Array[] = [];

/** Nearness as alpha holds it, 0..1. */
function nearnessOf({ width, height, data }: Raster): Plane {
  const length = width * height;
  const kept = spare.pop();
  const plane = { width, height, data: kept?.length === length ? kept : newFloats(length, true) };
  for (let i = 0; i < length; i++) plane.data[i] = data[4 * i + 3]! / 255;
  return plane;
}

/** Sends a picture to the page, which frees it when nobody reads it any more. `seen`: what its alpha holds; absent where that is depth between usual ends. */
const sending =
  (on: Told) =>
  ({ number, at, raster, channels }: Arrival, seen?: Pick<LivePacket, 'holds' | 'near' | 'far'>): Promise<void> =>
    new Promise((done) => {
      const nearness = seen?.holds === 'colour' ? null : nearnessOf(raster);
      const id = ++sent;
      read.set(id, { nearness: nearness?.data ?? null, done });
      on.frame({ id, number, at, raster, nearness, channels, ...(seen && seen.near > 0 && { ends: { near: seen.near, far: seen.far } }) });
    });

const sources: Readonly<Record<string, (values: LiveValues, on: Told) => Running>> = {
  simulated: (values, on) => {
    const of = (v: LiveValues) => valuesSchema(simulatedParams).parse(v);
    const camera = new SimulatedCamera(of(values), sending(on));
    on.state({ is: 'running' });
    return { set: (v) => camera.set(of(v)), close: () => camera.close() };
  },
  device: (values, on) => {
    const frame = sending(on);
    const link = (v: LiveValues): DeviceLink =>
      new DeviceLink(
        String(v.address ?? DEVICE_ADDRESS),
        { frame, heard: (heard, at) => on.heard(heard, at), state: (state) => on.state(state) },
        (of, hears) => {
          const socket = new WebSocket(of);
          socket.binaryType = 'arraybuffer';
          socket.onopen = () => hears.opened();
          socket.onclose = () => hears.closed();
          socket.onmessage = ({ data }) => hears.message(data);
          return socket;
        },
      );
    let [current, address] = [link(values), values.address];
    return {
      set: (v) => {
        if (v.address === address) return;
        current.close();
        [current, address] = [link(v), v.address];
      },
      close: () => current.close(),
    };
  },
};

const api: LiveWorkerApi = {
  open(kind, values, on) {
    running?.close();
    running = sources[kind]!(values, on);
  },
  set: (values) => running?.set(values),
  free(id) {
    const freed = read.get(id);
    if (!freed) return;
    read.delete(id);
    if (freed.nearness) spare.push(freed.nearness);
    freed.done();
  },
};

Comlink.expose(api);
