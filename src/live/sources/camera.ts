import { perSecond } from '../../core/values/params';
import { clock } from '../arrival';
import { defineSource, type LiveFeed, type LiveFrame, type LiveListener, type LiveValues } from '../definition';

/** Pictures of the camera are taken so wide at the most, px. */
const WIDTH = 640;
/** So many may be read by others at a time. */
const MOST = 8;

/** Why a camera cannot be had, and what to do. */
const REASONS: Readonly<Record<string, readonly [string, string]>> = {
  NotAllowedError: ['This page may not use the camera.', 'Allow it beside the address of the page, then choose the source again.'],
  NotFoundError: ['This computer has no camera.', 'Connect one; it is looked for again by itself.'],
  NotReadableError: ['The camera is in use by another program.', 'Close that; it is tried again by itself.'],
};
const AGAIN_MS = 3000;

/** The camera of this computer, as it runs. */
class OwnCamera implements LiveFeed {
  private readonly video = document.createElement('video');
  private readonly canvas = document.createElement('canvas');
  private stream: MediaStream | null = null;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private number = 0;
  private out = 0;
  private last = 0;
  private closed = false;

  constructor(
    private values: LiveValues,
    private readonly on: LiveListener,
  ) {
    this.video.muted = true;
    this.video.playsInline = true;
    void this.begin();
  }

  set(values: LiveValues): void {
    this.values = values;
  }

  free(_frame: LiveFrame): void {
    this.out--;
  }

  close(): void {
    this.closed = true;
    clearTimeout(this.timer);
    this.stop();
  }

  private stop(): void {
    for (const track of this.stream?.getTracks() ?? []) {
      track.onended = null;
      track.stop();
    }
    this.stream = null;
    this.video.srcObject = null;
  }

  private async begin(): Promise<void> {
    const { mediaDevices } = navigator as { mediaDevices?: MediaDevices };
    if (!mediaDevices) {
      this.on.state({ is: 'gone', why: 'Cameras cannot be used here.', hint: 'Open the page on localhost or over TLS.', again: false });
      return;
    }
    try {
      const stream = await mediaDevices.getUserMedia({ video: { width: { ideal: WIDTH }, frameRate: { ideal: 30 } }, audio: false });
      if (this.closed) {
        for (const track of stream.getTracks()) track.stop();
        return;
      }
      this.stream = stream;
      for (const track of stream.getTracks()) track.onended = () => this.lost('The camera was taken away.', 'It is looked for again by itself.');
      this.video.srcObject = stream;
      await this.video.play();
      this.on.state({ is: 'running' });
      this.wait();
    } catch (error) {
      const [why, hint] = REASONS[error instanceof Error ? error.name : ''] ?? ['The camera cannot be opened.', 'It is tried again by itself.'];
      this.lost(why, hint);
    }
  }

  private lost(why: string, hint: string): void {
    if (this.closed) return;
    this.stop();
    this.on.state({ is: 'gone', why, hint, again: true });
    this.timer = setTimeout(() => void this.begin(), AGAIN_MS);
  }

  private wait(): void {
    this.video.requestVideoFrameCallback(() => {
      if (this.closed || !this.stream) return;
      this.take();
      this.wait();
    });
  }

  private take(): void {
    const at = clock();
    // a camera may bring more than is wanted
    if (this.out >= MOST || at - this.last < 1000 / Number(this.values.rate ?? 30) - 4) return;
    this.last = at;
    const { videoWidth, videoHeight } = this.video;
    if (videoWidth === 0) return;
    const width = Math.min(WIDTH, videoWidth);
    const height = Math.max(2, Math.round((videoHeight * width) / videoWidth));
    if (this.canvas.width !== width || this.canvas.height !== height) Object.assign(this.canvas, { width, height });
    const context = this.canvas.getContext('2d', { willReadFrequently: true, alpha: false })!;
    context.drawImage(this.video, 0, 0, width, height);
    const { data } = context.getImageData(0, 0, width, height);
    this.out++;
    const bytes = new Uint8Array(data.buffer);
    const number = this.number++;
    this.on.frame({ id: number, number, at, raster: { width, height, channels: 4, data: bytes, opaque: true }, nearness: null, channels: {} });
  }
}

/** The computer's own camera: it sees no depth, which is estimated as it comes. */
export const cameraSource = defineSource({
  kind: 'camera',
  label: 'This computer’s camera',
  help: 'It sees no depth: that is estimated from its picture, as often as the machine allows',
  params: {
    rate: perSecond({
      label: 'Rate',
      decimals: 0,
      step: 1,
      min: 5,
      max: 30,
      lowest: 1,
      highest: 60,
      default: 30,
      help: 'Pictures a second at the most',
    }),
  },
  size: { width: WIDTH, height: 360 },
  channels: [],
  open: (values, on) => new OwnCamera(values, on),
});
