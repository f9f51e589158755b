import { calibrationOf } from '../../core/document/defaults';
import type { Layer, Project, Shot } from '../../core/document/schema';
import { layerOf } from '../../core/depth/layers/registry';
import { OmbrageError } from '../../core/error';
import { ESTIMATE_VERSION, type Quality } from '../../core/estimate/estimate';
import { renderSize } from '../../core/shot/chain';
import type { ShotRequest } from '../../core/shot/stage';
import { rulerOf } from '../../core/depth/ruler';
import { contentKey } from '../../core/shot/key';
import { engine, type Job } from '../../engine/engine';
import { Autosave } from '../../store/autosave';
import { database, type Database } from '../../store/database';
import { getMap, getMedia, putMap } from '../../store/media';
import { addProject, CHANGED_ELSEWHERE, loadProject } from '../../store/projects';
import { newId } from '../../core/document/defaults';
import { shotOf, useDocument } from './documentStore';
import { nothingOpen, notify, progressOf, useSession } from './sessionStore';
import { recallView, rememberView, useView } from './viewStore';

/** Largest picture rendered for the viewer, px. */
const VIEW_PIXELS = 8.3e6;
/** From this time on a smaller picture is shown first. */
const QUICK_ABOVE_MS = 45;

export const messageOf = (error: unknown): { text: string; hint: string } =>
  error instanceof OmbrageError
    ? { text: error.message, hint: error.hint }
    : { text: error instanceof Error ? error.message : String(error), hint: '' };

export const notifyError = (error: unknown): void => {
  const { text, hint } = messageOf(error);
  notify({ kind: 'error', text, hint });
};

export const estimateKey = (sha256: string, quality: Quality): string => contentKey('estimate', ESTIMATE_VERSION, sha256, quality);

/** Everything that runs while one shot is open: autosave, maps, previews. */
export class Session {
  private readonly db: Database = database();
  private autosave: Autosave | null = null;
  private readonly stops: (() => void)[] = [];
  private box = { width: 640, height: 360 };
  private lastFullMs = 200;
  private requested = '';
  private wantedMaps = new Map<string, string>();
  private estimate: { key: string; job: Job<unknown> } | null = null;
  private thumbTimer: ReturnType<typeof setTimeout> | null = null;
  private closed = false;
  /** the workers hold the plate */
  private held = false;

  /** Opens a shot of a stored project. Problems are put into the session's state. */
  async open(projectId: string, shotId: string): Promise<void> {
    const state = useSession.getState();
    state.set(nothingOpen);
    useDocument.getState().close();
    try {
      const { project, revision } = await loadProject(this.db, projectId);
      const shot = project.shots.find((s) => s.id === shotId);
      if (!shot) throw new OmbrageError('no-shot', 'This shot is not in its project any more.', 'Choose another from the list of shots.');
      if (this.closed) return;
      useDocument.getState().open(project, shotId);
      useView.getState().set({
        ...recallView(shotId),
        zoom: null,
        picking: null,
        peek: null,
        pointer: null,
        lit: null,
        selectedEffect: shot.settings.effects[0]?.id ?? null,
        selectedLayer: shot.settings.layers[shot.settings.layers.length - 1]?.id ?? null,
        selectedStake: null,
      });
      this.autosave = new Autosave(this.db, revision, (save) => {
        useSession.getState().set({ save });
        if (save.kind === 'failed') this.onSaveFailed(save.error);
      });
      state.set({ save: { kind: 'saved', at: Date.now() } });
      await this.loadPlate(shot);
      if (this.closed) return;
      this.watch();
      state.set({ ready: true });
      this.update();
    } catch (error) {
      state.set({ problem: messageOf(error) });
    }
  }

  async close(): Promise<void> {
    this.closed = true;
    for (const stop of this.stops) stop();
    if (this.thumbTimer) clearTimeout(this.thumbTimer);
    this.estimate?.job.cancel();
    await this.autosave?.flush();
    await this.saveThumb();
  }

  /** Screen pixels that the picture may take, device pixels. */
  resize(width: number, height: number): void {
    if (width === this.box.width && height === this.box.height) return;
    this.box = { width, height };
    this.update();
  }

  async flush(): Promise<void> {
    await this.autosave?.flush();
  }

