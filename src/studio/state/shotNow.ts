import type { Shot } from '../../core/document/schema';
import { frameAt } from '../../core/need/need';
import { readAt, setOverTime } from '../../core/shot/settingsAt';
import type { Moment } from '../../core/values/moment';
import { useShot } from './documentStore';
import { useLive, withSignalsHeard } from './liveStore';
import { useView } from './viewStore';

/** The moment of a shot at a frame of it, the last one where it is shorter. */
const momentAt = ({ settings: { time } }: Shot, frame: number): Moment => ({ frame: Math.min(time.length - 1, frame), fps: time.fps });

/** The moment of a shot that is looked at. */
export const momentOf = (shot: Shot): Moment => momentAt(shot, useView.getState().frame);

/** What shots were read as last: many ask for the same. */
const read = new WeakMap<Shot, Moment & { readonly signals: object; readonly shot: Shot }>();

function shotAt(shot: Shot, at: Moment, signals = useLive.getState().signals): Shot {
  const found = read.get(shot);
  if (found?.frame === at.frame && found.fps === at.fps && found.signals === signals) return found.shot;
  const settings = readAt(withSignalsHeard(shot.settings, signals), at);
  const now = settings === shot.settings ? shot : { ...shot, settings };
  read.set(shot, { ...at, signals, shot: now });
  return now;
}

/** A shot as it is at the playhead, to be read and never written: driven numbers are what their drives make them. */
export const shotNow = (shot: Shot): Shot => shotAt(shot, momentOf(shot));

/** The open shot as it is at the playhead, to be read and never written. */
export function useShotNow(): Shot | null {
  const shot = useShot();
  const frame = useView((s) => (shot && setOverTime(shot.settings) ? s.frame : 0));
  const signals = useLive((s) => s.signals);
  return shot && shotAt(shot, momentAt(shot, frame), signals);
}

/** The frame of the plate's clip at the playhead; 0 of a still. */
export function useClipFrame(): number {
  const shot = useShot();
  return useView((s) => (shot ? frameAt(shot.plate, momentAt(shot, s.frame)) : 0));
}
