import type { MoveItem, Settings } from '../document/schema';
import { withValues } from '../values/drive';
import { judgedFrames, poseAt } from './path';
import type { PlateLens } from './pose';
import { hfovOf } from '../shot/framing';
import { moveOf } from './registry';
import { stretchAt, type Relief, type Stretch } from './relief';

/** A new move takes so much of what it may tear open. */
const ROOM = 0.75;
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

/** A fresh move whose amounts are as large as the picture allows, and no larger than usual ones of a room that is four metres deep. */
export function fitted(item: MoveItem, settings: Pick<Settings, 'camera' | 'time'>, lens: PlateLens, relief: Relief): MoveItem {
  const px = ROOM * (settings.camera.clean / 100) * lens.width;
  const alone = (move: MoveItem): Pick<Settings, 'camera' | 'time'> => ({ time: settings.time, camera: { ...settings.camera, moves: [move] } });
  const usual = worstStretch(alone(item), lens, relief).px;
  if (usual < 1e-6) return item;
  // what is far away needs a longer way, what is close a shorter one
  let best = usual < Infinity ? scaled(item, Math.min(100, px / usual)) : item;
  if (worstStretch(alone(best), lens, relief).px > px) best = shortened(alone(best), lens, relief, px)[0]!;
  return best;
}
