import { writesText } from '../live/channels/writesText';
import { useEffect } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { isTimed, playedRange } from '../core/document/driven';
import { changeSettings, shotOf, useDocument } from './state/documentStore';
import { focusedByKey, watchFocus } from './state/focusBy';
import { useLayout } from './state/layoutStore';
import { goTo, playOrPause, step } from './state/playback';
import { chapterNames } from './state/chapterFacts';
import { useView } from './state/viewStore';
import { layerInHand } from './chapters/depth/layerActions';
import { toolOf } from './chapters/depth/tools/registry';
import { usualPicking } from './chapters/effects/picking';
import { downloadProject } from './chapters/output/downloadProject';
import { flipTakes } from './viewer/Takes';
import { zoomBy, zoomFit, zoomFull } from './viewer/useZoom';

/** Keys told by the character they make, wherever it lies on the keyboard. */
const BY_CHARACTER: Readonly<Record<string, () => void>> = {
  '+': () => zoomBy(1.25),
  '-': () => zoomBy(0.8),
  ',': () => inTime(() => step(-1)),
  '.': () => inTime(() => step(1)),
  '[': () => inTime(() => setRange('from')),
  ']': () => inTime(() => setRange('to')),
  '?': () => useView.getState().set({ shortcuts: true }),
};

/** Every key of the workspace. Typing in a field keeps its keys. */
export function useShortcuts(): void {
  useEffect(() => watchFocus(document), []);
  const set = useView((s) => s.set);
  useHotkeys(
    chapterNames.map((_, i) => String(i + 1)).join(','),
    (event) => {
      const name = chapterNames[Number(event.key) - 1];
      if (name) set({ chapter: name, picking: null });
    },
    ANYWHERE,
  );
  useHotkeys('q', () => set({ peek: 'plate' }), ANYWHERE);
  useHotkeys('e', () => set({ peek: 'depth' }), ANYWHERE);
  useHotkeys('q,e', () => set({ peek: null }), { ...ANYWHERE, keyup: true, keydown: false });
  useHotkeys('f', () => set({ without: useView.getState().selectedEffect }), ANYWHERE);
  useHotkeys('f', () => set({ without: null }), { ...ANYWHERE, keyup: true, keydown: false });
  useHotkeys('w', () => set({ mode: useView.getState().mode === 'wipe' ? 'picture' : 'wipe' }), ANYWHERE);
  useHotkeys('s', pickDistance, ANYWHERE);
  useHotkeys('z,x', (event) => toolOf(layerInHand()).keys?.[event.key]?.(), ANYWHERE);
  useSpace();
  useHotkeys('v', () => set({ wobble: true, follow: false }), ANYWHERE);
  useHotkeys('v', () => set({ wobble: false }), { ...ANYWHERE, keyup: true, keydown: false });
  useHotkeys(
    'home,end',
    (event) =>
      inTime((from, to) => {
        // the panel keeps its place
        event.preventDefault();
        goTo(event.key === 'Home' ? from : to);
      }),
    ANYWHERE,
  );
  useHotkeys('t', () => flipTakes(), ANYWHERE);
  useHotkeys(
    'escape',
    () => {
      set({ picking: null });
      leavePictureAlone();
    },
    ANYWHERE,
  );
  useHotkeys('p', () => (useLayout.getState().alone ? leavePictureAlone() : pictureAlone()), ANYWHERE);
  useHotkeys('*', (event) => BY_CHARACTER[event.key]?.(), ANYWHERE);
  useHotkeys('0', zoomFit, ANYWHERE);
  useHotkeys('9', zoomFull, ANYWHERE);
  useHotkeys('mod+z', () => useDocument.getState().undo(), { preventDefault: true, enableOnFormTags: true });
  useHotkeys('mod+shift+z', () => useDocument.getState().redo(), { preventDefault: true, enableOnFormTags: true });
  useHotkeys('mod+s', () => void downloadProject(), { preventDefault: true, enableOnFormTags: true });
}

