import type { FileRef } from '../../core/need/fileRef';
import * as z from 'zod';
import { readNote, writeNote } from '../../store/shotNotes';
import { create } from 'zustand';
import { useShallow } from 'zustand/react/shallow';
import type { Spacing } from '../../core/depth/calibrate';
import { checks } from '../../core/depth/checks/registry';
import { factsOf, chapterNames, type Chapter } from './chapterFacts';
import type { Picking } from './picking';
import { viewModes, type ViewMode } from './views';

/** null fits the picture; otherwise screen px per output px and the output point in the middle of the view. */
export type Zoom = { readonly scale: number; readonly x: number; readonly y: number } | null;

export interface Remembered {
  chapter: Chapter;
  mode: ViewMode;
  /** how the picture was seen last in chapters that were left */
  modes: Partial<Record<Chapter, ViewMode>>;
  overlay: number;
  wipe: number;
  depthColours: 'grey' | 'distance';
  check: string | null;
  ruler: Spacing | 'as-map';
  zoom: Zoom;
}

interface ViewState extends Remembered {
  /** the frame that is looked at, counted from 0 */
  frame: number;
  playing: boolean;
  /** playing begins again at the end */
  loop: boolean;
  /** the camera goes round a small circle, to judge the map */
  wobble: boolean;
  /** the camera follows the pointer */
  follow: boolean;
  /** the list of effects that can be added is open */
  adding: boolean;
  /** what waits for a click in the picture */
  picking: Picking | null;
  /** a drag moves the picture, whatever is in hand */
  panning: boolean;
  peek: 'plate' | 'depth' | null;
  selectedLayer: string | null;
  selectedEffect: string | null;
  selectedMove: string | null;
  /** the one effect that is seen alone, and the one that is left out for a moment */
  alone: string | null;
  without: string | null;
  selectedStake: string | null;
  /** probe: place in the output, 0..1 */
  pointer: { x: number; y: number } | null;
  /** distances lit up in the picture from the rail */
  lit: { from: number; to: number } | null;
  shortcuts: boolean;
  set(change: Partial<Omit<ViewState, 'set'>>): void;
}

const usual: Remembered = {
  chapter: 'effects',
  mode: 'picture',
  modes: {},
  overlay: 0.55,
  wipe: 0.5,
  depthColours: 'distance',
  check: null,
  ruler: 'log',
  zoom: null,
};

const share = z.number().min(0).max(1);
const checkKinds: readonly string[] = checks.map((c) => c.kind);
const rememberedSchema = z.object({
  chapter: z.enum(chapterNames).catch(usual.chapter),
  mode: z.enum(viewModes).catch(usual.mode),
  modes: z.partialRecord(z.enum(chapterNames), z.enum(viewModes)).catch({}),
  overlay: share.catch(usual.overlay),
  wipe: share.catch(usual.wipe),
  depthColours: z.enum(['grey', 'distance']).catch(usual.depthColours),
  check: z
    .string()
    .nullable()
    .refine((kind) => kind === null || checkKinds.includes(kind))
    .catch(null),
  ruler: z.enum(['perspective', 'even', 'log', 'as-map']).catch(usual.ruler),
  zoom: z.object({ scale: z.number().positive(), x: z.number(), y: z.number() }).nullable().catch(null),
});

/** How the shot was looked at last; what cannot be read is as usual. */
export function recallView(shotId: string): Remembered {
  return rememberedSchema.safeParse(readNote('view', shotId) ?? {}).data ?? usual;
}

let remembered = '';

export function rememberView(shotId: string, s: Remembered): void {
  const { chapter, mode, modes, overlay, wipe, depthColours, check, ruler, zoom } = s;
  const view = { chapter, mode, modes, overlay, wipe, depthColours, check, ruler, zoom };
  const text = shotId + JSON.stringify(view);
  // every move of the pointer comes by here
  if (remembered === text) return;
  remembered = text;
  writeNote('view', shotId, view);
}

/** The plate that a shot had when it was open last: its decoding can begin before the project is read. Null where that is not known. */
export function recallPlate(shotId: string): Pick<FileRef, 'sha256' | 'name'> | null {
  return plateSchema.safeParse(readNote('plate', shotId)).data ?? null;
}

const plateSchema = z.object({ sha256: z.string(), name: z.string() });

export const rememberPlate = (shotId: string, { sha256, name }: Pick<FileRef, 'sha256' | 'name'>): void =>
  writeNote('plate', shotId, { sha256, name });

/** What going to another chapter changes besides: each is seen as it was seen last. */
function seenIn(now: Remembered, { chapter, mode }: Partial<Remembered>): Partial<Remembered> {
  if (!chapter || chapter === now.chapter || mode) return {};
  return { mode: now.modes[chapter] ?? factsOf(chapter).firstView(now.mode), modes: { ...now.modes, [now.chapter]: now.mode } };
}

/** How the shot is looked at: not part of the document. */
export const useView = create<ViewState>()((set) => ({
  ...usual,
  zoom: null,
  frame: 0,
  playing: false,
  loop: true,
  wobble: false,
  follow: false,
  adding: false,
  picking: null,
  panning: false,
  peek: null,
  selectedLayer: null,
  selectedEffect: null,
  selectedMove: null,
  alone: null,
  without: null,
  selectedStake: null,
  pointer: null,
  lit: null,
  shortcuts: false,
  set: (change) => set((now) => ({ ...seenIn(now, change), ...change })),
}));

/** Some of the view's state; the component renders again only when one of these changes. */
export const useViewPart = <K extends keyof ViewState>(...keys: readonly K[]): Pick<ViewState, K> =>
  useView(useShallow((s) => Object.fromEntries(keys.map((k) => [k, s[k]])) as Pick<ViewState, K>));

/** What of the view decides what is shown. */
export const LOOKED_AT = [
  'chapter',
  'mode',
  'check',
  'ruler',
  'frame',
  'wobble',
  'follow',
  'playing',
  'zoom',
  'depthColours',
  'peek',
  'alone',
  'without',
  'adding',
] as const;
