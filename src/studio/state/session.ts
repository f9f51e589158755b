import type { FileRef } from '../../core/need/fileRef';
import { onlySignals } from '../../core/document/driven';
import type { Shot } from '../../core/document/schema';
import type { Size } from '../../core/picture';
import { OmbrageError } from '../../core/error';
import { addressOfFile } from '../../core/need/need';
import { engine } from '../../engine/pool/engine';
import type { DecodedStill, ReadMap } from '../../engine/messages/protocol';
import { database, type Database } from '../../store/database';
import { getMedia } from '../../store/media';
import { loadProject } from '../../store/projects';
import { holdPlate } from './clipDepth';
import { stopClipJob } from './clipJob';
import { shotOf, useDocument } from './documentStore';
import { FirstFocus } from './firstFocus';
import { showLast } from './lastPicture';
import { atGlance, useLive } from './liveStore';
import { firstInHand } from './picking';
import { player } from './playback';
import { ofStills } from './player';
import { CameraWatch } from './cameraWatch';
import { freePreview, freeThumbs, lookedAt, PreviewLoop } from './previewLoop';
import { momentOf } from './shotNow';
import { Comparison } from './comparison';
import { Provider } from './provider';
import { sayReplaced } from './sayReplaced';
import { Saving } from './saving';
import { viewNow } from './seen';
import { nothingOpen, useSession } from './sessionStore';
import { messageOf, notify, notifyError } from '../notices/noticeStore';
import { ShelfPicture } from './shelfPicture';
import { LOOKED_AT, recallPlate, recallView, rememberPlate, rememberView, useView } from './viewStore';
import { viewOf } from './views';

/** So long an opening shot waits for maps that are kept. */
const KEPT_MAPS_MS = 250;

/** Everything that runs while one shot is open. */
export class Session {
  private readonly db: Database = database();
  private readonly stops: (() => void)[] = [];
  private saving: Saving | null = null;
  private closed = false;
  private closing: Promise<void> | null = null;
  /** the plate that the workers hold, the one on its way, and the one that could not be had */
  private held: string | null = null;
  private loading: string | null = null;
  private failedPlate: string | null = null;
  /** the plate has come, and kept maps came or had their time */
  private arrived = false;
  readonly provider = new Provider(this.db, () => {
    this.loop.again();
    this.update();
  });
  private readonly comparison = new Comparison(
    this.provider,
    () => !this.closed && this.update(),
    (error) => !this.closed && this.sayWithRetry(error),
  );
  private readonly firstFocus = new FirstFocus();
  private readonly shelf = new ShelfPicture(this.db, () => (this.arrived ? shotOf(useDocument.getState()) : null));
  private readonly cameraWatch = new CameraWatch((error) => this.sayWithRetry(error));
  private readonly loop = new PreviewLoop({
    rested: () => this.shelf.soon(),
    failed: (error) => this.sayWithRetry(error),
  });

