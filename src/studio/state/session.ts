import { calibrationOf } from '../../core/document/defaults';
import type { MediaRef, Project, Shot } from '../../core/document/schema';
import { checks } from '../../core/depth/checks/registry';
import { OmbrageError } from '../../core/error';
import type { Size } from '../../core/raster/picture';
import { renderSize } from '../../core/shot/chain';
import type { ShotRequest } from '../../core/shot/stage';
import { rulerOf } from '../../core/depth/ruler';
import { contentKey } from '../../core/shot/key';
import { engine } from '../../engine/engine';
import type { DecodedStill, ReadMap } from '../../engine/protocol';
import { Autosave } from '../../store/autosave';
import { database, type Database } from '../../store/database';
import { getMedia } from '../../store/media';
import { addProject, CHANGED_ELSEWHERE, loadProject } from '../../store/projects';
import { newId } from '../../core/document/defaults';
import { OUTPUT_LIMIT } from '../../core/document/limits';
import { changeShot, shotOf, useDocument } from './documentStore';
import { liveSettings, useLive } from './liveStore';
import { Provider } from './provider';
import { nothingOpen, notify, useSession } from './sessionStore';
import { recallPlate, recallView, rememberPlate, rememberView, useView } from './viewStore';

/** Largest picture rendered for the viewer, px. */
const VIEW_PIXELS = 8.3e6;
/** So long the first picture of a state is waited for before a newer state is asked for. */
const LONGEST_WAIT_MS = 700;
/** So long an opening shot waits for maps that are kept. */
const KEPT_MAPS_MS = 250;
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

/** Everything that runs while one shot is open: autosave, maps, previews. */
export class Session {
  private readonly db: Database = database();
  private autosave: Autosave | null = null;
  private readonly stops: (() => void)[] = [];
  private box = { width: 640, height: 360 };
  private lastFullMs = 200;
  private requested = '';
  private comparison: string | null = null;
  /** until when the first picture of what was asked for is waited for; 0: none is */
  private firstDue = 0;
  private overtaken = false;
  private thumbTimer: ReturnType<typeof setTimeout> | null = null;
  private closed = false;
  /** the plate that the workers hold, and the one on its way */
  private held: string | null = null;
  private loading: string | null = null;
  /** true once the plate has come, and the maps that were kept or had their time */
  private arrived = false;

