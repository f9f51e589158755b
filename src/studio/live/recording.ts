import * as Comlink from 'comlink';
import { newId } from '../../core/document/defaults';
import { signalsOf, withSignalsPlayed } from '../../core/document/signals';
import { TIME_LIMIT } from '../../core/limits';
import type { Shot } from '../../core/document/schema';
import { copyOf } from '../../core/values/copy';
import { engine } from '../../engine/pool/engine';
import type { Heard, LiveFrame } from '../../live/definition';
import type { RecordedClip } from '../../live/recorder';
import { database } from '../../store/database';
import { checkRoom, putMedia } from '../../store/media';
import { notify, notifyError } from '../notices/noticeStore';
import { takeClip } from '../state/clipShot';
import { useDocument } from '../state/documentStore';
import { useLive } from '../state/liveStore';
import { progressOf } from '../state/sessionStore';
import { recorderPort } from './recorderPort';

/** So many pictures may wait to be written; those beyond are left out, and counted. */
const MOST_WAITING = 24;
/** So many channels are kept with a recording, and so many of their values with its shot. */
const MOST_CHANNELS = 200;
const MOST_VALUES = 1e6;
/** Clips run so fast at the most. */
const MOST_FPS = 1000;

/** The recording of a live plate: written while it goes on, and made a clip with its depth and channels when it is over. */
export class Recording {
  private id: string | null = null;
  private begun = 0;
  private frames = 0;
  private missed = 0;
  private waiting = 0;
  /** channels that drive something */
  private used: readonly string[] = [];

  constructor(
    private readonly projectId: string,
    private readonly shotId: string,
  ) {}

  get goesOn(): boolean {
    return this.id !== null;
  }

  figures(): { readonly frames: number; readonly seconds: number; readonly missed: number } | null {
    return this.id === null ? null : { frames: this.frames, seconds: (performance.now() - this.begun) / 1000, missed: this.missed };
  }

  begin({ plate, name, settings }: Shot, rate: number): void {
    const id = newId();
    this.used = signalsOf(settings).flatMap(({ signal }) => signal.channels);
    this.id = id;
    this.begun = performance.now();
    [this.frames, this.missed, this.waiting] = [0, 0, 0];
    const { width, height } = useLive.getState().figures.size ?? plate;
    const row = { id, project: this.projectId, shot: this.shotId, name, width, height, fps: Math.min(MOST_FPS, rate), begunAt: Date.now() };
    recorderPort()
      .begin(row)
      .catch((error: unknown) => this.fail(error));
  }

  /** One picture more, with the channels as they are. */
  async add({ number, at, raster }: LiveFrame, channels: Heard): Promise<void> {
    if (this.waiting >= MOST_WAITING) {
      this.missed++;
      return;
    }
    this.waiting++;
    try {
      const heard = someOf(channels, this.used);
      if (await recorderPort().add({ number, at, raster, channels: heard })) this.frames++;
      else this.missed++;
    } catch (error) {
      this.fail(error);
    } finally {
      this.waiting--;
    }
    if (this.frames >= TIME_LIMIT) await this.stop();
  }

  /** Ends it; what was recorded is made a clip. */
  async stop(): Promise<void> {
    const { id } = this;
    if (id === null) return;
    this.id = null;
    try {
      await recorderPort().end();
      await makeClip(id, this.projectId, this.shotId, this.missed);
    } catch (error) {
      notifyError(error);
    }
  }

  /** What was written until then is kept. */
  private fail(error: unknown): void {
    if (this.id === null) return;
    notifyError(error);
    void this.stop();
  }
}

/** So many channels as may be kept, those that drive something first. */
function someOf(channels: Heard, used: readonly string[]): Heard {
  const names = Object.keys(channels);
  if (names.length <= MOST_CHANNELS) return channels;
  const first = used.filter((name) => name in channels);
  const kept = new Set([...first, ...names.slice(0, MOST_CHANNELS)].slice(0, MOST_CHANNELS));
  return Object.fromEntries([...kept].map((name) => [name, channels[name]!]));
}

