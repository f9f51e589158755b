import { create } from 'zustand';
import type { Settings, Shot } from '../../core/document/schema';
import { withSignalsNow } from '../../core/document/signals';
import type { SignalDrive } from '../../core/values/drives/signal';
import { closePictures } from '../../engine/messages/pictures';
import type { Given, PlayedFrame } from '../../engine/messages/protocol';
import type { Heard } from '../../live/definition';
import { useSession, type Progress } from './sessionStore';

/** A picture that arrived and is looked at: the name under which workers hold it, and its size. */
export interface Arrived {
  readonly key: string;
  readonly width: number;
  readonly height: number;
  /** what there is of what its layers need */
  readonly given: Given;
}

/** How pictures arrive, and are shown. */
export interface LiveFigures {
  /** pictures that arrived in the last second, and that were shown */
  readonly rate: number;
  readonly shown: number;
  /** how old the newest picture was when it was shown, ms */
  readonly age: number;
  /** how old nine of ten were at the most, of the last second's, ms */
  readonly oldest: number;
  /** pictures that never arrived, and that were overtaken by newer ones before they were shown */
  readonly lost: number;
  readonly overtaken: number;
  readonly size: { readonly width: number; readonly height: number } | null;
}

export const NO_FIGURES: LiveFigures = { rate: 0, shown: 0, age: 0, oldest: 0, lost: 0, overtaken: 0, size: null };

interface LiveState {
  /** off: the shot's plate does not arrive; frozen: it stands at the picture that was kept */
  readonly is: 'off' | 'waiting' | 'running' | 'frozen' | 'gone';
  readonly why: string;
  readonly hint: string;
  readonly figures: LiveFigures;
  /** channels as they are, some times a second */
  readonly channels: Heard;
  /** the name of what a signal chose to be shown in place of the shot as it is set; empty where it is that */
  readonly shows: string;
  /** what the signals of the shot give, by `signalKey` */
  readonly signals: Readonly<Record<string, number>>;
  /** what the rail, the probe and clicks see of it */
  readonly glance: Arrived | null;
  /** a recording that goes on */
  readonly recording: { readonly frames: number; readonly seconds: number; readonly missed: number } | null;
  /** a recording that is made a clip */
  readonly making: Progress | null;
  /** freezes, or goes on; null while nothing is live */
  readonly toggle: (() => void) | null;
  set(change: Partial<Omit<LiveState, 'set'>>): void;
}

export const NOT_LIVE = {
  is: 'off',
  why: '',
  hint: '',
  figures: NO_FIGURES,
  channels: {},
  shows: '',
  signals: {},
  glance: null,
  recording: null,
  making: null,
  toggle: null,
} as const;

/** The live plate of the open shot. */
export const useLive = create<LiveState>()((set) => ({ ...NOT_LIVE, set: (change) => set(change) }));

/** By which a signal is told from others: the same signal gives the same wherever it drives. */
export const signalKey = ({ signal }: SignalDrive): string => JSON.stringify(signal);

/** Settings with what their signals give at the moment. */
export function withSignalsHeard(settings: Settings, signals: LiveState['signals']): Settings {
  return Object.keys(signals).length === 0 ? settings : withSignalsNow(settings, (drive) => signals[signalKey(drive)] ?? null);
}

/** Whether pictures are arriving, and shown. */
export const liveRuns = (): boolean => useLive.getState().is === 'running';

/** Whether windows on show keep what they have: another shot was shown when the source went, and the picture that was kept is the live shot's. */
export const holdsChosen = (): boolean => {
  const { is, shows } = useLive.getState();
  return is === 'gone' && shows !== '';
};

let newest: PlayedFrame | null = null;

/** What is shown of the live plate; null where there is nothing. What was frozen is shown until its own picture has been made. */
export const liveShown = (): PlayedFrame | null =>
  liveRuns() || (useLive.getState().is !== 'off' && useSession.getState().settling) ? newest : null;

/** Pictures that somebody keeps to show them again. */
const kept = new WeakSet<PlayedFrame>();

/** A picture is kept to be shown again: showing another does not free it. */
export const keepMade = (made: PlayedFrame): void => void kept.add(made);

/** A picture that was kept is not shown again; where it is on screen it goes with the next one. */
export function letGoMade(made: PlayedFrame): void {
  kept.delete(made);
  if (made !== newest) closePictures(made);
}

/** Frees a picture that is not shown, unless somebody keeps it. */
export function freeMade(made: PlayedFrame): void {
  if (!kept.has(made)) closePictures(made);
}

/** Shows a picture in place of the one before. */
export function showLive(made: PlayedFrame | null): void {
  const before = newest;
  newest = made;
  if (before && before !== made) freeMade(before);
}

/** A shot whose plate is a picture that arrived: its layers that are of the plate are of that picture too. */
export function asArrived(shot: Shot, { key, width, height }: Omit<Arrived, 'given'>): Shot {
  const { plate, settings } = shot;
  const layers = settings.layers.map((l) => (l.media?.sha256 === plate.sha256 ? { ...l, media: { ...l.media, sha256: key, width, height } } : l));
  return { ...shot, plate: { ...plate, sha256: key, width, height }, settings: { ...settings, layers } };
}

/** The shot as what is read of it at a glance: with the picture that is seen, while pictures arrive. */
export function atGlance(shot: Shot): Shot {
  const { is, glance } = useLive.getState();
  return glance && is === 'running' && shot.plate.live ? asArrived(shot, glance) : shot;
}

/** What there is of what a shot needs, with what there is of the picture that is seen. */
export function givenAtGlance(given: Given): Given {
  const { is, glance } = useLive.getState();
  return glance && is === 'running' ? { ...given, ...glance.given } : given;
}
