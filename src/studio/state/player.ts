import { create } from 'zustand';
import { Bounded } from '../../core/bounded';
import type { Shot } from '../../core/document/schema';
import { addressOfFile } from '../../core/need/need';
import { isTimed, playedRange } from '../../core/document/driven';
import { contentKey } from '../../core/key';
import type { Size } from '../../core/picture';
import { engine, type Job } from '../../engine/pool/engine';
import { closePictures, FINISHED } from '../../engine/messages/pictures';
import type { ViewSpec, Given, PlayedFrame } from '../../engine/messages/protocol';
import { notifyError } from '../notices/noticeStore';
import { requestOf } from './previewLoop';

/** All frames together, bytes; where they would be more, each is smaller, and of a long shot only those that come next are kept. */
const MOST_BYTES = 128e6;
const SMALLEST = 0.25;
/** So long nothing changes before frames are made ahead, ms. */
const REST_MS = 500;
/** So many are made then, and the others once nothing has changed for longer: whoever goes on working needs the processors, and plays none of them. */
const FIRST_AHEAD = 24;
const LONGER_REST = 8;

/** The frames of a range from the playhead on, round its end, so many at the most. */
export function framesAhead({ from, to }: { readonly from: number; readonly to: number }, playhead: number, most: number): readonly number[] {
  const n = to - from + 1;
  const start = Math.min(to, Math.max(from, playhead)) - from;
  return Array.from({ length: Math.max(0, Math.min(n, most)) }, (_, k) => from + ((start + k) % n));
}

/** What was given for the whole shot: workers read the frames of clips by themselves. */
export const ofStills = (given: Given): Given => Object.fromEntries(Object.entries(given).filter(([key]) => !key.includes('@')));

/** What is played: frames of one state of a shot, made ahead from the playhead on. */
export class Player {
  /** told whenever there is one frame more, or none any more; `perPixel`: how long a pixel of a frame takes, ms */
  readonly store = create<{ ready: number; of: number; perPixel: number }>()(() => ({ ready: 0, of: 0, perPixel: 0 }));
  /** those that come next stay, of the others as many as there is room for */
  private readonly frames = new Bounded<PlayedFrame, number>({ limit: 0, onGone: closePictures });
  private key = '';
  /** what is being made is waited for */
  private urgent = false;
  private job: Job<true> | null = null;
  private timer: ReturnType<typeof setTimeout> | null = null;
  private wanted: { readonly shot: Shot; readonly given: Given; readonly size: Size; readonly view: ViewSpec } | null = null;
  /** only the first frames are made so far */
  private first = true;
  /** something is worked out that would change every frame */
  private waits = false;

  constructor(
    private readonly playhead: () => number,
    private readonly rest = REST_MS,
    private readonly firstAhead = FIRST_AHEAD,
  ) {}

  /** The pictures of a frame, if it has been made. */
  at(frame: number): PlayedFrame | null {
    return this.frames.get(frame) ?? null;
  }

  has(frame: number): boolean {
    return this.frames.has(frame);
  }

  /** A state of the shot, and how it is looked at: what was made of another is let go, and frames of this one are made once it has come to rest. */
  update(shot: Shot, given: Given, box: Size, stamp = 0, view = FINISHED): void {
    if (!isTimed(shot)) {
      this.clear();
      return;
    }
    const { from, to } = playedRange(shot.settings);
    const count = to - from + 1;
    const shrink = Math.min(1, Math.max(SMALLEST, Math.sqrt(MOST_BYTES / (count * view.parts.length * 4 * box.width * box.height))));
    // rounded down, so that they all fit
    const size = { width: Math.max(1, Math.floor(box.width * shrink)), height: Math.max(1, Math.floor(box.height * shrink)) };
    const { time, ...looks } = shot.settings;
    const key = contentKey(addressOfFile(shot.plate), looks, time.length, time.fps, given, size, stamp, view.parts, view.colours, view.hues !== null);
    if (key !== this.key) {
      this.clear();
      this.key = key;
      this.first = true;
    }
    // hues that lay over what was seen first lie over all of it
    const hues = this.wanted?.view.hues ?? view.hues;
    this.wanted = { shot, given, size, view: { ...view, hues } };
    if (!this.job && !this.complete()) this.begin();
  }

  /** Whether the whole clip is being worked on: frames made meanwhile would be void when that is done, and hold it up. Whoever waits for them gets them all the same. */
  wait(waits: boolean): void {
    if (waits === this.waits) return;
    this.waits = waits;
    if (!this.wanted || this.urgent) return;
    if (!waits) {
      if (!this.complete()) this.begin();
      return;
    }
    this.job?.cancel();
    this.job = null;
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
  }

  /** Frames are made once nothing has changed for a while. */
  private begin(): void {
    if (this.timer) clearTimeout(this.timer);
    const rest = this.first ? this.rest : LONGER_REST * this.rest;
    this.timer = this.waits ? null : setTimeout(() => this.fill(), rest);
    this.tell();
  }

  clear(): void {
    this.job?.cancel();
    this.job = null;
    this.urgent = false;
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
    this.key = '';
    this.wanted = null;
    this.frames.clear();
    this.tell();
  }

  /** Somebody waits for the frames: begins at once, with all that there is. */
  hurry(): void {
    if (this.urgent || !this.wanted || this.complete()) return;
    this.job?.cancel();
    this.fill(true);
  }

  private range(): { from: number; to: number } {
    return this.wanted ? playedRange(this.wanted.shot.settings) : { from: 0, to: -1 };
  }

  /** The frames that are to be there: of a long range those that come next, as many as may be kept. */
  private ahead(): readonly number[] {
    const { size, view } = this.wanted ?? { size: { width: 1, height: 1 }, view: FINISHED };
    return framesAhead(this.range(), this.playhead(), Math.max(2, Math.floor(MOST_BYTES / (4 * view.parts.length * size.width * size.height))));
  }

  private complete(): boolean {
    return this.ahead().every((f) => this.frames.has(f));
  }

  private tell(): void {
    const { from, to } = this.range();
    let ready = 0;
    for (const f of this.frames.keys()) if (f >= from && f <= to) ready++;
    this.store.setState({ ready, of: to - from + 1 });
  }

  private fill(urgent = false): void {
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
    this.urgent = urgent;
    const { wanted } = this;
    if (!wanted) return;
    const asked = new Set<number>();
    let began = performance.now();
    const most = this.first && !urgent ? this.firstAhead : Infinity;
    const next = (): number | null => this.ahead().find((f, n) => n < most && !asked.has(f) && !this.frames.has(f)) ?? null;
    const job = engine().frames(
      () => {
        const frame = next();
        if (frame === null) return null;
        asked.add(frame);
        const { shot, size, given, view } = wanted;
        return { frame, shot: requestOf(shot, size, { frame, fps: shot.settings.time.fps }), given, view };
      },
      (frame, made) => {
        const ahead = this.ahead();
        this.frames.keep(new Set(ahead), ahead.length);
        this.frames.set(frame, made);
        const took = (performance.now() - began) / (wanted.size.width * wanted.size.height);
        began = performance.now();
        // the first one also made the plate ready
        if (this.frames.size > 1 && made.picture)
          this.store.setState(({ perPixel }) => ({ perPixel: perPixel > 0 ? 0.8 * perPixel + 0.2 * took : took }));
        this.tell();
      },
      urgent,
    );
    this.job = job;
    job.done.catch(notifyError).finally(() => {
      if (this.job !== job) return;
      this.job = null;
      this.urgent = false;
      if (!this.first) return;
      this.first = false;
      if (this.wanted && !this.complete()) this.begin();
    });
  }
}
