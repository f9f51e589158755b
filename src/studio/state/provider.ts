import type { Layer, Shot } from '../../core/document/schema';
import { describeError } from '../../core/error';
import { hasCamera } from '../../core/path/path';
import { qualities, QUICKEST } from '../../core/need/estimators';
import { depthSeries, fileOf, frameAt, givesPlane, needKey, ofClip, stillNeed, type EstimateNeed, type Need } from '../../core/need/need';
import type { Plane } from '../../core/picture';
import { layerMapNeed, layerNeeds, needsOf, usedLayers } from '../../core/shot/needs';
import { START, type Moment } from '../../core/values/moment';
import { engine, type Job } from '../../engine/pool/engine';
import { provideNetworkFiles } from '../../engine/pool/ownNetworks';
import type { HeldKind, HeldKinds } from '../../engine/messages/holdings';
import type { Loading, Sources, Work } from '../../engine/pool/loaders/definition';
import { runEstimate } from '../../engine/pool/loaders/estimate';
import { load } from '../../engine/pool/loaders/registry';
import type { ReadMap } from '../../engine/messages/protocol';
import type { Database } from '../../store/database';
import { levelled } from '../../formats/maps/packedPlane';
import { getMap, getMedia, putMap } from '../../store/media';
import { getNetwork } from '../../store/networks';
import { notify } from '../notices/noticeStore';
import { momentOf } from './shotNow';
import { progressOf, useSession } from './sessionStore';

/** What the workers hold for a need: frames of clips are read by themselves, from the clip's file. */
export const heldFor = (need: Need, key = needKey(need)): [HeldKind, string] => {
  if (need.is === 'estimate') return ['map', key];
  if (ofClip(need)) return ['clip', fileOf(need).sha256];
  return [need.is === 'raster' ? 'raster' : 'map', key];
};

/** The estimate that others are compared with. */
export const draftOf = ({ plate }: Shot, at: Moment): EstimateNeed => ({ is: 'estimate', of: plate, frame: frameAt(plate, at), quality: QUICKEST });

/** What loaders read from and keep to in this browser; `recalled`: maps that are being read already, each taken once. */
export const sourcesOf = (db: Database, recalled = new Map<string, Promise<Plane | null>>()): Sources => ({
  file: (ref) => getMedia(db, ref),
  kept: async (key, of) => {
    if (of?.of.clip) return (await import('../../media/clipStore')).keptFrame(depthSeries(of), of.frame);
    const coming = recalled.get(key) ?? getMap(db, key);
    recalled.delete(key);
    return coming;
  },
  keep: async (key, plane, of) => {
    if (!of?.of.clip) return putMap(db, key, plane);
    await (await import('../../media/clipStore')).keepFrame(depthSeries(of), of.frame, plane);
    engine().framesChanged();
  },
});

/** Sees to it that the workers hold what the open shot needs from files: each need has a loader of its own sort. */
export class Provider {
  /** needs that are being seen to, or were: the number of the last time; an answer to an older one is not wanted any more */
  private readonly asked = new Map<string, number>();
  private readonly jobs = new Map<string, Job<Plane>>();
  /** estimates that somebody asked for by name: no change of the shot stops them */
  private readonly byHand = new Set<string>();
  private readonly drafts = new Map<string, Promise<string | null>>();
  private readonly recalled = new Map<string, Promise<Plane | null>>();
  private times = 0;
  private rounds = 0;
  private closed = false;
  private readonly sources: Sources;

  constructor(
    private readonly db: Database,
    /** something arrived */
    private readonly arrived: () => void,
  ) {
    provideNetworkFiles((use) => getNetwork(db, use));
    this.sources = sourcesOf(db, this.recalled);
  }

  close(): void {
    this.closed = true;
    for (const job of this.jobs.values()) job.cancel();
  }

  /** Begins to read the estimates of a shot that are kept. */
  recall(shot: Shot): void {
    for (const need of needsOf(shot)) {
      if (need.is !== 'estimate' || need.of.clip) continue;
      const coming = getMap(this.db, needKey(need));
      coming.catch(() => undefined);
      this.recalled.set(needKey(need), coming);
    }
  }

