import { distanceOf, nearnessOf } from '../../core/depth/calibrate';
import { calibrationOf, storedFar } from '../../core/document/defaults';
import type { LivePlate, Shot } from '../../core/document/schema';
import { isTimed, onlySignals } from '../../core/document/driven';
import { signalsOf } from '../../core/document/signals';
import { engine, type Job } from '../../engine/pool/engine';
import type { PlayedFrame } from '../../engine/messages/protocol';
import { clock } from '../../live/arrival';
import type { LiveFeed, LiveFrame, LiveState } from '../../live/definition';
import { liveSources } from '../../live/registry';
import { notifyError } from '../notices/noticeStore';
import { amendShot, shotOf, useDocument } from '../state/documentStore';
import { asArrived, NOT_LIVE, showLive, useLive } from '../state/liveStore';
import { lookedAt, requestOf } from '../state/previewLoop';
import { viewOut } from '../state/viewOut';
import { session } from '../state/session';
import { useSession } from '../state/sessionStore';
import { showOut } from '../state/showOut';
import { useView } from '../state/viewStore';
import { Chooser, nameOf } from './chooser';
import { Glances } from './glances';
import { keepPicture } from './keepPicture';
import { givenOf, sizeOf } from './givenOf';
import { LiveEstimates } from './liveEstimates';
import { LiveLoop } from './liveLoop';
import { OtherChannels } from './otherChannels';
import { Pace } from './pace';
import { Readers } from './readers';
import { Recording } from './recording';
import { SignalRunner } from './signalRunner';

/** Every how often the rail, the probe and clicks are told what is seen, ms, and figures and channels are. */
const GLANCE_MS = 1500;
const TELL_MS = 250;

let runs = 0;

/** A live plate while its shot is open: pictures arrive, are rendered and shown, the newest first; they can be frozen and recorded. */
export class LiveRun {
  private readonly id = ++runs;
  readonly source: string;
  private readonly feed: LiveFeed;
  private readonly pace = new Pace();
  private readonly signals = new SignalRunner();
  private readonly estimates = new LiveEstimates(`live${this.id}`);
  private readonly recording: Recording;
  private readonly chooser = new Chooser({
    live: () => this.shot(),
    shots: () => useDocument.getState().project?.shots ?? [],
    size: (shot) => session().viewSize(shot),
    view: viewOut,
    heard: (settings) => this.signals.settings(settings),
    share: (pixels) => this.pace.shareFor(pixels, engine().hands),
  });
  private readonly others = new OtherChannels((channels) => this.hear(channels, clock()));
  private readonly begun = clock();
  private readonly glances = new Glances(this.estimates);
  private readonly readers = new Readers((frame) => this.feed.free(frame));
  private readonly timers: ReturnType<typeof setInterval>[] = [];
  /** px of what was made of pictures, and what was chosen to be shown, by name */
  private readonly sizes = new WeakMap<LiveFrame, number>();
  private readonly names = new WeakMap<LiveFrame, string>();
  /** why its source has gone; null where it has not */
  private gone: { readonly why: string; readonly hint: string } | null = null;
  /** by whom it stands: somebody, or since its source has gone */
  private frozen: 'hand' | 'loss' | null = null;
  private closed = false;
  private loop = this.newLoop();
  private stopSession: () => void = () => undefined;

  constructor(
    private readonly projectId: string,
    private readonly shotId: string,
    { source, values, hears, chosen }: LivePlate,
  ) {
    this.source = source;
    this.recording = new Recording(projectId, shotId);
    useLive.getState().set({ ...NOT_LIVE, is: 'waiting', toggle: () => this.toggle() });
    this.feed = liveSources.named(source).open(values, {
      frame: (frame) => this.arrive(frame),
      heard: (channels, at) => this.hear(channels, at),
      state: (state) => this.state(state),
    });
    this.others.set(hears);
    this.chooser.set(chosen);
    this.timers.push(
      setInterval(() => this.tell(), TELL_MS),
      setInterval(() => this.glance(), GLANCE_MS),
    );
    // what was frozen is shown until it has a picture of its own
    this.stopSession = useSession.subscribe(({ settling }) => {
      if (!settling && this.frozen !== null) showLive(null);
    });
  }

