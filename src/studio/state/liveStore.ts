import { create } from 'zustand';
import type { Layer, Settings } from '../../core/document/schema';

/** A layer as it is while a pointer is down on it: shown at once, put into the document when the pointer is let go. */
export interface Live {
  readonly layer: string;
  readonly values?: Layer['values'];
  readonly content?: Layer['content'];
}

interface LiveState {
  live: Live | null;
  set(live: Live | null): void;
}

export const useLive = create<LiveState>()((set) => ({ live: null, set: (live) => set({ live }) }));

/** A layer with what is being done to it. */
export const liveLayer = (layer: Layer, live: Live | null): Layer =>
  live?.layer === layer.id
    ? { ...layer, ...(live.values && { values: { ...layer.values, ...live.values } }), ...(live.content !== undefined && { content: live.content }) }
    : layer;

/** Settings with what is being done. */
export const liveSettings = (settings: Settings, live: Live | null): Settings =>
  live ? { ...settings, layers: settings.layers.map((l) => liveLayer(l, live)) } : settings;
