import { useDocument, shotOf } from '../state/documentStore';
import { useView } from '../state/viewStore';
import { fitScale, zoomAt } from '../picture/geometry';
import { create } from 'zustand';

/** Size of the view, kept by the viewer for the controls that zoom it. */
export const useViewSize = create<{ width: number; height: number }>()(() => ({ width: 800, height: 450 }));

const output = (): { width: number; height: number } => shotOf(useDocument.getState())?.settings.framing ?? { width: 16, height: 9 };

export function zoomBy(factor: number): void {
  const view = useView.getState();
  const size = useViewSize.getState();
  view.set({ zoom: zoomAt(size, output(), view.zoom, factor, size.width / 2, size.height / 2) });
}

export const zoomFit = (): void => useView.getState().set({ zoom: null });

export function zoomFull(): void {
  const { width, height } = output();
  const { zoom, pointer, set } = useView.getState();
  set({
    zoom: { scale: 1 / (globalThis.devicePixelRatio || 1), x: zoom?.x ?? width * (pointer?.x ?? 0.5), y: zoom?.y ?? height * (pointer?.y ?? 0.5) },
  });
}

/** The zoom as it is shown, and ways to change it. */
export function useZoom(): { fits: boolean; percent: number; by(factor: number): void; fit(): void; full(): void } {
  const zoom = useView((s) => s.zoom);
  const size = useViewSize();
  const framing = useDocument((s) => shotOf(s)?.settings.framing) ?? { width: 16, height: 9 };
  const scale = (zoom?.scale ?? fitScale(size, framing)) * (globalThis.devicePixelRatio || 1);
  return { fits: zoom === null, percent: Math.round(100 * scale), by: zoomBy, fit: zoomFit, full: zoomFull };
}