  /** Brings what the shot needs besides its plate. */
  async provide(shot: Shot, at?: Moment): Promise<void> {
    const plate = needKey(stillNeed(shot.plate));
    // a clip has other frames in a moment: what is not seen of it is not brought
    const seen = shot.plate.clip ? { ...shot, settings: { ...shot.settings, layers: [...usedLayers(shot.settings)] } } : shot;
    // a camera's path is judged by the depth of the first frame
    const first = at && at.frame !== 0 && hasCamera(shot.settings) ? needsOf(seen, { ...at, frame: 0 }).filter(givesPlane) : [];
    const here = needsOf(seen, at);
    const keys = new Set(here.map(needKey));
    const needs = [...here, ...first.filter((need) => !keys.has(needKey(need)))].filter((need) => needKey(need) !== plate);
    this.keep(shot, needs);
    const estimates = needs.filter((need) => need.is === 'estimate');
    const files = needs.filter((need) => need.is !== 'estimate').map((need) => this.see(need));
    // files are read in a moment and estimates take their time: on few workers the files come first
    const round = ++this.rounds;
    const rest = Promise.allSettled(files).then(() => Promise.all(round === this.rounds ? estimates.map((need) => this.see(need)) : []));
    await Promise.all([...files, rest]);
  }

  /** What could not be had is tried again with the next `provide`. */
  forgive(): void {
    for (const key of Object.keys(useSession.getState().without)) this.asked.delete(key);
  }

  /** Maps of a clip's frames have changed: what was given of them is asked for again. */
  refreshFrames(shot: Shot): void {
    const { given, set } = useSession.getState();
    const series = shot.settings.layers
      .flatMap((l) => layerNeeds(l, shot.plate))
      .flatMap((n) => (n.is === 'kept' ? [n.series] : n.is === 'estimate' && n.of.clip ? [depthSeries(n)] : []));
    const old = Object.keys(given).filter((key) => series.some((s) => key === s || key.startsWith(`${s}@`)));
    for (const key of old) this.asked.delete(key);
    set({ given: Object.fromEntries(Object.entries(given).filter(([key]) => !old.includes(key))) });
  }

  /** Tells the engine what this shot works with, and stops what is made for needs that are gone. */
  private keep(shot: Shot, needs: readonly Need[]): void {
    const { given } = useSession.getState();
    engine().need([
      ['raster', needKey(stillNeed(shot.plate))],
      ...needs.flatMap((need): [HeldKind, string][] => {
        const key = given[needKey(need)];
        return key === undefined ? [] : [heldFor(need, key)];
      }),
    ]);
    const keys = new Set(needs.map(needKey));
    for (const key of this.asked.keys())
      if (!keys.has(key) && !this.byHand.has(key)) {
        this.asked.delete(key);
        this.jobs.get(key)?.cancel();
      }
    // what was found for other frames of a clip is read again by whoever needs it
    const rest = Object.fromEntries(Object.entries(given).filter(([key]) => keys.has(key) || !key.includes('@')));
    if (Object.keys(rest).length < Object.keys(given).length) useSession.getState().set({ given: rest });
  }

  /** Loads a need that is not there yet; one that was let go meanwhile is loaded again. */
  private async see(need: Need): Promise<void> {
    const key = needKey(need);
    const shown = useSession.getState().given[key];
    const held = engine().holds(...heldFor(need));
    if (shown === key ? held : this.asked.has(key)) return;
    // the workers may hold it from when another shot was open
    if (shown === undefined && held && !(need.is === 'estimate' && ofClip(need))) this.give(key, key);
    else await this.run(need, (loading) => load(need, loading));
  }

  /** Runs a loader for a need, as the newest answer to it. */
  private async run(need: Need, loader: (loading: Loading) => Promise<unknown>): Promise<void> {
    const key = needKey(need);
    const time = ++this.times;
    this.asked.set(key, time);
    this.jobs.get(key)?.cancel();
    const wanted = (): boolean => !this.closed && this.asked.get(key) === time;
    this.without(key, null);
    try {
      await loader({
        engine: engine(),
        sources: this.sources,
        wanted,
        hold: (kind, under, value) => this.hold(kind, under, value),
        given: (under) => this.give(key, under),
        without: (why) => this.without(key, why),
        watch: (work, begin) => this.watch(key, work, begin, wanted),
      });
    } catch (error) {
      if (!wanted()) return;
      if (useSession.getState().given[key] === undefined) this.without(key, 'missing');
      throw error;
    }
  }

