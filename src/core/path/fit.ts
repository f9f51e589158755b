import type { MoveItem, Settings } from '../document/schema';
import { withValues } from '../values/drive';
import { judgedFrames, poseAt } from './path';
import { ViewGeometry, type Placed, type PlateLens } from '../camera/pose';
import { hfovOf } from '../document/framing';
import { moveOf } from '../camera/registry';
import { stretchAt, type Relief, type Stretch } from '../camera/relief';

/** Over its length a new move lets the nearest pass the farthest by so much of the width: enough to be seen, and hidden parts can be filled so far. */
const SEEN = 0.025;
/** A usual amount is made at most so many times as large. */
const MOST = 100;
const STEPS = 8;
/** Where a path is looked at, shares of width and height: what is looked at is seldom in the corners, where a push-in moves things most. */
const PLACES = [0.25, 0.5, 0.75];
/** Digits that are kept of an amount that was reckoned. */
const DIGITS = 2;
/** Frames that are looked at to find the worst one. */
const LOOKED = 48;

/** The worst frame of a shot's path: where it tears the picture open most. */
export function worstStretch(settings: Pick<Settings, 'camera' | 'time'>, lens: PlateLens, relief: Relief): Stretch & { readonly frame: number } {
  const hfov = hfovOf(lens.width, lens.focalPx);
  let worst = { px: 0, x: 0.5, y: 0.5, frame: 0 };
  const all = judgedFrames(settings.time.length);
  const step = Math.max(1, Math.ceil(all.length / LOOKED));
  for (const [k, frame] of all.entries()) {
    if (k % step !== 0 && k !== all.length - 1) continue;
    const found = stretchAt(lens, poseAt(settings, hfov, { frame, fps: settings.time.fps }), relief);
    if (found.px > worst.px) worst = { ...found, frame };
  }
  return worst;
}

/** A move with its amounts, and the keys that drive them, scaled; each brought to so many digits, towards less. */
function scaled(item: MoveItem, by: number): MoveItem {
  const { amounts } = moveOf(item.kind);
  const less = (v: number): number => {
    const size = Math.abs(v * by);
    if (size === 0) return 0;
    const unit = 10 ** (Math.floor(Math.log10(size)) - DIGITS + 1);
    return Math.sign(v) * Number((Math.floor(size / unit + 1e-9) * unit).toPrecision(DIGITS));
  };
  const values = { ...item.values };
  const drives = { ...item.drives };
  for (const name of amounts) {
    const value = values[name];
    if (typeof value === 'number') values[name] = less(value);
    const drive = drives[name];
    if (drive) drives[name] = withValues(drive, less);
  }
  return { ...item, values, drives };
}

/** The moves of a shot made shorter, all by the same share, until they tear nothing open wider than so many px; as they are where they do not. */
export function shortened(settings: Pick<Settings, 'camera' | 'time'>, lens: PlateLens, relief: Relief, px: number): readonly MoveItem[] {
  const { camera, time } = settings;
  const at = (by: number): readonly MoveItem[] => camera.moves.map((m) => (m.on ? scaled(m, by) : m));
  const worst = (moves: readonly MoveItem[]): number => worstStretch({ time, camera: { ...camera, moves: [...moves] } }, lens, relief).px;
  if (worst(camera.moves) <= px) return camera.moves;
  let [low, high] = [0, 1];
  for (let k = 0; k < 14; k++) {
    const middle = (low + high) / 2;
    if (worst(at(middle)) <= px) low = middle;
    else high = middle;
  }
  return at(low);
}

/** How far the nearest passes the farthest over a path, px of the output: where it does most, of nine places in the picture's middle half; Infinity where something comes before the camera. */
export function passing(settings: Pick<Settings, 'camera' | 'time'>, lens: PlateLens, { ends: [far, near] }: Pick<Relief, 'ends'>): number {
  const hfov = hfovOf(lens.width, lens.focalPx);
  const [a, b]: [Placed, Placed] = [
    { x: 0, y: 0, q: 0 },
    { x: 0, y: 0, q: 0 },
  ];
  const frames = judgedFrames(settings.time.length);
  const views = frames.map((frame) => new ViewGeometry(lens, poseAt(settings, hfov, { frame, fps: settings.time.fps })));
  let most = 0;
  for (const x of PLACES)
    for (const y of PLACES) {
      let [left, right, top, bottom] = [Infinity, -Infinity, Infinity, -Infinity];
      for (const view of views) {
        const [px, py] = [x * lens.width, y * lens.height];
        if (!view.forward(px, py, near, a) || !view.forward(px, py, far, b)) return Infinity;
        [left, right] = [Math.min(left, a.x - b.x), Math.max(right, a.x - b.x)];
        [top, bottom] = [Math.min(top, a.y - b.y), Math.max(bottom, a.y - b.y)];
      }
      most = Math.max(most, Math.hypot(right - left, bottom - top));
    }
  return most;
}

/**
 * A fresh move that is seen and stays clean: over its length the nearest passes the farthest by 2.5 % of the width, or by less where edges
 * would tear open wider than the shot's clean limit. What is far away needs a longer way, what is close a shorter one.
 */
export function fitted(item: MoveItem, settings: Pick<Settings, 'camera' | 'time'>, lens: PlateLens, relief: Relief): MoveItem {
  const px = (settings.camera.clean / 100) * lens.width;
  const alone = (move: MoveItem): Pick<Settings, 'camera' | 'time'> => ({ time: settings.time, camera: { ...settings.camera, moves: [move] } });
  let [by, best] = [1, item];
  // nearly in proportion; what turns as well is met in a few steps
  for (let k = 0; k < STEPS; k++) {
    const usual = passing(alone(best), lens, relief);
    if (usual < 1e-6) return item;
    by = usual < Infinity ? Math.min(MOST, (by * SEEN * lens.width) / usual) : by / 4;
    best = scaled(item, by);
  }
  return worstStretch(alone(best), lens, relief).px > px ? shortened(alone(best), lens, relief, px)[0]! : best;
}
