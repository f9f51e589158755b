import { standing } from '../../core/document/standing';
import { checks } from '../../core/depth/checks/registry';
import { rulerOf } from '../../core/depth/ruler';
import { calibrationOf } from '../../core/document/defaults';
import type { Settings, Shot } from '../../core/document/schema';
import type { Size } from '../../core/picture';
import { limitable, reachOf } from '../../core/effects/definition';
import { rangeOf } from '../../core/matte/reach';
import { effectOf } from '../../core/effects/registry';
import { renderSize } from '../../core/shot/chain';
import { contentKey } from '../../core/key';
import type { ShotRequest } from '../../core/shot/stage';
import type { Moment } from '../../core/values/moment';
import { valuesSchema } from '../../core/values/params';
import { engine } from '../../engine/pool/engine';
import type { ChapterThumbs, PreviewPart, PreviewSpec } from '../../engine/messages/protocol';
import { useDocument } from './documentStore';
import { givenAtGlance } from './liveStore';
import { useSession } from './sessionStore';
import { momentOf, shotNow } from './shotNow';
import { factsOf } from './chapterFacts';
import { useView } from './viewStore';

/** Largest picture rendered for the viewer, px. */
const VIEW_PIXELS = 8.3e6;
/** So long the first picture of a state is waited for before a newer state is asked for. */
const LONGEST_WAIT_MS = 700;
/** From this time on a smaller picture is shown first. */
const QUICK_ABOVE_MS = 45;

/** A shot as the chain wants it, at its output size or smaller. */
export function requestOf(shot: Shot, size: Size, at: Moment = momentOf(shot)): ShotRequest {
  const { sha256, name, width, height, opaque, clip } = shot.plate;
  return { plate: { sha256, name, width, height, ...(opaque && { opaque }), ...(clip && { clip }) }, settings: shot.settings, at, size };
}

const atPlate = (shot: Shot): Shot => {
  const settings = standing(shot.settings);
  return settings === shot.settings ? shot : { ...shot, settings };
};

/** The shot with one effect alone, or without one, where that is what is looked at. */
function asLookedAt(shot: Shot): Shot {
  const { alone, without } = useView.getState();
  const { effects } = shot.settings;
  const kept = effects.some((e) => e.id === alone) ? effects.filter((e) => e.id === alone).map((e) => ({ ...e, on: true })) : effects;
  const left = kept.filter((e) => e.id !== without);
  return left.length === effects.length && kept === effects ? shot : { ...shot, settings: { ...shot.settings, effects: left } };
}

/** The shot as it is looked at in the chapter that is open. */
export const lookedAt = (shot: Shot): Shot => asLookedAt(factsOf(useView.getState().chapter).inPlace ? atPlate(shot) : shot);

/** The limits of the effect in hand, or else of the first that has some. */
function limitsInHand({ settings }: Shot, selected: string | null): Pick<PreviewSpec, 'reach' | 'region'> {
  const items = [...settings.effects.filter((e) => e.id === selected), ...settings.effects];
  for (const { kind, values, region = null } of items) {
    const definition = effectOf(kind);
    if (definition.cuts) return { reach: definition.cuts(valuesSchema(definition.params).parse(values)), region };
    const reach = reachOf(definition, values);
    if (reach) return { reach: { ...rangeOf(reach), outside: reach.reachOutside }, region };
    if (region && limitable(definition)) return { reach: null, region };
  }
  return { reach: null, region: null };
}

/** The parts of a preview that hold memory until they are closed. */
const PICTURES = ['plate', 'depth', 'before', 'finished', 'marks', 'shown'] as const;

/** Frees the pictures of a preview, but for those that another one shows as well. */
export function freePreview(old: PreviewPart | null, kept: PreviewPart | null): void {
  for (const name of PICTURES) {
    const bitmap = old?.[name];
    if (bitmap && !PICTURES.some((other) => kept?.[other] === bitmap)) bitmap.close();
  }
  if (old?.loop !== kept?.loop) for (const bitmap of old?.loop ?? []) bitmap.close();
}

/** Frees the chapters' small pictures. */
export function freeThumbs(thumbs: Partial<ChapterThumbs>): void {
  for (const bitmap of Object.values(thumbs)) bitmap.close();
}

interface Callbacks {
  /** everything that was asked for is there */
  rested(): void;
  failed(error: unknown): void;
}

/** Asks for what is looked at: one request for each state, at least its first picture before the next, the quality as the machine allows. */
export class PreviewLoop {
  private box = { width: 640, height: 360 };
  private lastFullMs = 200;
  private requested = '';
  /** the state that was last shown in full, or failed */
  private settled = '';
  /** until when the first picture of what was asked for is waited for; 0: none is */
  private firstDue = 0;
  private overtaken: (() => void) | null = null;
  private requests = 0;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private closed = false;

  constructor(private readonly on: Callbacks) {}

  close(): void {
    this.closed = true;
    clearTimeout(this.timer);
  }

  /** Screen pixels that the picture may take, device pixels. False where nothing changed. */
  resize(width: number, height: number): boolean {
    if (width === this.box.width && height === this.box.height) return false;
    this.box = { width, height };
    return true;
  }

  /** What was asked for last is asked for again, though nothing changed. */
  again(): void {
    this.requested = '';
    this.settled = '';
  }

  /** While the plate is still being decoded, the viewer does what needs none of it. */
  async prepare(shot: Shot): Promise<void> {
    const { size, quick } = this.sizes(shot.settings);
    await engine().prepare(requestOf(shot, size), quick ? [quick, size] : [size]);
  }