  set({ values, hears, chosen }: LivePlate): void {
    this.feed.set(values);
    this.others.set(hears);
    this.chooser.set(chosen);
  }

  close(): void {
    this.closed = true;
    for (const timer of this.timers) clearInterval(timer);
    this.stopSession();
    this.loop.close();
    this.estimates.close();
    this.others.close();
    this.chooser.close();
    void this.recording.stop();
    this.feed.close();
    this.glances.close();
    showLive(null);
    useLive.getState().set(NOT_LIVE);
  }

  /** Freezes what is seen, or goes on. */
  toggle(): void {
    // without a source there is nothing to go on with
    if (this.gone) return;
    if (this.frozen === null) void this.freeze('hand');
    else this.goOn();
  }

  /** Begins to record, or ends it and makes a clip of it. */
  record(): void {
    const shot = this.shot();
    if (this.recording.goesOn || !shot) void this.recording.stop();
    else this.recording.begin(shot, this.pace.ownRate);
  }

  private shot(): Shot | null {
    const state = useDocument.getState();
    return state.project?.id === this.projectId && state.shotId === this.shotId ? shotOf(state) : null;
  }

  /** What is seen becomes the plate's own picture. */
  private async freeze(by: 'hand' | 'loss'): Promise<void> {
    this.frozen = by;
    const { loop } = this;
    const last = loop.shown;
    // what is still being made would be shown after the picture that is kept
    loop.close();
    if (last) {
      this.readers.read(last);
      await keepPicture(this.projectId, this.shotId, last.raster).catch(notifyError);
      this.readers.free(last);
    }
    // it may have gone on meanwhile, or its source have gone after all
    if (this.closed || this.frozen === null || loop !== this.loop) return;
    this.endLoop();
    useLive.getState().set({ is: this.gone ? 'gone' : 'frozen', glance: null });
  }

  private goOn(): void {
    this.frozen = null;
    this.endLoop();
    this.loop = this.newLoop();
    useLive.getState().set({ is: 'waiting', why: '', hint: '' });
  }

  private endLoop(): void {
    const { shown } = this.loop;
    this.loop.close();
    if (shown) this.readers.free(shown);
  }

  private state(state: LiveState): void {
    if (this.closed) return;
    if (state.is === 'gone') {
      this.gone = { why: state.why, hint: state.hint };
      useLive.getState().set(this.gone);
      if (this.frozen === null) void this.freeze('loss');
      else useLive.getState().set({ is: 'gone' });
    } else if (this.gone) {
      // it came back by itself; what somebody froze stays so
      this.gone = null;
      if (this.frozen === 'hand') useLive.getState().set({ is: 'frozen', why: '', hint: '' });
      else this.goOn();
    }
  }

  private hear(channels: LiveFrame['channels'], at: number): void {
    const shot = this.shot();
    if (shot) this.signals.hear(channels, at / 1000, [...signalsOf(shot.settings), ...this.chooser.drives()]);
    this.channels = { ...this.channels, ...channels };
  }
  private channels: LiveFrame['channels'] = {};

  private arrive(frame: LiveFrame): void {
    this.readers.take(frame);
    this.pace.arrive(frame.number, frame.at);
    this.hear(frame.channels, frame.at);
    if (frame.ends) this.takeEnds(frame.ends);
    this.others.frame(frame, (nearness) => this.metresOf(nearness));
    if (this.recording.goesOn) {
      this.readers.read(frame);
      void this.recording.add(frame, this.channels).finally(() => this.readers.free(frame));
    }
    if (this.frozen !== null || this.closed || !this.shot()) {
      this.readers.free(frame);
      return;
    }
    this.loop.take(frame);
  }