  /** The open shot as the chain wants it, at its output size or smaller. */
  request(shot: Shot, size: { width: number; height: number }): ShotRequest {
    const { sha256, width, height } = shot.plate;
    return { plate: { sha256, width, height }, settings: shot.settings, frame: 0, size };
  }

  private watch(): void {
    this.stops.push(
      useDocument.subscribe((now, before) => {
        if (now.project && now.project !== before.project) {
          this.autosave?.changed(now.project);
          this.update();
        }
      }),
      useView.subscribe((now, before) => {
        const id = useDocument.getState().shotId;
        if (id) rememberView(id, now);
        if (
          now.chapter !== before.chapter ||
          now.mode !== before.mode ||
          now.check !== before.check ||
          now.ruler !== before.ruler ||
          now.zoom !== before.zoom ||
          now.depthColours !== before.depthColours ||
          now.peek !== before.peek
        )
          this.update();
      }),
    );
    const leave = (): void => void this.autosave?.flush();
    window.addEventListener('pagehide', leave);
    this.stops.push(() => window.removeEventListener('pagehide', leave));
  }

  private async loadPlate(shot: Shot): Promise<void> {
    const blob = await getMedia(this.db, shot.plate);
    const { raster } = await engine().decode(blob, shot.plate.name);
    await engine().holdPlate(shot.plate.sha256, raster);
    this.held = true;
  }

  private onSaveFailed(error: unknown): void {
    if (error instanceof OmbrageError && error.code === CHANGED_ELSEWHERE) {
      this.autosave?.stop();
      notify({
        kind: 'error',
        text: error.message,
        hint: error.hint,
        actions: [
          { label: 'Load the other', run: () => window.location.reload() },
          { label: 'Keep as a copy', run: () => void this.keepCopy() },
        ],
      });
    } else notifyError(error);
  }

  private async keepCopy(): Promise<void> {
    const { project, shotId } = useDocument.getState();
    if (!project) return;
    const copy: Project = await addProject(this.db, { ...project, id: newId(), name: `${project.name}, copy` });
    window.location.assign(`/shot?project=${copy.id}&shot=${shotId}`);
  }

  private update(): void {
    const shot = shotOf(useDocument.getState());
    if (!shot || this.closed || !this.held) return;
    for (const layer of shot.settings.layers) void this.provideMap(shot, layer).catch(notifyError);
    this.preview(shot);
  }

  /** Sees to it that the workers hold the map a layer wants. */
  private async provideMap(shot: Shot, layer: Layer): Promise<void> {
    const source = layerOf(layer.kind).source;
    if (source === 'none') return;
    const quality = layer.values.quality === 'draft' ? 'draft' : 'fine';
    const key = source === 'media' ? `map:${layer.media?.sha256}` : estimateKey(shot.plate.sha256, quality);
    if (this.wantedMaps.get(layer.id) === key) return;
    this.wantedMaps.set(layer.id, key);
    if (source === 'media') {
      if (!layer.media) return;
      const { plane } = await engine().decodeMap(await getMedia(this.db, layer.media), layer.media.name);
      await engine().holdMap(key, plane);
      this.setMap(layer.id, key);
      return;
    }
    const kept = await getMap(this.db, key);
    if (kept) {
      await engine().holdMap(key, kept);
      this.setMap(layer.id, key, quality);
      return;
    }
    // something to look at first, then the careful one
    if (quality === 'fine') {
      const draft = estimateKey(shot.plate.sha256, 'draft');
      if (await this.runEstimate(shot, layer, 'draft', draft)) await this.runEstimate(shot, layer, 'fine', key);
    } else await this.runEstimate(shot, layer, 'draft', key);
  }

  private async runEstimate(shot: Shot, layer: Layer, quality: Quality, key: string): Promise<boolean> {
    const { set } = useSession.getState();
    let canceled = false;
    const cancel = (): void => {
      canceled = true;
      job.cancel();
    };
    const progress = progressOf(quality === 'draft' ? 'Estimating depth, draft' : 'Estimating depth, fine', cancel, (estimating) =>
      set({ estimating }),
    );
    const job = engine().estimate(shot.plate.sha256, quality, progress.report);
    this.estimate = { key, job };
    try {
      const plane = await job.done;
      if (!plane || this.closed) {
        if (canceled) notify({ kind: 'note', text: `The ${quality} estimate was stopped.`, hint: 'Choose “Estimate again” in Depth to run it.' });
        return false;
      }
      await engine().holdMap(key, plane);
      await putMap(this.db, key, plane);
      if (!this.closed) this.setMap(layer.id, key, quality);
      return true;
    } finally {
      progress.end();
    }
  }

