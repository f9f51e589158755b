import type { Layer, MediaRef, Shot } from '../../core/document/schema';
import { describeError } from '../../core/error';
import { importedContentSchema } from '../../core/depth/layers/imported';
import { layerOf } from '../../core/depth/layers/registry';
import type { Plane } from '../../core/raster/picture';
import { estimateKey, type Quality } from '../../core/estimate/key';
import { takeAhead } from '../../engine/ahead';
import { engine, type Job } from '../../engine/engine';
import type { HeldKind } from '../../engine/holdings';
import type { ReadMap } from '../../engine/protocol';
import { stillsOf } from '../../formats/projectMedia';
import type { Database } from '../../store/database';
import { getMap, getMedia, putMap } from '../../store/media';
import { progressOf, useSession } from './sessionStore';
import { notify } from '../controls/noticeStore';

/** The key of a map from a file: what is in the file, and how it is read. */
export function importedKey(layer: Pick<Layer, 'media' | 'content'>): string {
  const { channel, reading } = importedContentSchema.parse(layer.content ?? {});
  return `map:${layer.media?.sha256}:${channel ?? ''}:${reading}`;
}

/** The layer's quality of estimate. */
export const qualityOf = (layer: Layer): Quality => (layer.values.quality === 'draft' ? 'draft' : 'fine');

const keyOf = (shot: Shot, layer: Layer): string =>
  layerOf(layer.kind).source === 'media' ? importedKey(layer) : estimateKey(shot.plate.sha256, qualityOf(layer));

/** Sees to it that the workers hold what the layers of one shot need: estimates, maps from files, stills. */
export class Provider {
  /** what each layer was last provided with, or is being; an answer to anything older is not wanted any more */
  private readonly wanted = new Map<string, string>();
  private readonly jobs = new Map<string, Job<Plane>>();
  private readonly stills = new Map<string, Promise<void>>();
  private readonly drafts = new Map<string, Promise<string | null>>();
  private readonly recalled = new Map<string, Promise<Plane | null>>();
  private rounds = 0;
  private closed = false;

  constructor(
    private readonly db: Database,
    /** something arrived */
    private readonly arrived: () => void,
  ) {}

  close(): void {
    this.closed = true;
    for (const job of this.jobs.values()) job.cancel();
  }

  /** Begins to read the estimates of a shot that are kept. */
  recall(shot: Shot): void {
    for (const layer of shot.settings.layers) {
      if (layerOf(layer.kind).source !== 'estimate') continue;
      const key = keyOf(shot, layer);
      const coming = getMap(this.db, key);
      coming.catch(() => undefined);
      this.recalled.set(key, coming);
    }
  }

  async provide(shot: Shot): Promise<void> {
    this.keep(shot);
    const provide = (layer: Layer): Promise<void> => this.provideMap(shot, layer);
    const { layers } = shot.settings;
    const estimates = layers.filter((l) => layerOf(l.kind).source === 'estimate');
    const files = layers.filter((l) => !estimates.includes(l)).map(provide);
    const stills = stillsOf(shot.settings).map((ref) => this.provideStill(ref));
    // files are read in a moment and estimates take their time: on few workers the files come first
    const round = ++this.rounds;
    const rest = Promise.allSettled([...files, ...stills]).then(() => Promise.all(round === this.rounds ? estimates.map(provide) : []));
    await Promise.all([...files, ...stills, rest]);
  }

  /** What could not be had is tried again with the next `provide`. */
  forgive(): void {
    for (const id of Object.keys(useSession.getState().without)) this.wanted.delete(id);
  }

  /** Tells the engine what this shot works with, and stops what is made for layers that are gone. */
  private keep(shot: Shot): void {
    const { layers } = shot.settings;
    const { maps } = useSession.getState();
    const needed: [HeldKind, string][] = [['plate', shot.plate.sha256]];
    for (const { id } of layers) if (maps[id]) needed.push(['map', maps[id]]);
    for (const { sha256 } of stillsOf(shot.settings)) needed.push(['still', sha256]);
    engine().need(needed);
    for (const [id, job] of this.jobs)
      if (!layers.some((l) => l.id === id)) {
        this.wanted.delete(id);
        job.cancel();
      }
  }

  /** Hands something to the workers. Messages keep their order: whatever is asked of a worker from here on finds it there, so nobody waits. */
  private hold(handed: Promise<void>): void {
    handed.catch((error: unknown) => notify({ kind: 'error', text: describeError(error), hint: 'Reload the page.' }));
  }

  private provideStill(ref: MediaRef): Promise<void> {
    let coming = this.stills.get(ref.sha256);
    if (!coming || (useSession.getState().stills.includes(ref.sha256) && !engine().holds('still', ref.sha256))) {
      coming = this.holdStill(ref);
      this.stills.set(ref.sha256, coming);
    }
    return coming;
  }

  private async holdStill(ref: MediaRef): Promise<void> {
    const { raster } = await engine().decode(await getMedia(this.db, ref), ref.name, false);
    this.hold(engine().hold('still', ref.sha256, raster));
    if (this.closed) return;
    const { stills, set } = useSession.getState();
    set({ stills: [...new Set([...stills, ref.sha256])].sort() });
    this.arrived();
  }

  /** Whether nothing newer is wanted for a layer. */
  private wants(layerId: string, key: string): boolean {
    return !this.closed && this.wanted.get(layerId) === key;
  }