  /** Shows what takes its time, with a way to stop it. */
  private async watch(
    key: string,
    { doing, stopped, hint }: Work,
    begin: (report: (share: number) => void) => Job<Plane>,
    wanted: () => boolean,
  ): Promise<Plane | null> {
    let canceled = false;
    const cancel = (): void => {
      canceled = true;
      job.cancel();
    };
    const progress = progressOf(doing, cancel, (estimating) => useSession.getState().set({ estimating }));
    const job = begin(progress.report);
    this.jobs.set(key, job);
    try {
      const plane = await job.done;
      if (!canceled) return plane;
      if (wanted()) notify({ kind: 'note', text: stopped, hint });
      return null;
    } finally {
      if (this.jobs.get(key) === job) this.jobs.delete(key);
      progress.end();
    }
  }

  /** Runs a layer's estimate anew, whatever has been kept. */
  async estimateAgain(shot: Shot, layer: Layer): Promise<void> {
    const found = layerMapNeed(layer, shot.plate, momentOf(shot));
    const need = found?.is === 'estimate' && found.of.clip ? { ...found, steady: undefined } : found;
    if (need?.is !== 'estimate') return;
    const key = needKey(need);
    this.byHand.add(key);
    try {
      await this.run(need, (loading) => runEstimate(need, loading));
    } finally {
      this.byHand.delete(key);
    }
  }

  /** A held estimate of the plate, or of a frame of one that is a clip, to compare with, made if there is none; its key. */
  comparison(shot: Shot, at: Moment = START): Promise<string | null> {
    const need = draftOf(shot, at);
    let coming = this.drafts.get(needKey(need));
    if (!coming) {
      coming = this.holdDraft(need);
      this.drafts.set(needKey(need), coming);
      // one that failed can be tried again
      coming.catch(() => this.drafts.delete(needKey(need)));
    }
    return coming;
  }

  private async holdDraft(need: EstimateNeed): Promise<string | null> {
    for (const quality of [...qualities].reverse()) {
      const way = { ...need, quality };
      const kept = await this.sources.kept(needKey(way), way);
      if (!kept) continue;
      this.hold('map', needKey(way), kept);
      return needKey(way);
    }
    const { of, frame } = need;
    const made = await engine().estimate({ is: 'raster', ref: of, frame }, need, () => undefined).done;
    if (!made) return null;
    const plane = of.clip ? levelled(made) : made;
    this.hold('map', needKey(need), plane);
    await this.sources.keep(needKey(need), plane, need);
    return needKey(need);
  }

  /** Reads a file as a map for the plate and holds it. */
  async readMap(shot: Shot, file: Blob, name: string, channel: string | null): Promise<ReadMap> {
    return engine().readMap(file, name, channel, shot.plate, await this.comparison(shot));
  }

  /** Hands something to the workers. Messages keep their order: whatever is asked of a worker from here on finds it there, so nobody waits. */
  private hold<K extends HeldKind>(kind: K, key: string, value: HeldKinds[K]): void {
    engine()
      .hold(kind, key, value)
      .catch((error: unknown) => notify({ kind: 'error', text: describeError(error), hint: 'Reload the page.' }));
  }

  private without(key: string, why: 'stopped' | 'missing' | null): void {
    const { without, set } = useSession.getState();
    if (this.closed || (without[key] ?? null) === why) return;
    const rest = Object.fromEntries(Object.entries(without).filter(([other]) => other !== key));
    set({ without: why ? { ...rest, [key]: why } : rest });
  }

  private give(key: string, under: string): void {
    if (this.closed) return;
    this.without(key, null);
    const { given, set } = useSession.getState();
    set({ given: { ...given, [key]: under } });
    this.arrived();
  }
}

/** The estimate that a layer shows at the moment: the careful one, the draft while that is on its way, or none. */
export function shownQuality(need: EstimateNeed, given: Readonly<Record<string, string>>): EstimateNeed['quality'] | null {
  const key = given[needKey(need)];
  return qualities.find((quality) => key === needKey({ ...need, quality })) ?? null;
}