  /** Shows a state. `comparison`: key of a held estimate, for checks that compare with one; `again` shows the newest state once there is time. */
  show(shot: Shot, comparison: string | null, again: () => void): void {
    if (this.closed) return;
    const { quick, ...wanted } = this.specOf(shot, comparison);
    const state = contentKey(wanted);
    useSession.getState().set({ settling: state !== this.settled || state !== this.requested });
    if (state === this.requested) return;
    // while something is dragged every state is overtaken by the next: the first picture of each is waited for, or none would come
    if (performance.now() < this.firstDue) {
      this.overtaken = again;
      return;
    }
    this.requested = state;
    // from here on the viewer may show steps towards this state: the one that rested before is no longer on screen
    this.settled = '';
    this.firstDue = performance.now() + LONGEST_WAIT_MS;
    const request = ++this.requests;
    const first = (): void => {
      // a newer request waits for a first picture of its own
      if (request !== this.requests) return;
      clearTimeout(this.timer);
      this.firstDue = 0;
      const next = this.overtaken;
      this.overtaken = null;
      next?.();
    };
    clearTimeout(this.timer);
    this.timer = setTimeout(first, LONGEST_WAIT_MS);
    const dragged = useDocument.getState().draft !== null;
    const spec: PreviewSpec = { ...wanted, quick, dragged, has: useSession.getState().preview?.fingerprints ?? null };
    const started = performance.now();
    performance.mark('ombrage-change');
    void engine()
      .preview(
        spec,
        (part) => {
          if (this.closed) {
            freePreview(part, null);
            return;
          }
          if (this.firstDue > 0) queueMicrotask(first);
          // what came from the cache tells little of how long the next will take
          if (part.stage === 'full') this.lastFullMs = Math.max(part.milliseconds, 0.75 * this.lastFullMs);
          performance.measure(`ombrage-${part.stage}`, { start: started, end: performance.now() });
          this.take(part);
          if (part.stage === 'full') this.settle(state);
        },
        (thumbs) => {
          if (this.closed) {
            freeThumbs(thumbs);
            return;
          }
          const old = useSession.getState().thumbs;
          useSession.getState().set({ thumbs: { ...old, ...thumbs } });
          for (const name of Object.keys(thumbs) as (keyof ChapterThumbs)[]) old[name]?.close();
        },
      )
      .then((whole) => {
        if (whole && !this.closed) this.on.rested();
      })
      .catch((error: unknown) => {
        if (this.closed) return;
        // the same state may be asked for again
        this.settle(state);
        if (this.requested === state) this.requested = '';
        this.on.failed(error);
      })
      .finally(first);
  }

  /** A state is shown, or cannot be: where it is the newest one nothing more is on its way. */
  private settle(state: string): void {
    this.settled = state;
    if (this.requested === state && !this.overtaken) useSession.getState().set({ settling: false });
  }

  private take(part: PreviewPart): void {
    const { preview: old, lastPicture, set } = useSession.getState();
    const shown: PreviewPart = {
      ...part,
      plate: part.plate ?? old?.plate ?? null,
      depth: part.depth ?? old?.depth ?? null,
      before: part.before ?? old?.before ?? null,
      cleaned: part.cleaned ?? old?.cleaned ?? null,
      loop: part.loop ?? (part.stage === 'quick' ? (old?.loop ?? null) : null),
    };
    set({ preview: shown, lastPicture: null });
    lastPicture?.close();
    freePreview(old, shown);
  }

  private specOf(shot: Shot, comparison: string | null): Omit<PreviewSpec, 'has' | 'dragged'> {
    const view = useView.getState();
    const { size, quick } = this.sizes(shot.settings);
    const now = shotNow(shot);
    const { near, far, spacing } = calibrationOf(now.settings.calibration);
    const check = checks.find((c) => c.kind === view.check);
    return {
      shot: requestOf(lookedAt(shot), size),
      given: givenAtGlance(useSession.getState().given),
      estimate: check?.needsEstimate ? comparison : null,
      cleaning: factsOf(view.chapter).cleaning === true,
      quick,
      depthColours: view.depthColours,
      check: view.check,
      ...(check?.needsReach ? limitsInHand(now, view.selectedEffect) : { reach: null, region: null }),
      ruler: rulerOf({ near, far }, view.ruler === 'as-map' ? spacing : view.ruler),
      finished: view.peek === null,
    };
  }

  /** The size that the viewer needs. */
  viewSize(settings: Settings): Size {
    return this.sizes(settings).size;
  }

  /** The size that the viewer needs, and the smaller one to show first; null where the whole is soon there. */
  private sizes({ framing }: Settings): { size: Size; quick: Size | null } {
    const { zoom } = useView.getState();
    const scale = zoom ? Math.min(1, zoom.scale * window.devicePixelRatio) : Infinity;
    let size = zoom ? renderSize(framing, { width: framing.width * scale, height: framing.height * scale }) : renderSize(framing, this.box);
    const pixels = size.width * size.height;
    if (pixels > VIEW_PIXELS)
      size = renderSize(framing, { width: size.width * Math.sqrt(VIEW_PIXELS / pixels), height: size.height * Math.sqrt(VIEW_PIXELS / pixels) });
    const smaller = this.lastFullMs > 5 * QUICK_ABOVE_MS ? 3 : 2;
    const dragged = useDocument.getState().draft !== null;
    const quick =
      (this.lastFullMs > QUICK_ABOVE_MS || dragged) && size.width > 200
        ? { width: Math.ceil(size.width / smaller), height: Math.ceil(size.height / smaller) }
        : null;
    return { size, quick };
  }
}
