import { OmbrageError } from '../../core/error';
import { isPacket, readPacket, type LivePacket } from '../../formats/live/packet';
import { channelsOf, readOsc } from '../../formats/osc/osc';
import { clock, type Arrival } from '../arrival';
import type { Heard, LiveState } from '../definition';
import { unpackedPicture } from './unpacked';

/** Who listens to a socket. */
export interface SocketListener {
  opened(): void;
  closed(): void;
  message(data: unknown): void;
}

/** Opens a socket whose messages come as ArrayBuffers. */
export type OpenSocket = (address: string, on: SocketListener) => { close(): void };

export interface LinkListener {
  /** resolves when nobody reads the picture any more */
  frame(frame: Arrival, packet: Pick<LivePacket, 'holds' | 'near' | 'far'>): Promise<void>;
  heard(channels: Heard, at: number): void;
  state(state: LiveState): void;
}

/** It tries again after so long, ms, at first and at the most. */
const FIRST_WAIT_MS = 500;
const LONGEST_WAIT_MS = 5000;
/** A device that says nothing for so long has gone, ms. */
const SILENT_MS = 4000;
/** A message may be so long, bytes. */
const LONGEST = 70e6;
/** So many channels are heard of one device. */
const MOST_CHANNELS = 10_000;
/** A picture whose time differs by more from the time here was taken by another clock, ms. */
const CLOCK_OFF_MS = 60_000;

const THIS_MACHINE = ['localhost', '127.0.0.1'];

/** Why an address cannot be a device's, and what to do; null where it can. */
function wrongIn(address: string): readonly [string, string] | null {
  const url = URL.canParse(address) ? new URL(address) : null;
  if (!url || url.protocol !== 'ws:') return [`${address} is no address of a device.`, 'It begins with ws://, such as ws://localhost:9210.'];
  if (THIS_MACHINE.includes(url.hostname)) return null;
  return [`${url.hostname} is another machine.`, 'Devices of this one are reached alone: hand its port on to this machine, and give localhost.'];
}

/** The link to a device: pictures and channels as they come, the newest picture first, begun again where it breaks. */
export class DeviceLink {
  private socket: { close(): void } | null = null;
  /** counts sockets: what an older one says is not heard */
  private sockets = 0;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private silence: ReturnType<typeof setTimeout> | undefined;
  private wait = FIRST_WAIT_MS;
  private closed = false;
  private unpacking = false;
  /** its pictures come */
  private running = false;
  private newest: LivePacket | null = null;
  private readonly spare: Uint8Array[] = [];
  private readonly channels = new Map<string, number>();
  /** messages that could not be read */
  bad = 0;

  constructor(
    private readonly address: string,
    private readonly on: LinkListener,
    private readonly open: OpenSocket,
  ) {
    this.connect();
  }

  close(): void {
    this.closed = true;
    clearTimeout(this.timer);
    clearTimeout(this.silence);
    this.drop();
  }

  private connect(): void {
    const wrong = wrongIn(this.address);
    if (wrong) {
      this.gone(...wrong, false);
      return;
    }
    const mine = ++this.sockets;
    const current = (): boolean => mine === this.sockets && !this.closed;
    this.socket = this.open(this.address, {
      opened: () => {
        if (!current()) return;
        this.wait = FIRST_WAIT_MS;
        this.on.state({ is: 'waiting' });
        this.listen();
      },
      message: (data) => {
        if (!current()) return;
        this.listen();
        if (data instanceof ArrayBuffer) this.take(new Uint8Array(data));
        else this.bad++;
      },
      closed: () => {
        if (current()) this.again();
      },
    });
  }

  /** The device is lost: said, and looked for again. */
  private again(): void {
    this.drop();
    if (this.closed) return;
    this.gone(`No device answers at ${this.address}.`, 'It is looked for again by itself; npm run device begins one.', true);
    this.timer = setTimeout(() => this.connect(), this.wait);
    this.wait = Math.min(LONGEST_WAIT_MS, 2 * this.wait);
  }

  private gone(why: string, hint: string, again: boolean): void {
    this.running = false;
    this.on.state({ is: 'gone', why, hint, again });
  }

  private drop(): void {
    const { socket } = this;
    this.socket = null;
    this.newest = null;
    this.sockets++;
    clearTimeout(this.silence);
    socket?.close();
  }

  private listen(): void {
    clearTimeout(this.silence);
    this.silence = setTimeout(() => this.again(), SILENT_MS);
  }

  private take(bytes: Uint8Array): void {
    try {
      if (bytes.length > LONGEST) throw new OmbrageError('bad-packet', 'A message of the device is too long.', '');
      if (isPacket(bytes)) {
        this.newest = readPacket(bytes);
        void this.unpack();
        return;
      }
      const heard: Record<string, number> = {};
      for (const [name, value] of Object.entries(channelsOf(readOsc(bytes))))
        if (this.channels.has(name) || this.channels.size < MOST_CHANNELS) {
          this.channels.set(name, value);
          heard[name] = value;
        }
      this.on.heard(heard, clock());
    } catch (error) {
      if (!(error instanceof OmbrageError)) throw error;
      this.bad++;
    }
  }

  /** One picture is unpacked at a time; of those that come meanwhile the newest follows. */
  private async unpack(): Promise<void> {
    if (this.unpacking) return;
    this.unpacking = true;
    try {
      for (let packet = this.newest; packet && !this.closed; packet = this.newest) {
        this.newest = null;
        await this.send(packet);
      }
    } finally {
      this.unpacking = false;
    }
  }

  private async send(packet: LivePacket): Promise<void> {
    try {
      const raster = await unpackedPicture(packet, this.spare.pop());
      // a device whose clock is another's tells nothing of age
      const at = Math.abs(packet.at - clock()) < CLOCK_OFF_MS ? packet.at : clock();
      if (!this.running) this.on.state({ is: 'running' });
      this.running = true;
      void this.on.frame({ number: packet.number, at, raster, channels: Object.fromEntries(this.channels) }, packet).finally(() => {
        if (this.spare.length < 4) this.spare.push(raster.data as Uint8Array);
      });
    } catch (error) {
      if (!(error instanceof OmbrageError)) throw error;
      this.bad++;
    }
  }
}
