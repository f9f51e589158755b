import { useHotkeys } from 'react-hotkeys-hook';
import { useDocument } from './state/documentStore';
import { chapterNames, useView } from './state/viewStore';
import { layerById } from './chapters/depth/layerActions';
import { resizeBrush } from './chapters/depth/tools/brush/brushStore';
import { downloadProject } from './chapters/output/exports';
import { flipTakes } from './viewer/Takes';
import { zoomBy, zoomFit, zoomFull } from './viewer/useZoom';

/** Keys told by the character they make, wherever it lies on the keyboard. */
const BY_CHARACTER: Readonly<Record<string, () => void>> = {
  '+': () => zoomBy(1.25),
  '-': () => zoomBy(0.8),
  '?': () => useView.getState().set({ shortcuts: true }),
};

/** Every key of the workspace. Typing in a field keeps its keys. */
export function useShortcuts(): void {
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
  useHotkeys('w', () => set({ mode: useView.getState().mode === 'wipe' ? 'picture' : 'wipe' }), ANYWHERE);
  useHotkeys('s', () => (brushInHand() ? set({ picking: 'distance' }) : set({ picking: 'focus', chapter: 'effects' })), ANYWHERE);
  useHotkeys('z', () => resizeBrush(1 / 1.15), ANYWHERE);
  useHotkeys('x', () => resizeBrush(1.15), ANYWHERE);
  useHotkeys(
    'space',
    (event) => {
      if (!inViewer(event.target)) return;
      event.preventDefault();
      set({ panning: true });
    },
    ANYWHERE,
  );
  useHotkeys('space', () => set({ panning: false }), { ...ANYWHERE, keyup: true, keydown: false });
  useHotkeys('t', () => flipTakes(), ANYWHERE);
  useHotkeys('escape', () => set({ picking: null }), ANYWHERE);
  useHotkeys('*', (event) => BY_CHARACTER[event.key]?.(), ANYWHERE);
  useHotkeys('0', zoomFit, ANYWHERE);
  useHotkeys('9', zoomFull, ANYWHERE);
  useHotkeys('mod+z', () => useDocument.getState().undo(), { preventDefault: true, enableOnFormTags: true });
  useHotkeys('mod+shift+z', () => useDocument.getState().redo(), { preventDefault: true, enableOnFormTags: true });
  useHotkeys('mod+s', () => void downloadProject(), { preventDefault: true, enableOnFormTags: true });
}

/** The chosen layer is painted on. */
const brushInHand = (): boolean => {
  const { chapter, selectedLayer } = useView.getState();
  return chapter === 'depth' && layerById(selectedLayer)?.kind === 'brush';
};

/** Space presses a button that has the focus; elsewhere it takes hold of the picture. */
const inViewer = (target: EventTarget | null): boolean =>
  !(target instanceof HTMLElement) || !target.closest('button, input, [role="slider"], [role="menuitem"]');

/** A field that text is typed into keeps its keys; a slider or a switch that has the focus does not. */
function writesText(target: EventTarget | null): boolean {
  if (target instanceof HTMLInputElement) return !['range', 'checkbox', 'radio', 'button'].includes(target.type);
  return target instanceof HTMLTextAreaElement || (target instanceof HTMLElement && target.isContentEditable);
}

const ANYWHERE = { enableOnFormTags: true, ignoreEventWhen: (event: KeyboardEvent) => writesText(event.target) };
