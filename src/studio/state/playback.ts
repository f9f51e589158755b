import { playedRange } from '../../core/document/driven';
import { shotOf, useDocument } from './documentStore';
import { useLive } from './liveStore';
import { Player } from './player';
import { useView } from './viewStore';

/** The frames of the open shot. */
export const player = new Player(() => useView.getState().frame);

/** Goes to a frame of the shot; playing goes on from there. */
export function goTo(frame: number): void {
  const shot = shotOf(useDocument.getState());
  if (!shot) return;
  clock = null;
  useView.getState().set({ frame: Math.min(shot.settings.time.length - 1, Math.max(0, Math.round(frame))) });
}

/** One frame on or back, or to the ends of the range. */
export const step = (by: number): void => {
  useView.getState().set({ playing: false });
  goTo(useView.getState().frame + by);
};

/** When the frame that is shown was begun, and which it was; null before the first tick. */
let clock: { readonly at: number; readonly frame: number } | null = null;

/** The next look at the clock. */
let ticking = 0;

/** Begins to play, or stops; a live plate is frozen, or goes on. */
export function playOrPause(): void {
  const shot = shotOf(useDocument.getState());
  const { playing, frame, loop, set } = useView.getState();
  if (!shot) return;
  const { toggle } = useLive.getState();
  if (toggle) {
    toggle();
    return;
  }
  if (playing) {
    set({ playing: false });
    return;
  }
  const { from, to } = playedRange(shot.settings);
  clock = null;
  set({ playing: true, ...((frame < from || (frame >= to && !loop) || frame > to) && { frame: from }) });
  player.hurry();
  cancelAnimationFrame(ticking);
  ticking = requestAnimationFrame(tick);
}

/** Frames are told by the clock: those that come too late are left out, those that are not made yet are waited for. */
function tick(now: number): void {
  const shot = shotOf(useDocument.getState());
  const { playing, frame, loop, set } = useView.getState();
  if (!playing || !shot) return;
  const { from, to } = playedRange(shot.settings);
  const { fps } = shot.settings.time;
  clock ??= { at: now, frame: Math.min(to, Math.max(from, frame)) };
  let next = clock.frame + Math.floor(((now - clock.at) / 1000) * fps);
  if (next > to) {
    if (!loop) {
      set({ playing: false, frame: to });
      return;
    }
    next = from + ((next - from) % (to - from + 1));
  }
  if (next !== frame) {
    if (player.has(next)) set({ frame: next });
    else {
      // the next one that is to come is waited for
      player.hurry();
      const nextFrame = frame >= to ? from : frame + 1;
      if (player.has(nextFrame)) set({ frame: nextFrame });
      clock = { at: now, frame: useView.getState().frame };
    }
  }
  ticking = requestAnimationFrame(tick);
}