  /** The ends of a device's depth, where nobody has given others. */
  private takeEnds({ near, far }: NonNullable<LiveFrame['ends']>): void {
    if (this.shot()?.settings.calibration.scaled !== false) return;
    amendShot((shot) => void Object.assign(shot.settings.calibration, { near, far: storedFar(far), scaled: true }));
  }

  private metresOf(nearness: number): number {
    const shot = this.shot();
    if (!shot) return Infinity;
    const calibration = calibrationOf(shot.settings.calibration);
    return distanceOf(nearnessOf(nearness, calibration), calibration);
  }

  private keyOf({ id }: LiveFrame): string {
    return `live${this.id}-${id}`;
  }

  private newLoop(): LiveLoop {
    return new LiveLoop({
      hands: () => engine().hands,
      make: (frame) => this.make(frame),
      show: (frame, made, milliseconds) => this.show(frame, made, milliseconds),
      free: (frame) => this.readers.free(frame),
      failed: notifyError,
    });
  }

  private make(frame: LiveFrame): Job<PlayedFrame> {
    const open = this.shot();
    // the shot was left meanwhile
    if (!open) return { done: Promise.resolve(null), cancel: () => undefined };
    const now = this.chooser.now((drive) => this.signals.now(drive), frame.at / 1000);
    this.names.set(frame, now && now.shot !== open ? nameOf(now) : '');
    if (now && !now.own) {
      const { job, pixels } = this.chooser.make(now, frame.at / 1000);
      if (pixels !== null) this.sizes.set(frame, pixels);
      return job;
    }
    const [key, looked] = [this.keyOf(frame), lookedAt(now?.shot ?? open)];
    const shot = { ...looked, settings: this.signals.settings(looked.settings) };
    const given = givenOf(key, frame, shot, this.estimates);
    const whole = session().viewSize(open);
    // what is larger than the picture that arrives shows nothing more
    const fits = Math.min(1, Math.sqrt((frame.raster.width * frame.raster.height) / (whole.width * whole.height)));
    const share = fits * this.pace.shareFor(fits * fits * whole.width * whole.height, engine().hands);
    const size = { width: Math.max(16, Math.round(whole.width * share)), height: Math.max(16, Math.round(whole.height * share)) };
    this.sizes.set(frame, size.width * size.height);
    const { fps, length } = shot.settings.time;
    // a device's clock may be a little behind
    const begun = now && now.shot !== open ? 1000 * now.since : this.begun;
    const at = { frame: Math.floor((Math.max(0, frame.at - begun) / 1000) * fps) % length, fps };
    if (isTimed(open) && !onlySignals(open.settings)) useView.getState().set({ frame: at.frame });
    const request = requestOf(asArrived(shot, { key, ...sizeOf(frame.raster) }), size, at);
    const brought = { key, raster: frame.raster, map: frame.nearness };
    return engine().frame(request, { ...useSession.getState().given, ...given }, viewOut(open), brought);
  }

  private show(frame: LiveFrame, made: PlayedFrame, milliseconds: number): void {
    showLive(made);
    showOut(made.picture);
    this.pace.show(Math.max(0, clock() - frame.at), milliseconds, this.sizes.get(frame) ?? null);
    const { is, glance, shows } = useLive.getState();
    const name = this.names.get(frame) ?? '';
    if (name !== shows) useLive.getState().set({ shows: name });
    if (is === 'waiting') useLive.getState().set({ is: 'running', why: '', hint: '' });
    if (!glance) this.glance();
  }

  /** What is seen now is told to the rail, the probe and clicks. */
  private glance(): void {
    const frame = this.loop.shown;
    const shot = this.shot();
    if (frame && shot && this.frozen === null && useLive.getState().is === 'running') this.glances.take(this.keyOf(frame), frame, shot);
  }

  private tell(): void {
    const shown = this.loop.shown;
    const size = shown ? sizeOf(shown.raster) : null;
    useLive.getState().set({
      figures: this.pace.figures(this.loop.overtaken, size),
      channels: this.channels,
      signals: this.signals.values(),
      recording: this.recording.figures(),
    });
  }
}