  private async provideMap(shot: Shot, layer: Layer): Promise<void> {
    const source = layerOf(layer.kind).source;
    if (source === 'none') return;
    const key = keyOf(shot, layer);
    const shown = useSession.getState().maps[layer.id];
    const letGo = shown === key && !engine().holds('map', shown);
    if (this.wanted.get(layer.id) === key && !letGo) return;
    this.wanted.set(layer.id, key);
    this.jobs.get(layer.id)?.cancel();
    try {
      await (source === 'media' ? this.provideFile(layer, key) : this.provideEstimate(shot, layer, key));
    } catch (error) {
      if (!this.wants(layer.id, key)) return;
      this.without(layer.id, 'missing');
      throw error;
    }
  }

  private async provideFile(layer: Layer, key: string): Promise<void> {
    if (!layer.media) return;
    const { channel, reading } = importedContentSchema.parse(layer.content ?? {});
    const plane = await engine().decodeMap(await getMedia(this.db, layer.media), layer.media.name, channel, reading);
    if (!this.wants(layer.id, key)) return;
    this.hold(engine().hold('map', key, plane));
    this.setMap(layer.id, key);
  }

  private async provideEstimate(shot: Shot, layer: Layer, key: string): Promise<void> {
    const quality = qualityOf(layer);
    const kept = await (this.recalled.get(key) ?? getMap(this.db, key));
    this.recalled.delete(key);
    if (!this.wants(layer.id, key)) return;
    if (kept) {
      this.hold(engine().hold('map', key, kept));
      this.setMap(layer.id, key, quality);
      return;
    }
    // something to look at first, then the careful one
    if (quality === 'fine') {
      const draft = estimateKey(shot.plate.sha256, 'draft');
      if (await this.runEstimate(shot, layer, 'draft', draft, key)) await this.runEstimate(shot, layer, 'fine', key, key);
    } else await this.runEstimate(shot, layer, 'draft', key, key);
  }

  /** Runs a layer's estimate anew, whatever has been kept. */
  async estimateAgain(shot: Shot, layer: Layer): Promise<void> {
    const key = keyOf(shot, layer);
    this.wanted.set(layer.id, key);
    this.jobs.get(layer.id)?.cancel();
    try {
      await this.runEstimate(shot, layer, qualityOf(layer), key, key);
    } catch (error) {
      if (!this.wants(layer.id, key)) return;
      if (!useSession.getState().maps[layer.id]) this.without(layer.id, 'missing');
      throw error;
    }
  }

  /** A held estimate of the plate to compare with, made if there is none; its key. */
  comparison(shot: Shot): Promise<string | null> {
    const { sha256 } = shot.plate;
    let coming = this.drafts.get(sha256);
    if (!coming) {
      coming = this.holdDraft(sha256);
      this.drafts.set(sha256, coming);
      // one that failed can be tried again
      coming.catch(() => this.drafts.delete(sha256));
    }
    return coming;
  }

  private async holdDraft(sha256: string): Promise<string | null> {
    for (const quality of ['fine', 'draft'] as const) {
      const key = estimateKey(sha256, quality);
      const kept = await getMap(this.db, key);
      if (!kept) continue;
      this.hold(engine().hold('map', key, kept));
      return key;
    }
    const key = estimateKey(sha256, 'draft');
    const plane = await engine().estimate(sha256, 'draft', () => undefined).done;
    if (!plane) return null;
    this.hold(engine().hold('map', key, plane));
    await putMap(this.db, key, plane);
    return key;
  }

  /** Reads a file as a map for the plate and holds it. */
  async readMap(shot: Shot, file: Blob, name: string, channel: string | null): Promise<ReadMap> {
    return engine().readMap(file, name, channel, shot.plate, await this.comparison(shot));
  }

  /** Estimates and shows, while `wantedKey` is what the layer waits for. Whether the next step may follow. */
  private async runEstimate(shot: Shot, layer: Layer, quality: Quality, key: string, wantedKey: string): Promise<boolean> {
    const { set } = useSession.getState();
    this.without(layer.id, null);
    let canceled = false;
    const cancel = (): void => {
      canceled = true;
      job.cancel();
    };
    const progress = progressOf(quality === 'draft' ? 'Estimating depth, draft' : 'Estimating depth, fine', cancel, (estimating) =>
      set({ estimating }),
    );
    const ahead = quality === 'draft' ? takeAhead(shot.plate.sha256, progress.report) : null;
    const job = ahead ?? engine().estimate(shot.plate.sha256, quality, progress.report);
    this.jobs.set(layer.id, job);
    try {
      const plane = await job.done;
      if (!this.wants(layer.id, wantedKey)) return false;
      if (!plane || canceled) {
        this.without(layer.id, 'stopped');
        if (canceled) notify({ kind: 'note', text: `The ${quality} estimate was stopped.`, hint: 'Choose “Estimate again” in Depth to run it.' });
        return false;
      }
      this.hold(engine().hold('map', key, plane));
      await putMap(this.db, key, plane);
      if (!this.wants(layer.id, wantedKey)) return false;
      this.setMap(layer.id, key, quality);
      return true;
    } finally {
      if (this.jobs.get(layer.id) === job) this.jobs.delete(layer.id);
      progress.end();
    }
  }

  private without(layerId: string, why: 'stopped' | 'missing' | null): void {
    const { without, set } = useSession.getState();
    if (this.closed || (without[layerId] ?? null) === why) return;
    const rest = Object.fromEntries(Object.entries(without).filter(([id]) => id !== layerId));
    set({ without: why ? { ...rest, [layerId]: why } : rest });
  }

  private setMap(layerId: string, key: string, quality?: Quality): void {
    if (this.closed) return;
    this.without(layerId, null);
    const { maps, shownQuality, set } = useSession.getState();
    set({ maps: { ...maps, [layerId]: key }, ...(quality && { shownQuality: { ...shownQuality, [layerId]: quality } }) });
    this.arrived();
  }
}
