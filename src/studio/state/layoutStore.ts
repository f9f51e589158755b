import * as z from 'zod';
import { create } from 'zustand';

/** How wide the panel may be, px; null: as is usual for the window. */
export const PANEL = { least: 260, most: 420 } as const;
/** How high what lies under the picture may be, px; null: as high as what is in it. */
export const SCORE = { least: 64, most: 460 } as const;

const layoutSchema = z.object({
  panel: z.number().min(PANEL.least).max(PANEL.most).nullable().default(null),
  score: z.number().min(SCORE.least).max(SCORE.most).nullable().default(null),
  /** rows of the rail, and of the timeline, that are not in hand are shown as well */
  lanes: z.boolean().default(false),
  tracks: z.boolean().default(false),
});
type Layout = z.infer<typeof layoutSchema>;

interface LayoutState extends Layout {
  /** the picture alone: everything else is away */
  alone: boolean;
  set(change: Partial<Omit<LayoutState, 'set'>>): void;
}

const PLACE = 'ombrage.layout';

function recalled(): Layout {
  try {
    return layoutSchema.parse(JSON.parse(localStorage.getItem(PLACE) ?? '{}'));
  } catch {
    return layoutSchema.parse({});
  }
}

/** How the window is divided; remembered in this browser. */
export const useLayout = create<LayoutState>()((set, get) => ({
  ...recalled(),
  alone: false,
  set: (change) => {
    set(change);
    const { panel, score, lanes, tracks } = get();
    try {
      localStorage.setItem(PLACE, JSON.stringify({ panel, score, lanes, tracks }));
    } catch {
      // a full disk only forgets it
    }
  },
}));