  /** Opens a shot of a stored project. Problems are put into the session's state. */
  async open(projectId: string, shotId: string): Promise<void> {
    const state = useSession.getState();
    engine().onReplaced = sayReplaced;
    const { preview, thumbs, lastPicture } = state;
    state.set(nothingOpen);
    freePreview(preview, null);
    freeThumbs(thumbs);
    lastPicture?.close();
    useDocument.getState().close();
    const known = recallPlate(shotId);
    const ahead = known && { sha256: known.sha256, coming: this.decode(known) };
    // its failing is told where it is waited for, if it is
    ahead?.coming.catch(() => undefined);
    try {
      const { project, revision, remarks } = await loadProject(this.db, projectId);
      if (this.closed) return;
      const shot = project.shots.find((s) => s.id === shotId);
      if (!shot) throw new OmbrageError('no-shot', 'This shot is not in its project any more.', 'Choose another from the list of shots.');
      const plate = this.loadPlate(shot, ahead?.sha256 === shot.plate.sha256 ? ahead.coming : undefined);
      plate.catch(() => undefined);
      rememberPlate(shotId, shot.plate);
      state.set({ ready: true });
      this.provider.recall(shot);
      void showLast(this.db, () => this.closed, shotId);
      useDocument.getState().open(project, shotId);
      useView.getState().set({
        ...recallView(shotId),
        picking: null,
        peek: null,
        pointer: null,
        lit: null,
        frame: 0,
        playing: false,
        wobble: false,
        alone: null,
        without: null,
        selectedEffect: firstInHand(shot),
        selectedMove: shot.settings.camera.moves[0]?.id ?? null,
        selectedLayer: shot.settings.layers[shot.settings.layers.length - 1]?.id ?? null,
        selectedStake: null,
      });
      this.saving = new Saving(this.db, project, revision);
      if (remarks.length > 0) notify({ kind: 'note', text: `${project.name} was read with changes.`, hint: remarks.join(' ') });
      this.watch();
      await plate;
      // maps that are kept are there in a moment: a picture without them would only be in their way
      const maps = this.provider.provide(shot, momentOf(shot)).catch((error: unknown) => !this.closed && this.sayWithRetry(error));
      await Promise.race([maps, new Promise((done) => setTimeout(done, KEPT_MAPS_MS))]);
      if (this.closed) return;
      this.arrived = true;
      this.update();
      import('./clipExport').then((m) => m.offerBrokenExport(shot, projectId, () => !this.closed)).catch(notifyError);
    } catch (error) {
      if (!this.closed) state.set({ problem: messageOf(error) });
    }
  }

  /** Ends the session: what is waiting is written, the shelf's picture follows by itself. */
  close(): Promise<void> {
    this.closing ??= this.end();
    return this.closing;
  }

  private async end(): Promise<void> {
    this.closed = true;
    for (const stop of this.stops) stop();
    player.clear();
    stopClipJob();
    this.cameraWatch.close();
    this.shelf.cancel();
    this.loop.close();
    this.provider.close();
    this.firstFocus.close();
    void this.shelf.save();
    await this.saving?.close();
  }

  /** Screen pixels that the picture may take, device pixels. */
  resize(width: number, height: number): void {
    if (!this.loop.resize(width, height)) return;
    this.prepare();
    this.update();
  }

  /** px at which the shot is looked at. */
  viewSize(shot: Shot): Size {
    return this.loop.viewSize(shot.settings);
  }

  async flush(): Promise<void> {
    await this.saving?.flush();
  }

  private watch(): void {
    // frames of what is not looked at would hold up what is
    const holdFrames = (): void => {
      const { mode, playing } = useView.getState();
      player.wait(useSession.getState().clipDepthJob !== null || (viewOf(mode).inSpace === true && !playing));
    };
    this.stops.push(
      useDocument.subscribe((now, before) => {
        if (now.project && now.project !== before.project) this.saving?.changed(now.project);
        // a page that is left before its keys have rested keeps what they did
        else if (now.draft && now.stepping && now.draft !== before.draft) this.saving?.changed(now.draft);
        if (now.project !== before.project || now.draft !== before.draft) this.update();
      }),
      useSession.subscribe((now, before) => {
        holdFrames();
        // frames take the hues of what is seen first
        if (now.preview && !before.preview) this.update();
        const shot = shotOf(useDocument.getState());
        if (now.depthStamp === before.depthStamp || !shot) return;
        this.provider.refreshFrames(shot);
        this.loop.again();
        this.update();
      }),
      useLive.subscribe((now, before) => {
        if (now.glance !== before.glance || now.is !== before.is) this.update();
      }),
      useView.subscribe((now, before) => {
        const id = useDocument.getState().shotId;
        if (id) rememberView(id, now);
        holdFrames();
        if (LOOKED_AT.some((part) => now[part] !== before[part]) || (now.check !== null && now.selectedEffect !== before.selectedEffect))
          this.update();
      }),
    );
  }

  /** The plate's pixels; null where the workers hold them already, as those of a picture that was just brought in. */
  private async decode(plate: Pick<FileRef, 'sha256' | 'name' | 'clip'>): Promise<DecodedStill | null> {
    if (engine().holds('raster', addressOfFile(plate))) return null;
    return engine().decode(await getMedia(this.db, plate), plate.name, false);
  }

