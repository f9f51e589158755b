import { createSocket, type Socket } from 'node:dgram';
import type { IncomingMessage } from 'node:http';
import { WebSocketServer } from 'ws';
import { OmbrageError } from '../../src/core/error';
import { writePacket, type Form, type Holds } from '../../src/formats/live/packet';
import { oscBundle, readOsc, writeOsc } from '../../src/formats/osc/osc';
import { quickPng } from '../../src/formats/png/quickPng';
import type { Arrival } from '../../src/live/arrival';
import { SimulatedCamera } from '../../src/live/simulated/camera';
import type { SimulatedValues } from '../../src/live/simulated/params';
import { VIEW } from '../../src/live/simulated/view';

export interface DeviceOptions {
  /** where it listens: this machine alone, unless told otherwise */
  readonly host: string;
  readonly port: number;
  /** for OSC by UDP, which is handed on; null: none is listened for */
  readonly oscPort: number | null;
  readonly holds: Holds;
  readonly form: Form;
  /** origins of pages that may connect besides those of this machine */
  readonly allow: readonly string[];
  readonly camera: SimulatedValues;
}

/** What is still on its way to somebody, bytes, before newer pictures are left out for them. */
const BEHIND = 4e6;
const THIS_MACHINE = new Set(['localhost', '127.0.0.1', '[::1]']);

/** Whether a page, or a program (which tells no origin), may connect. */
export function mayConnect(origin: string | undefined, allow: readonly string[]): boolean {
  if (origin === undefined || allow.includes(origin)) return true;
  try {
    return THIS_MACHINE.has(new URL(origin).hostname);
  } catch {
    return false;
  }
}

/** A picture as it is sent, with its depth beside it or in its alpha. */
async function packed({ raster, number, at }: Arrival, { holds, form }: DeviceOptions): Promise<Uint8Array> {
  const { width, height } = raster;
  const shown = { width: holds === 'side' ? 2 * width : width, height };
  const data = holds === 'side' ? sideBySide(raster.data as Uint8Array, width, height) : (raster.data as Uint8Array);
  const body = form === 'png' ? new Uint8Array(await (await quickPng({ ...shown, data })).arrayBuffer()) : data;
  return writePacket({ holds, form, number, at, ...shown, near: VIEW.near, far: VIEW.far, body });
}

/** Colour at the left, depth as grey at the right, opaque. */
function sideBySide(data: Uint8Array, width: number, height: number): Uint8Array {
  const out = new Uint8Array(8 * width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const [p, left, right] = [4 * (y * width + x), 4 * (2 * y * width + x), 4 * ((2 * y + 1) * width + x)];
      for (let c = 0; c < 3; c++) {
        out[left + c] = data[p + c]!;
        out[right + c] = data[p + 3]!;
      }
      out[left + 3] = out[right + 3] = 255;
    }
  return out;
}

/** The simulated camera as a device of the network, until it is closed. Resolves when it listens. */
export async function serveDevice(
  options: DeviceOptions,
): Promise<{ readonly port: number; readonly oscPort: number | null; close(): Promise<void> }> {
  const { host, port, allow } = options;
  const server = new WebSocketServer({
    host,
    port,
    maxPayload: 1e6,
    verifyClient: ({ req }: { req: IncomingMessage }) => mayConnect(req.headers.origin, allow),
  });
  await new Promise<void>((done, failed) => {
    server.once('listening', done);
    server.once('error', failed);
  });
  const toAll = (bytes: Uint8Array): void => {
    for (const client of server.clients) if (client.readyState === client.OPEN && client.bufferedAmount < BEHIND) client.send(bytes);
  };
  let packing = false;
  const camera = new SimulatedCamera(options.camera, async (frame) => {
    // who packs more slowly than pictures come leaves some out
    if (server.clients.size === 0 || packing) return;
    packing = true;
    try {
      toAll(oscBundle(Object.entries(frame.channels).map(([name, value]) => writeOsc(`/${name}`, value))));
      toAll(await packed(frame, options));
    } finally {
      packing = false;
    }
  });
  const udp = options.oscPort === null ? null : await listenOsc(host, options.oscPort, toAll);
  return {
    port: (server.address() as { port: number }).port,
    oscPort: udp?.address().port ?? null,
    close: async () => {
      camera.close();
      udp?.close();
      for (const client of server.clients) client.terminate();
      await new Promise((done) => server.close(done));
    },
  };
}

/** Hands on OSC that comes by UDP; what is none is left out. */
async function listenOsc(host: string, port: number, toAll: (bytes: Uint8Array) => void): Promise<Socket> {
  const socket = createSocket(host.includes(':') ? 'udp6' : 'udp4');
  await new Promise<void>((done, failed) => {
    socket.once('error', failed);
    socket.bind(port, host, done);
  });
  socket.on('error', () => undefined);
  socket.on('message', (message) => {
    try {
      readOsc(message);
      toAll(message);
    } catch (error) {
      if (!(error instanceof OmbrageError)) throw error;
    }
  });
  return socket;
}