/** Space moves the picture about while it is held, and plays when it is tapped. */
function useSpace(): void {
  const set = useView((s) => s.set);
  useHotkeys(
    'space',
    (event) => {
      if (!inViewer(event.target)) return;
      event.preventDefault();
      if (!event.repeat) spaceDown = { at: event.timeStamp, heard: performance.now(), zoom: useView.getState().zoom };
      set({ panning: true });
    },
    ANYWHERE,
  );
  useHotkeys(
    'space',
    (event) => {
      if (inViewer(event.target)) event.preventDefault();
      set({ panning: false });
      const shot = shotOf(useDocument.getState());
      if (inViewer(event.target) && shot && (isTimed(shot) || shot.plate.live) && wasTapped(event)) playOrPause();
    },
    { ...ANYWHERE, keyup: true, keydown: false },
  );
}

/** Everything but the picture goes away, and it plays where there is something to play. */
function pictureAlone(): void {
  useLayout.getState().set({ alone: true });
  const shot = shotOf(useDocument.getState());
  const { playing, mode } = useView.getState();
  playedAlone = shot !== null && isTimed(shot) && !playing && mode === 'picture';
  if (playedAlone) playOrPause();
}

/** What was away comes back, and what it began to play stops. */
function leavePictureAlone(): void {
  const { alone, set } = useLayout.getState();
  if (!alone) return;
  set({ alone: false });
  if (playedAlone && useView.getState().playing) playOrPause();
}

let playedAlone = false;

/** A key that is let go within this time was tapped, ms. */
const TAP_MS = 400;
let spaceDown: { at: number; heard: number; zoom: unknown } | null = null;

/**
 * Whether Space was pressed and let go without moving the picture. A page that is busy drawing hears of keys late, of the one more than of the
 * other: the shorter of what the keyboard says and of what the page heard counts.
 */
function wasTapped(up: KeyboardEvent): boolean {
  if (!spaceDown) return false;
  const { at, heard, zoom } = spaceDown;
  return zoom === useView.getState().zoom && Math.min(up.timeStamp - at, performance.now() - heard) < TAP_MS;
}

/** Does something with the range of a shot in which something moves. */
function inTime(act: (from: number, to: number) => void): void {
  const shot = shotOf(useDocument.getState());
  if (!shot || !isTimed(shot)) return;
  const { from, to } = playedRange(shot.settings);
  act(from, to);
}

/** The range begins, or ends, at the playhead. */
function setRange(end: 'from' | 'to'): void {
  const { frame } = useView.getState();
  changeSettings((s) => {
    s.time[end] = frame;
    if (end === 'from' && s.time.to !== null && s.time.to < frame) s.time.to = null;
    if (end === 'to' && s.time.from !== null && s.time.from > frame) s.time.from = null;
  });
}

/** A click in the picture will give a distance: to the layer in hand, or else to an effect. */
function pickDistance(): void {
  const { selectedEffect, set } = useView.getState();
  const { picking } = toolOf(layerInHand());
  const shot = shotOf(useDocument.getState());
  if (picking) set({ picking });
  else if (shot) set({ picking: usualPicking(shot, selectedEffect), chapter: 'effects' });
}

/** Space presses a button that was reached by key, and what is in a list that is open; elsewhere it plays, or takes hold of the picture. */
const inViewer = (target: EventTarget | null): boolean =>
  !(target instanceof Element) ||
  !(
    target.closest('[role="menu"], [role="listbox"], [role="dialog"]') ||
    (target.closest('button, a, input, [role="slider"], [role="button"], [role="combobox"]') && focusedByKey(target))
  );

/** What has the focus may have keys of its own. */
const ownsKey = ({ target, key }: KeyboardEvent): boolean =>
  target instanceof Element && (target.closest<HTMLElement>('[data-keys]')?.dataset.keys ?? '').split(' ').includes(key);

const ANYWHERE = { enableOnFormTags: true, ignoreEventWhen: (event: KeyboardEvent) => writesText(event.target) || ownsKey(event) };