/** Makes a clip of a recording, as a shot of its own beside the live one. */
export async function makeClip(id: string, projectId: string, shotId: string, missed = 0): Promise<void> {
  const kept = (): void =>
    void notify({ kind: 'note', text: 'The recording is kept, and no clip was made of it yet.', hint: 'Open its shot again to make one.' });
  if (!liveShot(projectId, shotId)) {
    kept();
    return;
  }
  const set = (making: ReturnType<typeof useLive.getState>['making']): void => useLive.getState().set({ making });
  const progress = progressOf('Making the clip', () => void recorderPort().stop(), set);
  try {
    const clip = await recorderPort().clip(id, Comlink.proxy(progress.report));
    if (clip && (await addTake(clip, projectId, shotId, missed))) await recorderPort().forget(id);
    else kept();
  } finally {
    progress.end();
  }
}

/** A clip that was recorded becomes a shot: set as the live one, with its depth in alpha, and signals that play what was recorded. */
async function addTake(clip: RecordedClip, projectId: string, shotId: string, missed: number): Promise<boolean> {
  const live = liveShot(projectId, shotId);
  if (!live) return false;
  const taken = useDocument.getState().project!.shots.filter((s) => s.name.startsWith(`${live.name}, recorded`)).length + 1;
  const name = `${live.name}, recorded ${taken}`;
  const file = new File([clip.blob], `${name}.zip`, { type: 'application/zip' });
  await checkRoom(file.name, file.size);
  const { facts, sha256: hash, firstPicture } = await engine().decode(file, file.name);
  firstPicture?.close();
  await putMedia(database(), hash, file.name, file);
  const channels = keptChannels(clip.channels, live);
  const shot = takeOf(live, { ...clip, channels }, { hash, name, file: file.name });
  if (facts.clip) takeClip(shot, { ...facts.clip, fps: clip.fps, remarks: [] }, file);
  for (const layer of shot.settings.layers) if (layer.media?.sha256 === hash && shot.plate.clip) layer.media.clip = { ...shot.plate.clip };
  shot.settings = withSignalsPlayed(shot);
  useDocument.getState().amend((p) => void p.shots.splice(p.shots.findIndex((s) => s.id === shotId) + 1, 0, copyOf(shot)));
  const brings = shot.settings.layers.some((l) => l.media?.sha256 === hash);
  const withWhat = `${brings ? 'depth and ' : ''}${Object.keys(channels).length} channels`;
  const gone = [
    clip.stoodFor > 0 && `${clip.stoodFor} never arrived: those before them stand in their place.`,
    missed > 0 && `${missed} came too fast to be written.`,
    clip.damaged > 0 && `${clip.damaged} at the end were damaged.`,
  ].filter((line) => line !== false);
  notify({
    kind: 'note',
    text: `${name}: ${clip.frames} frames, ${(clip.frames / clip.fps).toFixed(1)} s, with ${withWhat}.`,
    hint: gone.length > 0 ? gone.join(' ') : 'It stands in the list of shots, and plays without the source.',
    actions: [{ label: 'Open it', run: () => window.location.assign(`/shot?project=${projectId}&shot=${shot.id}`) }],
  });
  return true;
}

/** The live shot of a recording, where its project is open. */
function liveShot(projectId: string, shotId: string): Shot | undefined {
  const { project } = useDocument.getState();
  return project?.id === projectId ? project.shots.find((s) => s.id === shotId) : undefined;
}

/** The channels that a shot keeps of a recording: those that drive something, then others as long as there is room for them. */
export function keptChannels(channels: RecordedClip['channels'], { settings }: Shot, most = MOST_VALUES): Record<string, number[]> {
  const used = new Set(signalsOf(settings).flatMap(({ signal }) => signal.channels));
  const kept: Record<string, number[]> = {};
  let left = most;
  for (const [name, values] of Object.entries(channels).sort(([a], [b]) => Number(used.has(b)) - Number(used.has(a)))) {
    if (!used.has(name) && values.length > left) continue;
    kept[name] = values;
    left -= values.length;
  }
  return kept;
}

/** The shot of a recorded clip: all that was set of the live one, its takes apart. */
export function takeOf(
  live: Shot,
  { width, height, channels }: Pick<RecordedClip, 'width' | 'height' | 'channels'>,
  { hash, name, file }: Named,
): Shot {
  const shot = copyOf(live);
  const before = live.plate.sha256;
  const { live: _, ...plate } = shot.plate;
  for (const layer of shot.settings.layers) if (layer.media?.sha256 === before) layer.media = { sha256: hash, name: file, width, height };
  return {
    ...shot,
    id: newId(),
    name,
    plate: { ...plate, sha256: hash, name: file, width, height, recorded: channels },
    takes: [],
    take: null,
    previousTake: null,
  };
}

interface Named {
  readonly hash: string;
  readonly name: string;
  readonly file: string;
}