  /** Runs a layer's estimate anew, whatever has been kept. */
  async estimateAgain(layerId: string): Promise<void> {
    const shot = shotOf(useDocument.getState());
    const layer = shot?.settings.layers.find((l) => l.id === layerId);
    if (!shot || !layer) return;
    const quality = layer.values.quality === 'draft' ? 'draft' : 'fine';
    await this.runEstimate(shot, layer, quality, estimateKey(shot.plate.sha256, quality)).catch(notifyError);
  }

  private setMap(layerId: string, key: string, quality?: Quality): void {
    const { maps, shownQuality, set } = useSession.getState();
    set({ maps: { ...maps, [layerId]: key }, ...(quality && { shownQuality: { ...shownQuality, [layerId]: quality } }) });
    this.requested = '';
    this.update();
  }

  private preview(shot: Shot): void {
    const { framing, calibration } = shot.settings;
    const view = useView.getState();
    const scale = view.zoom ? Math.min(1, view.zoom.scale * window.devicePixelRatio) : Infinity;
    let size = view.zoom ? renderSize(framing, { width: framing.width * scale, height: framing.height * scale }) : renderSize(framing, this.box);
    const pixels = size.width * size.height;
    if (pixels > VIEW_PIXELS)
      size = renderSize(framing, { width: size.width * Math.sqrt(VIEW_PIXELS / pixels), height: size.height * Math.sqrt(VIEW_PIXELS / pixels) });
    const { near, far, spacing } = calibrationOf(calibration);
    const { maps } = useSession.getState();
    const ruler = rulerOf({ near, far }, view.ruler === 'as-map' ? spacing : view.ruler);
    const finished = view.peek !== 'depth';
    const state = contentKey(shot.plate.sha256, shot.settings, size, maps, ruler, view.check, view.depthColours, finished);
    if (state === this.requested) return;
    this.requested = state;
    const quick =
      this.lastFullMs > QUICK_ABOVE_MS && size.width > 200 ? { width: Math.ceil(size.width / 2), height: Math.ceil(size.height / 2) } : null;
    const fresh = useSession.getState().preview?.plate == null;
    const spec = { shot: this.request(shot, size), maps, fresh, quick, depthColours: view.depthColours, check: view.check, ruler, finished };
    const started = performance.now();
    performance.mark('ombrage-change');
    void engine()
      .preview(
        spec,
        (part) => {
          if (this.closed) return;
          if (part.stage === 'full') this.lastFullMs = part.milliseconds;
          performance.measure(`ombrage-${part.stage}`, { start: started, end: performance.now() });
          const old = useSession.getState().preview;
          const shown = { ...part, plate: part.plate ?? old?.plate ?? null, depth: part.depth ?? old?.depth ?? null };
          useSession.getState().set({ preview: shown });
          const kept = [shown.plate, shown.depth, shown.finished, shown.marks];
          for (const bitmap of [old?.plate, old?.depth, old?.finished, old?.marks]) if (bitmap && !kept.includes(bitmap)) bitmap.close();
        },
        (thumbs) => {
          if (!this.closed) useSession.getState().set({ thumbs });
          this.scheduleThumb();
        },
      )
      .catch(notifyError);
  }

  private scheduleThumb(): void {
    if (this.thumbTimer) clearTimeout(this.thumbTimer);
    this.thumbTimer = setTimeout(() => void this.saveThumb(), 2500);
  }

  /** The shot's picture on the shelf. */
  private async saveThumb(): Promise<void> {
    const shot = shotOf(useDocument.getState());
    const { ready, maps } = useSession.getState();
    if (!shot || !ready) return;
    try {
      const blob = await engine().thumbnail(this.request(shot, renderSize(shot.settings.framing, { width: 640, height: 640 })), maps);
      await this.db.thumbs.put({ shot: shot.id, blob });
    } catch {
      // the shelf then shows the picture it had
    }
  }
}

let current: Session | null = null;

/** The session of the open shot. */
export const session = (): Session => (current ??= new Session());

/** Ends the session that was open and begins another. */
export async function openSession(projectId: string, shotId: string): Promise<void> {
  const previous = current;
  current = new Session();
  await previous?.close();
  await current.open(projectId, shotId);
}
