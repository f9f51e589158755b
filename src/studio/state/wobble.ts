import { newMove } from '../../core/document/defaults';
import type { MoveItem, Shot } from '../../core/document/schema';
import type { Relief } from '../../core/camera/relief';
import type { Size } from '../../core/picture';
import { contentKey } from '../../core/key';
import { engine, type Job } from '../../engine/pool/engine';
import type { Given } from '../../engine/messages/protocol';
import { notifyError } from '../notices/noticeStore';
import { Player } from './player';
import { requestOf } from './previewLoop';
import { lensOf } from './shotLens';
import { useView } from './viewStore';

/** Once round in a second. */
export const WOBBLE_FPS = 24;
const FRAMES = 24;
/** Long side of its frames, px: each is made while the one before is looked at. */
const LARGEST = 720;

/** The frames of the wobble: made anew whenever the map changes. */
export const wobbler = new Player(() => 0, 0);

/** A shot without effects and other moves, seen from somewhere else by one move. */
function seenBy(shot: Shot, item: MoveItem): Shot {
  const camera = { ...shot.settings.camera, moves: [item], border: 'mirrored' as const, stereo: { ...shot.settings.camera.stereo, on: false } };
  return { ...shot, settings: { ...shot.settings, effects: [], camera, time: { length: FRAMES, fps: WOBBLE_FPS, from: null, to: null } } };
}

function smaller(view: Size): Size {
  const shrink = Math.min(1, LARGEST / Math.max(view.width, view.height));
  return { width: Math.round(view.width * shrink), height: Math.round(view.height * shrink) };
}

/** The circle found last, and for which depth; it is worked out once for each. */
let circle: { readonly relief: Relief; readonly key: string; readonly item: Promise<MoveItem> } | null = null;

/** As far aside as stays clean, about the middle of the depth; by a worker. */
function circleFor(shot: Shot, relief: Relief): Promise<MoveItem> {
  const lens = lensOf(shot);
  const { camera } = shot.settings;
  const key = contentKey(lens, camera.clean);
  if (circle?.relief !== relief || circle.key !== key) {
    const [far, near] = relief.ends;
    const item = newMove('circle');
    const values = { ...item.values, period: FRAMES, stands: 2 / Math.max(1e-6, far + near) };
    const time = { length: FRAMES, fps: WOBBLE_FPS, from: null, to: null };
    const fitted = engine()
      .fitMoves([{ ...item, values }], { camera, time }, lens, relief)
      .then(([found]) => ({ ...found!, id: 'wobble' }));
    circle = { relief, key, item: fitted };
    // one that failed is tried again
    fitted.catch(() => (circle = null));
  }
  return circle.item;
}

/** Makes the frames of the wobble for the map as it is now. */
export function wobble(shot: Shot, relief: Relief, given: Given, view: Size): void {
  const mine = (wobbling = {});
  circleFor(shot, relief)
    .then((item) => mine === wobbling && useView.getState().wobble && wobbler.update(seenBy(shot, item), given, smaller(view)))
    .catch(notifyError);
}

/** the newest wobble that was asked for */
let wobbling = {};

interface Scene {
  readonly shot: Shot;
  readonly relief: Relief;
  readonly given: Given;
  readonly view: Size;
}

/** The camera follows the pointer: the newest place is seen from next. */
export class Follower {
  private wanted: { readonly x: number; readonly y: number } | null = null;
  private job: Job<true> | null = null;
  /** the frame that was made last */
  private bitmap: ImageBitmap | null = null;
  private scene: Scene | null = null;
  private fitting = false;

  shown(): ImageBitmap | null {
    return this.bitmap;
  }

  watch(shot: Shot, relief: Relief, given: Given, view: Size): void {
    this.scene = { shot, relief, given, view };
  }

  /** A place of the pointer, shares of the picture. */
  to(x: number, y: number): void {
    this.wanted = { x, y };
    if (!this.scene || this.job || this.fitting) return;
    const { scene } = this;
    this.fitting = true;
    circleFor(scene.shot, scene.relief)
      .then((item) => this.scene === scene && this.go(scene, item))
      .catch(notifyError)
      .finally(() => {
        this.fitting = false;
        // the map may have become another meanwhile
        if (this.wanted && !this.job && this.scene) this.to(this.wanted.x, this.wanted.y);
      });
  }

  private go({ shot, given, view }: Scene, around: MoveItem): void {
    const { radius, stands } = around.values as { radius: number; stands: number };
    const step = newMove('truck');
    this.job = engine().frames(
      () => {
        const at = this.wanted;
        this.wanted = null;
        if (!at) return null;
        const [right, up] = [(2 * at.x - 1) * radius, (2 * at.y - 1) * radius];
        const run = { from: 0, over: 1, easing: 'hold', plate: 'end', stands };
        const truck = { ...step, id: 'follow x', values: { ...step.values, ...run, distance: -right, direction: 0 } };
        const rise = { ...newMove('rise'), id: 'follow y' };
        const moved = seenBy(shot, truck);
        moved.settings.camera.moves.push({ ...rise, values: { ...rise.values, ...run, height: up } });
        return { frame: 0, shot: requestOf(moved, smaller(view), { frame: 0, fps: WOBBLE_FPS }), given };
      },
      (_, { picture = null }) => {
        this.bitmap?.close();
        this.bitmap = picture;
      },
    );
    this.job.done.catch(notifyError).finally(() => {
      this.job = null;
      if (this.wanted) this.to(this.wanted.x, this.wanted.y);
    });
  }

  stop(): void {
    this.job?.cancel();
    this.bitmap?.close();
    this.bitmap = null;
    this.wanted = null;
    this.scene = null;
  }
}

export const follower = new Follower();