  /** Opens a shot of a stored project. Problems are put into the session's state. */
  async open(projectId: string, shotId: string): Promise<void> {
    const state = useSession.getState();
    // the workers start while the project is read
    engine();
    state.set(nothingOpen);
    useDocument.getState().close();
    const known = recallPlate(shotId);
    const ahead = known && { sha256: known.sha256, coming: this.decode(known) };
    // its failing is told where it is waited for, if it is
    ahead?.coming.catch(() => undefined);
    try {
      const { project, revision } = await loadProject(this.db, projectId);
      const shot = project.shots.find((s) => s.id === shotId);
      if (!shot) throw new OmbrageError('no-shot', 'This shot is not in its project any more.', 'Choose another from the list of shots.');
      if (this.closed) return;
      const plate = this.loadPlate(shot, ahead?.sha256 === shot.plate.sha256 ? ahead.coming : undefined);
      plate.catch(() => undefined);
      rememberPlate(shotId, shot.plate);
      state.set({ ready: true });
      this.provider.recall(shot);
      void this.showLast(shotId);
      useDocument.getState().open(project, shotId);
      useView.getState().set({
        ...recallView(shotId),
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
      this.watch();
      await plate;
      // maps that are kept are there in a moment: a picture without them would only be in their way
      await Promise.race([this.provider.provide(shot).catch(notifyError), new Promise((done) => setTimeout(done, KEPT_MAPS_MS))]);
      if (this.closed) return;
      this.arrived = true;
      this.update();
    } catch (error) {
      state.set({ problem: messageOf(error) });
    }
  }

  async close(): Promise<void> {
    this.closed = true;
    for (const stop of this.stops) stop();
    if (this.thumbTimer) clearTimeout(this.thumbTimer);
    this.provider.close();
    await this.autosave?.flush();
    await this.saveThumb();
  }

  /** Screen pixels that the picture may take, device pixels. */
  resize(width: number, height: number): void {
    if (width === this.box.width && height === this.box.height) return;
    this.box = { width, height };
    this.prepare();
    this.update();
  }

  async flush(): Promise<void> {
    await this.autosave?.flush();
  }

  /** The open shot as the chain wants it, at its output size or smaller. */
  request(shot: Shot, size: { width: number; height: number }): ShotRequest {
    const { sha256, width, height, opaque } = shot.plate;
    return { plate: { sha256, width, height, ...(opaque && { opaque }) }, settings: shot.settings, frame: 0, size };
  }

  /** The shot's picture as it was left, while nothing better is there. */
  private async showLast(shotId: string): Promise<void> {
    try {
      const kept = await this.db.thumbs.get(shotId);
      if (!kept) return;
      const lastPicture = await createImageBitmap(kept.blob);
      if (this.closed || useSession.getState().preview) lastPicture.close();
      else useSession.getState().set({ lastPicture });
    } catch {
      // the view then stays empty until the first picture
    }
  }

  private watch(): void {
    this.stops.push(
      useDocument.subscribe((now, before) => {
        if (now.project && now.project !== before.project) {
          this.autosave?.changed(now.project);
          this.update();
        }
      }),
      useLive.subscribe(() => this.update()),
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

  private async decode(plate: Pick<MediaRef, 'sha256' | 'name'>): Promise<DecodedStill> {
    return engine().decode(await getMedia(this.db, plate), plate.name);
  }

  private async loadPlate(shot: Shot, coming = this.decode(shot.plate)): Promise<void> {
    const { raster } = await coming;
    if (this.closed) return;
    // messages keep their order: whatever is asked of a worker from here on finds the plate there
    engine()
      .holdPlate(shot.plate.sha256, { ...raster, opaque: shot.plate.opaque === true })
      .catch(notifyError);
    this.held = shot.plate.sha256;
    this.loading = null;
    this.comparison = null;
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
    if (!shot || this.closed || !this.held || !this.arrived) return;
    if (shot.plate.sha256 !== this.held) {
      // the plate was swapped, or the swap undone
      if (this.loading === shot.plate.sha256) return;
      this.loading = shot.plate.sha256;
      void this.loadPlate(shot).then(() => this.update(), notifyError);
      return;
    }
    void this.provider.provide(shot).catch(notifyError);
    this.compare(shot, useView.getState().check);
    this.preview({ ...shot, settings: liveSettings(shot.settings, useLive.getState().live) });
  }

  private readonly provider = new Provider(this.db, () => {
    this.requested = '';
    this.update();
  });

  /** Runs a layer's estimate anew, whatever has been kept. */
  async estimateAgain(layerId: string): Promise<void> {
    const shot = shotOf(useDocument.getState());
    const layer = shot?.settings.layers.find((l) => l.id === layerId);
    if (shot && layer) await this.provider.estimateAgain(shot, layer).catch(notifyError);
  }

  /** Reads a file as a map for the open shot's plate. */
  async readMap(file: Blob, name: string, channel: string | null): Promise<ReadMap> {
    const shot = shotOf(useDocument.getState());
    if (!shot) throw new OmbrageError('no-shot', 'No shot is open.', 'Open the shot that the map belongs to.');
    return this.provider.readMap(shot, file, name, channel);
  }

  /** Makes the file of an imported layer the plate, and the plate that layer's map. */
  async swapPlate(layerId: string): Promise<void> {
    const shot = shotOf(useDocument.getState());
    const media = shot?.settings.layers.find((l) => l.id === layerId)?.media;
    if (!shot || !media) return;
    const { facts, raster } = await engine().decode(await getMedia(this.db, media), media.name);
    engine().holdPlate(media.sha256, raster).catch(notifyError);
    const old = shot.plate;
    const read = await engine().readMap(await getMedia(this.db, old), old.name, null, facts, null);
    changeShot((s) => {
      s.plate = { ...media, width: facts.width, height: facts.height, bits: facts.bits, hfovFromFile: facts.hfovDegrees };
      if (s.settings.framing.width === old.width && s.settings.framing.height === old.height)
        Object.assign(s.settings.framing, { width: Math.min(OUTPUT_LIMIT, facts.width), height: Math.min(OUTPUT_LIMIT, facts.height) });
      const layer = s.settings.layers.find((l) => l.id === layerId);
      if (!layer) return;
      layer.media = { sha256: old.sha256, name: old.name, width: old.width, height: old.height };
      layer.name = old.name.slice(0, 200);
      layer.values.turnOver = false;
      layer.content = { channel: read.facts.channel, reading: read.proposal.reading };
    });
  }

  /** A check that compares with an estimate gets one. */
  private compare(shot: Shot, kind: string | null): void {
    if (!checks.find((c) => c.kind === kind)?.needsEstimate || this.comparison) return;
    void this.provider
      .comparison(shot)
      .then((key) => {
        this.comparison = key;
        this.update();
      })
      .catch(notifyError);
  }

  /** While the plate is still being decoded, the viewer does what needs none of it. */
  private prepare(): void {
    const shot = shotOf(useDocument.getState());
    if (!shot || this.closed || this.held) return;
    const { size, quick } = this.sizes(shot);
    void engine()
      .prepare(this.request(shot, size), quick ? [quick, size] : [size], contentKey(useSession.getState().stills))
      .catch(notifyError);
  }

  /** The size that the viewer needs, and the smaller one to show first; null where the whole is soon there. */
  private sizes({ settings: { framing } }: Shot): { size: Size; quick: Size | null } {
    const { zoom } = useView.getState();
    const scale = zoom ? Math.min(1, zoom.scale * window.devicePixelRatio) : Infinity;
    let size = zoom ? renderSize(framing, { width: framing.width * scale, height: framing.height * scale }) : renderSize(framing, this.box);
    const pixels = size.width * size.height;
    if (pixels > VIEW_PIXELS)
      size = renderSize(framing, { width: size.width * Math.sqrt(VIEW_PIXELS / pixels), height: size.height * Math.sqrt(VIEW_PIXELS / pixels) });
    const smaller = this.lastFullMs > 5 * QUICK_ABOVE_MS ? 3 : 2;
    const quick =
      (this.lastFullMs > QUICK_ABOVE_MS || useLive.getState().live !== null) && size.width > 200
        ? { width: Math.ceil(size.width / smaller), height: Math.ceil(size.height / smaller) }
        : null;
    return { size, quick };
  }

  private preview(shot: Shot): void {
    const { calibration } = shot.settings;
    const view = useView.getState();
    const { size, quick } = this.sizes(shot);
    const { near, far, spacing } = calibrationOf(calibration);
    const { maps, stills: held } = useSession.getState();
    const stills = contentKey(held);
    const ruler = rulerOf({ near, far }, view.ruler === 'as-map' ? spacing : view.ruler);
    const finished = view.peek !== 'depth';
    const cleaning = view.chapter === 'depth';
    const compared = checks.find((c) => c.kind === view.check)?.needsEstimate ? this.comparison : null;
    const state = contentKey(
      shot.plate.sha256,
      shot.plate.opaque,
      shot.settings,
      size,
      maps,
      stills,
      ruler,
      view.check,
      compared,
      view.depthColours,
      finished,
      cleaning,
    );
    if (state === this.requested) return;
    // while something is dragged every state is overtaken by the next: the first picture of each is waited for, or none would come
    if (performance.now() < this.firstDue) {
      this.overtaken = true;
      return;
    }
    this.requested = state;
    this.firstDue = performance.now() + LONGEST_WAIT_MS;
    const first = (): void => {
      this.firstDue = 0;
      if (!this.overtaken) return;
      this.overtaken = false;
      this.update();
    };
    const has = useSession.getState().preview?.looks ?? null;
    const { depthColours, check } = view;
    const spec = { shot: this.request(shot, size), maps, stills, estimate: compared, cleaning, has, quick, depthColours, check, ruler, finished };
    const started = performance.now();
    performance.mark('ombrage-change');
    void engine()
      .preview(
        spec,
        (part) => {
          if (this.closed) return;
          if (this.firstDue > 0) queueMicrotask(first);
          // what came from the cache tells little of how long the next will take
          if (part.stage === 'full') this.lastFullMs = Math.max(part.milliseconds, 0.75 * this.lastFullMs);
          performance.measure(`ombrage-${part.stage}`, { start: started, end: performance.now() });
          const old = useSession.getState().preview;
          const shown = {
            ...part,
            plate: part.plate ?? old?.plate ?? null,
            depth: part.depth ?? old?.depth ?? null,
            before: part.before ?? old?.before ?? null,
            cleaned: part.cleaned ?? old?.cleaned ?? null,
          };
          useSession.getState().lastPicture?.close();
          useSession.getState().set({ preview: shown, lastPicture: null });
          const kept = [shown.plate, shown.depth, shown.before, shown.finished, shown.marks];
          for (const bitmap of [old?.plate, old?.depth, old?.before, old?.finished, old?.marks]) if (bitmap && !kept.includes(bitmap)) bitmap.close();
        },
        (thumbs) => {
          if (!this.closed) useSession.getState().set({ thumbs });
          this.scheduleThumb();
        },
      )
      .catch(notifyError)
      .finally(first);
  }

  private scheduleThumb(): void {
    if (this.thumbTimer) clearTimeout(this.thumbTimer);
    this.thumbTimer = setTimeout(() => void this.saveThumb(), 2500);
  }

  /** The shot's picture on the shelf. */
  private async saveThumb(): Promise<void> {
    const shot = shotOf(useDocument.getState());
    const { maps, stills } = useSession.getState();
    if (!shot || !this.arrived) return;
    try {
      const blob = await engine().thumbnail(
        this.request(shot, renderSize(shot.settings.framing, { width: 640, height: 640 })),
        maps,
        contentKey(stills),
      );
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
