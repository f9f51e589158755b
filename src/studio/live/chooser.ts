import { isTimed, playedRange } from '../../core/document/driven';
import { numberChosen, shotOfChoice, type Seen } from '../../core/document/chosen';
import type { Chosen, Settings, Shot } from '../../core/document/schema';
import { signalsOf } from '../../core/document/signals';
import { contentKey } from '../../core/key';
import { signalDrive, type SignalDrive } from '../../core/values/drives/signal';
import type { Size } from '../../core/picture';
import { engine, type Job } from '../../engine/pool/engine';
import type { PlayedFrame, ViewSpec } from '../../engine/messages/protocol';
import { keepMade, letGoMade } from '../state/liveStore';
import { ofStills } from '../state/player';
import { requestOf } from '../state/previewLoop';
import { OtherShot } from './otherShot';

/** The signal that chooses, as one that drives. */
export const driveOf = ({ signal }: Chosen): SignalDrive => ({ kind: signalDrive.kind, signal });

/** What is shown in place of the live shot as it is set. */
export interface Now extends Seen {
  /** its place in the list, and since when it is shown, s */
  readonly place: number;
  readonly since: number;
}

/** What is shown, in words. */
export const nameOf = ({ shot, own, choice: { take } }: Pick<Now, 'shot' | 'own' | 'choice'>): string => {
  const taken = shot.takes.find((t) => t.id === take)?.name;
  return [...(own ? [] : [shot.name]), ...(taken === undefined ? [] : [`take ${taken}`])].join(', ');
};

interface Places {
  /** the live shot as it is; null where it was left */
  live(): Shot | null;
  /** the shots of its project */
  shots(): readonly Shot[];
  /** px at which a shot is looked at, and what of it is */
  size(shot: Shot): Size;
  view(shot: Shot): ViewSpec;
  /** settings with what their signals give */
  heard(settings: Settings): Settings;
  /** by how much a picture of so many px is to be smaller, each side, so that the machine keeps up */
  share(pixels: number): number;
}

/** What is worked out of settings, which do not change, is worked out once: it is asked for with every picture that arrives. */
const keys = new WeakMap<Settings, { readonly plate: Shot['plate']; readonly key: string }>();
const signals = new WeakMap<Settings, readonly SignalDrive[]>();

/** By which the files that a shot needs are told from those of others. */
function filesKey({ id, plate, settings }: Shot): string {
  const known = keys.get(settings);
  if (known?.plate === plate) return known.key;
  const key = contentKey([id, plate, settings.layers, settings.effects, settings.camera.backdrop]);
  keys.set(settings, { plate, key });
  return key;
}

function signalsIn(settings: Settings): readonly SignalDrive[] {
  const known = signals.get(settings) ?? signalsOf(settings);
  signals.set(settings, known);
  return known;
}

/**
 * What a signal chooses to be shown on a live shot: one of its takes, or another shot. All of the others are brought to the workers, and the
 * pictures of those that rest are made ahead and kept, so that they are there at once.
 */
export class Chooser {
  private chosen: Chosen | undefined;
  private readonly others = new Map<string, OtherShot>();
  private readonly kept = new Map<number, { readonly key: string; readonly made: PlayedFrame }>();
  /** counts changes of the list: what was begun before one is not kept after it */
  private lists = 0;
  private place = -1;
  private since = 0;

  constructor(private readonly where: Places) {}

  close(): void {
    this.set(undefined);
  }

  /** There is something else to choose from. */
  set(chosen: Chosen | undefined): void {
    const same = chosen?.among === this.chosen?.among;
    this.chosen = chosen;
    if (same) return;
    this.lists++;
    // another may stand at its place now
    this.place = -1;
    for (const { made } of this.kept.values()) letGoMade(made);
    this.kept.clear();
    const wanted = new Map(this.seen().flatMap((seen) => (seen && !seen.own ? [[filesKey(seen.shot), seen.shot] as const] : [])));
    for (const [key, other] of this.others)
      if (!wanted.has(key)) {
        other.close();
        this.others.delete(key);
      }
    for (const [key, shot] of wanted) {
      if (this.others.has(key)) this.warm(key);
      else this.others.set(key, new OtherShot(key, shot, () => this.warm(key)));
    }
  }

  /** Every signal that has a hand in what may be shown besides those of the shot itself: the one that chooses first. */
  drives(): readonly SignalDrive[] {
    return this.chosen ? [driveOf(this.chosen), ...this.seen().flatMap((s) => (s ? signalsIn(s.shot.settings) : []))] : [];
  }

  /** What is shown by what signals give at a time, s; null: the live shot as it is set, or what is chosen is gone or not there yet. */
  now(gives: (drive: SignalDrive) => number | null, seconds: number): Now | null {
    const seen = this.seen();
    if (seen.length === 0 || !this.chosen) return null;
    const place = numberChosen(gives(driveOf(this.chosen)), seen.length);
    if (place !== this.place) [this.place, this.since] = [place, seconds];
    const found = seen[place];
    return found && (found.own || this.others.get(filesKey(found.shot))?.ready) ? { ...found, place, since: this.since } : null;
  }

  /**
   * The picture of another shot at a time, s: the one that is kept, where it rests and nothing has changed in it; what moves goes by its own
   * time since it is shown, as large as the machine keeps up with. `pixels`: of one that is made for this time alone.
   */
  make({ place, shot, since }: Now, seconds: number): { readonly job: Job<PlayedFrame>; readonly pixels: number | null } {
    const { from, to } = playedRange(shot.settings);
    const { fps } = shot.settings.time;
    const given = ofStills(this.others.get(filesKey(shot))?.given ?? {});
    const [moves, view, whole] = [isTimed(shot), this.where.view(shot), this.where.size(shot)];
    const seen = { ...shot, settings: this.where.heard(shot.settings) };
    if (moves) {
      const share = this.where.share(whole.width * whole.height);
      const size = { width: Math.max(16, Math.round(whole.width * share)), height: Math.max(16, Math.round(whole.height * share)) };
      const frame = from + (Math.floor(Math.max(0, seconds - since) * fps) % (to - from + 1));
      return { job: engine().frame(requestOf(seen, size, { frame, fps }), given, view), pixels: size.width * size.height };
    }
    const request = requestOf(seen, whole, { frame: from, fps });
    const key = contentKey([request, given, view]);
    const kept = this.kept.get(place);
    if (kept?.key === key) return { job: { done: Promise.resolve(kept.made), cancel: () => undefined }, pixels: null };
    const job = engine().frame(request, given, view);
    const list = this.lists;
    const done = job.done.then((made) => {
      if (!made || list !== this.lists) return made;
      const before = this.kept.get(place);
      if (before) letGoMade(before.made);
      keepMade(made);
      this.kept.set(place, { key, made });
      return made;
    });
    return { job: { done, cancel: () => job.cancel() }, pixels: null };
  }

  private seen(): readonly (Seen | null)[] {
    const live = this.where.live();
    if (!live || !this.chosen) return [];
    const shots = this.where.shots();
    return this.chosen.among.map((choice) => shotOfChoice(choice, live, shots));
  }

  private warm(key: string): void {
    this.seen().forEach((seen, place) => {
      if (seen && !seen.own && filesKey(seen.shot) === key && this.others.get(key)?.ready && !isTimed(seen.shot))
        // its failing is said when it is shown
        this.make({ ...seen, place, since: 0 }, 0).job.done.catch(() => undefined);
    });
  }
}
