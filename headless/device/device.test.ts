import { createSocket } from 'node:dgram';
import { afterEach, describe, expect, jest, test } from '@jest/globals';
import { WebSocket } from 'ws';
import { defaultsOf } from '../../src/core/values/params';
import { DeviceLink, type OpenSocket, type SocketListener } from '../../src/live/device/link';
import type { Arrival } from '../../src/live/arrival';
import type { Heard, LiveState } from '../../src/live/definition';
import { simulatedParams } from '../../src/live/simulated/params';
import { nearnessAt, VIEW } from '../../src/live/simulated/view';
import { oscBundle, writeOsc } from '../../src/formats/osc/osc';
import { until } from '../../src/testing/until';
import { mayConnect, serveDevice, type DeviceOptions } from './serve';

const usual: DeviceOptions = {
  host: '127.0.0.1',
  port: 0,
  oscPort: 0,
  holds: 'alpha',
  form: 'raw',
  allow: [],
  // a busy machine packs and unpacks few pictures a second
  camera: { ...defaultsOf(simulatedParams), rate: 10 },
};

/** What is computed on the way takes its time on a busy machine, ms. */
const LONG = 20_000;
jest.setTimeout(2 * LONG);

const ends: (() => unknown)[] = [];
afterEach(async () => {
  for (const end of ends.splice(0).reverse()) await end();
});

async function served(options: Partial<DeviceOptions> = {}) {
  const device = await serveDevice({ ...usual, ...options });
  ends.push(() => device.close());
  return device;
}

const openSocket: OpenSocket = (address, on) => {
  const socket = new WebSocket(address);
  socket.binaryType = 'arraybuffer';
  socket.on('open', () => on.opened());
  socket.on('close', () => on.closed());
  socket.on('message', (data) => on.message(data));
  socket.on('error', () => undefined);
  return socket;
};

/** A link to a device, and what came of it. */
function linked(port: number) {
  const frames: (Omit<Arrival, 'raster'> & { alpha: number[]; size: string })[] = [];
  const heard: Record<string, number> = {};
  const states: LiveState['is'][] = [];
  const link = new DeviceLink(
    `ws://127.0.0.1:${port}`,
    {
      frame: ({ raster, ...frame }) => {
        const column = [200, 300, 350].map((row) => raster.data[4 * (row * raster.width + 600) + 3]!);
        frames.push({ ...frame, alpha: column, size: `${raster.width}x${raster.height}` });
        return Promise.resolve();
      },
      heard: (channels: Heard) => void Object.assign(heard, channels),
      state: ({ is }) => void states.push(is),
    },
    openSocket,
  );
  ends.push(() => link.close());
  return { link, frames, heard, states };
}

/** What alpha holds where the ground is seen, by the row. */
const ground = [200, 300, 350].map((row) => Math.round(255 * nearnessAt(1.6 / ((row + 0.5 - 180) / (320 / Math.tan(Math.PI / 6))))));

describe('the simulated camera as a device', () => {
  test.each([
    ['alpha', 'raw'],
    ['alpha', 'png'],
    ['side', 'raw'],
    ['side', 'png'],
  ] as const)('sends depth in %s as %s, with its channels', async (holds, form) => {
    const { port } = await served({ holds, form });
    const { frames, heard } = linked(port);
    await until(() => frames.length >= 3 && Object.keys(heard).length >= 5, LONG);
    expect(frames[0]!.size).toBe(`${VIEW.width}x${VIEW.height}`);
    for (const [k, value] of frames[0]!.alpha.entries()) expect(Math.abs(value - ground[k]!)).toBeLessThanOrEqual(1);
    expect(frames.map((f) => f.number)).toEqual([...frames.map((f) => f.number)].sort((a, b) => a - b));
    expect(Object.keys(heard).sort()).toEqual(['arm', 'blink', 'lamp', 'mouth', 'swing']);
  });

  test('hands on OSC that comes by UDP, and leaves out what is none', async () => {
    const { port, oscPort } = await served();
    const { frames, heard, link } = linked(port);
    await until(() => frames.length > 0, LONG);
    const udp = createSocket('udp4');
    ends.push(() => udp.close());
    udp.send(Uint8Array.from([1, 2, 3, 4, 5]), oscPort!, '127.0.0.1');
    udp.send(oscBundle([writeOsc('/fader', 0.25), writeOsc('/pose', 1, 2)]), oscPort!, '127.0.0.1');
    await until(() => heard.fader !== undefined, LONG);
    expect(heard).toMatchObject({ fader: 0.25, 'pose/1': 1, 'pose/2': 2 });
    expect(link.bad).toBe(0);
  });

  test('that goes is said, and found again by itself', async () => {
    const first = await serveDevice(usual);
    const { frames, states } = linked(first.port);
    await until(() => frames.length > 0, LONG);
    await first.close();
    await until(() => states.at(-1) === 'gone', LONG);
    const before = frames.length;
    await served({ port: first.port });
    await until(() => frames.length > before, LONG);
    expect(states.at(-1)).toBe('running');
  });

  test('lets pages of this machine in alone, unless told', async () => {
    expect([undefined, 'http://localhost:3000', 'http://127.0.0.1:1', 'http://[::1]:80'].map((o) => mayConnect(o, []))).toEqual([
      true,
      true,
      true,
      true,
    ]);
    expect(['https://elsewhere.example', 'http://localhost.example', 'null', ''].map((o) => mayConnect(o, []))).toEqual([false, false, false, false]);
    expect(mayConnect('https://elsewhere.example', ['https://elsewhere.example'])).toBe(true);
    const { port } = await served();
    let refused = false;
    const socket = new WebSocket(`ws://127.0.0.1:${port}`, { origin: 'https://elsewhere.example' });
    socket.on('error', () => (refused = true));
    ends.push(() => socket.terminate());
    await until(() => refused, LONG);
  });

  test('two pages on one device both see it', async () => {
    const { port } = await served();
    const [one, two] = [linked(port), linked(port)];
    await until(() => one.frames.length >= 3 && two.frames.length >= 3, LONG);
  });
});

test('what a device says that cannot be read is counted and left out; the link lives', async () => {
  let say: SocketListener['message'] = () => undefined;
  const heard: Heard[] = [];
  const link = new DeviceLink(
    'ws://localhost:1',
    { frame: () => Promise.resolve(), heard: (channels) => void heard.push(channels), state: () => undefined },
    (_, on) => {
      say = (data) => on.message(data);
      return { close: () => undefined };
    },
  );
  ends.push(() => link.close());
  for (const bytes of [[], [1, 2, 3], [0x4f, 0x4d, 0x42, 0x4c], [35, 98, 117, 110]]) say(Uint8Array.from(bytes).buffer);
  say('text');
  say(writeOsc('/a', 1).buffer);
  await until(() => heard.length > 0);
  expect(link.bad).toBe(5);
  expect(heard).toEqual([{ a: 1 }]);
});

test.each([
  ['nonsense', 'no address of a device'],
  ['http://localhost:9210', 'no address of a device'],
  ['ws://192.168.0.7:9210', '192.168.0.7 is another machine'],
])('the address %s is refused in words, and not tried again', (address, words) => {
  const states: LiveState[] = [];
  const opened: string[] = [];
  const on = { frame: () => Promise.resolve(), heard: () => undefined, state: (s: LiveState) => void states.push(s) };
  const link = new DeviceLink(address, on, (a) => {
    opened.push(a);
    return { close: () => undefined };
  });
  link.close();
  expect(states).toEqual([expect.objectContaining({ is: 'gone', again: false, why: expect.stringContaining(words) })]);
  expect(opened).toEqual([]);
});
