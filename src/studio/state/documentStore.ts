import { produce } from 'immer';
import { create } from 'zustand';
import type { Project, Settings, Shot } from '../../core/document/schema';

const HISTORY = 300;
/** Changes of one control within this time are one step back. */
const MERGE_WITHIN_MS = 1200;
/** A key that names one gesture, from pointer down to pointer up: one step back however long it takes. */
const GESTURE = /#\d+$/;

interface DocumentState {
  project: Project | null;
  shotId: string | null;
  past: Project[];
  future: Project[];
  lastKey: string | null;
  lastAt: number;
  open(project: Project, shotId: string): void;
  close(): void;
  /** changes the project; changes with the same key that follow each other make one step of undo */
  change(recipe: (project: Project) => void, key?: string): void;
  undo(): void;
  redo(): void;
}

/** The project being worked on, with its history. Every change makes a new document that shares what did not change. */
export const useDocument = create<DocumentState>()((set, get) => ({
  project: null,
  shotId: null,
  past: [],
  future: [],
  lastKey: null,
  lastAt: 0,
  open: (project, shotId) => set({ project, shotId, past: [], future: [], lastKey: null }),
  close: () => set({ project: null, shotId: null, past: [], future: [] }),
  change: (recipe, key) => {
    const { project, past, lastKey, lastAt } = get();
    if (!project) return;
    const next = produce(project, (draft) => recipe(draft as Project));
    if (next === project) return;
    const now = Date.now();
    const merges = key !== undefined && key === lastKey && (GESTURE.test(key) || now - lastAt < MERGE_WITHIN_MS) && past.length > 0;
    set({ project: next, past: merges ? past : [...past.slice(1 - HISTORY), project], future: [], lastKey: key ?? null, lastAt: now });
  },
  undo: () => {
    const { project, past, future } = get();
    const previous = past[past.length - 1];
    if (!project || !previous) return;
    set({ project: previous, past: past.slice(0, -1), future: [project, ...future], lastKey: null });
  },
  redo: () => {
    const { project, past, future } = get();
    const next = future[0];
    if (!project || !next) return;
    set({ project: next, past: [...past, project], future: future.slice(1), lastKey: null });
  },
}));

export const shotOf = (state: Pick<DocumentState, 'project' | 'shotId'>): Shot | null =>
  state.project?.shots.find((s) => s.id === state.shotId) ?? null;

/** The open shot, or null. */
export const useShot = (): Shot | null => useDocument(shotOf);

/** The open shot's settings. Only to be used where a shot is open. */
export const useSettings = (): Settings => useDocument((s) => shotOf(s)!.settings);

/** Changes the open shot. */
export function changeShot(recipe: (shot: Shot) => void, key?: string): void {
  const { change, shotId } = useDocument.getState();
  change((project) => {
    const shot = project.shots.find((s) => s.id === shotId);
    if (shot) recipe(shot);
  }, key);
}

/** Changes the open shot's settings. */
export const changeSettings = (recipe: (settings: Settings) => void, key?: string): void => changeShot((shot) => recipe(shot.settings), key);
