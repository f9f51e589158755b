import { create } from 'zustand';
import { brushModes, type BrushMode, type Stroke } from '../../../../../core/depth/layers/brush/content';
import { percent, pixels } from '../../../../../core/values/params';

export interface BrushSettings {
  readonly mode: BrushMode;
  /** px of the plate */
  readonly radius: number;
  readonly softness: number;
  readonly amount: number;
  /** raw nearness that "set" sets */
  readonly nearness: number;
  readonly edgeStop: number;
}

interface BrushState extends BrushSettings {
  /** the stroke chosen in the list */
  stroke: string | null;
  set(change: Partial<Omit<BrushState, 'set'>>): void;
}

/** The brush in hand: kept while the page is open, not part of the document. */
export const useBrush = create<BrushState>()((set) => ({
  mode: 'nearer',
  radius: 60,
  softness: 0.5,
  amount: 0.2,
  nearness: 0.8,
  edgeStop: 0,
  stroke: null,
  set: (change) => set(change),
}));

export const MODE_LABELS: Record<BrushMode, string> = { nearer: 'Nearer', farther: 'Farther', set: 'Set', smooth: 'Smooth', erase: 'Erase' };
export const MODES = brushModes.map((value) => ({ value, label: MODE_LABELS[value] }));

export const RADIUS = pixels({
  label: 'Size',
  min: 1,
  max: 600,
  highest: 5000,
  default: 60,
  scale: 'log',
  decimals: 0,
  step: 1,
  help: 'Radius in px of the plate; z smaller, x larger',
});
export const SOFTNESS = percent({ label: 'Softness', min: 0, max: 100, default: 50 });
export const AMOUNT = percent({ label: 'Amount', min: 0, max: 100, default: 20, help: 'Of the whole range from far to near, in one stroke' });
export const EDGE_STOP = percent({ label: 'Edge stop', min: 0, max: 100, default: 0, help: 'Keeps to the colours under the start of the stroke' });

export const resizeBrush = (factor: number): void => {
  const { radius, set } = useBrush.getState();
  set({ radius: Math.min(RADIUS.highest, Math.max(1, radius * factor)) });
};

/** A stroke through these points with the brush in hand. */
export const strokeWith = (brush: BrushSettings, id: string, points: number[]): Stroke => ({
  id,
  mode: brush.mode,
  points,
  radius: brush.radius,
  softness: brush.softness,
  amount: brush.amount,
  nearness: brush.nearness,
  edgeStop: brush.edgeStop,
});