  private async loadPlate(shot: Shot, coming = this.decode(shot.plate)): Promise<void> {
    const decoded = await coming;
    if (this.closed) return;
    await holdPlate(this.db, shot.plate, decoded?.raster ?? null);
    if (this.closed) return;
    this.held = addressOfFile(shot.plate);
    this.comparison.forget();
  }

  /** Says what failed; trying again needs no reopening. */
  private sayWithRetry(error: unknown): void {
    const { text, hint } = messageOf(error);
    const again = (): void => {
      this.failedPlate = null;
      this.provider.forgive();
      this.loop.again();
      this.update();
    };
    notify({ kind: 'error', text, hint, actions: [{ label: 'Try again', run: again }] });
  }

  private update(): void {
    const shot = shotOf(useDocument.getState());
    if (!shot || this.closed || !this.held || !this.arrived) return;
    if (addressOfFile(shot.plate) !== this.held) {
      this.swapHeld(shot);
      return;
    }
    void this.provider.provide(shot, momentOf(shot)).catch((error: unknown) => !this.closed && this.sayWithRetry(error));
    this.comparison.provide(shot, useView.getState().check);
    void this.firstFocus.update();
    const { playing, peek } = useView.getState();
    // while frames are played none is made for its own sake, but for the first, over which they lie, and for what is peeked at
    const seen = atGlance(shot);
    if (!playing || peek || !useSession.getState().preview) this.loop.show(seen, this.comparison.of(shot), () => this.update());
    const { given, depthStamp } = useSession.getState();
    // what arrives is shown as it comes: nothing can be made ahead
    if (seen !== shot || (shot.plate.live && onlySignals(shot.settings))) player.clear();
    else player.update(lookedAt(shot), ofStills(given), this.loop.viewSize(shot.settings), depthStamp, viewNow(shot));
    this.cameraWatch.update(shot, this.loop.viewSize(shot.settings));
  }

  /** The plate was swapped, or is another half of its clip. */
  private swapHeld(shot: Shot): void {
    const address = addressOfFile(shot.plate);
    if (this.loading === address || this.failedPlate === address) return;
    this.loading = address;
    this.loadPlate(shot)
      .catch((error: unknown) => {
        this.failedPlate = address;
        if (!this.closed) this.sayWithRetry(error);
      })
      .finally(() => {
        if (this.loading === address) this.loading = null;
        this.update();
      });
  }

  /** Runs a layer's estimate anew, whatever has been kept. */
  async estimateAgain(layerId: string): Promise<void> {
    const shot = shotOf(useDocument.getState());
    const layer = shot?.settings.layers.find((l) => l.id === layerId);
    if (shot && layer) await this.provider.estimateAgain(shot, layer).catch((error: unknown) => !this.closed && this.sayWithRetry(error));
  }

  /** Reads a file as a map for the open shot's plate. */
  async readMap(file: Blob, name: string, channel: string | null): Promise<ReadMap> {
    const shot = shotOf(useDocument.getState());
    if (!shot) throw new OmbrageError('no-shot', 'No shot is open.', 'Open the shot that the map belongs to.');
    return this.provider.readMap(shot, file, name, channel);
  }

  /** While the plate is still being decoded, the viewer does what needs none of it. */
  private prepare(): void {
    const shot = shotOf(useDocument.getState());
    if (shot && !this.closed && !this.held) void this.loop.prepare(shot).catch(notifyError);
  }
}

let current: Session | null = null;

/** The session of the open shot. */
export const session = (): Session => (current ??= new Session());

/** Ends the session of a shot that is left. */
export const leaveSession = (): void => void current?.close();

/** Ends the session that was open and begins another; of several asked for at once the last one opens. */
export async function openSession(projectId: string, shotId: string): Promise<void> {
  const previous = current;
  const mine = new Session();
  current = mine;
  // what was done there is written before its project is read again
  await previous?.close();
  if (current === mine) await mine.open(projectId, shotId);
}
