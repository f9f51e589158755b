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
  /** the project as it would be if the gesture that is going on ended now */
  draft: Project | null;
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
  draft: null,
  shotId: null,
  past: [],
  future: [],
  lastKey: null,
  lastAt: 0,
  open: (project, shotId) => set({ project, draft: null, shotId, past: [], future: [], lastKey: null }),
  close: () => set({ project: null, draft: null, shotId: null, past: [], future: [] }),
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
    set({ project: previous, draft: null, past: past.slice(0, -1), future: [project, ...future], lastKey: null });
  },
  redo: () => {
    const { project, past, future } = get();
    const next = future[0];
    if (!project || !next) return;
    set({ project: next, draft: null, past: [...past, project], future: future.slice(1), lastKey: null });
  },
}));

/** The open shot, with what a gesture is doing to it. */
export const shotOf = (state: Pick<DocumentState, 'project' | 'shotId'> & { readonly draft?: Project | null }): Shot | null =>
  (state.draft ?? state.project)?.shots.find((s) => s.id === state.shotId) ?? null;

/** The open shot, or null. */
export const useShot = (): Shot | null => useDocument(shotOf);

/** The open shot's settings. Only to be used where a shot is open. */
export const useSettings = (): Settings => useDocument((s) => shotOf(s)!.settings);

const inShot =
  (shotId: string | null, recipe: (shot: Shot) => void) =>
  (project: Project): void => {
    const shot = project.shots.find((s) => s.id === shotId);
    if (shot) recipe(shot);
  };

/** Changes the open shot. */
export function changeShot(recipe: (shot: Shot) => void, key?: string): void {
  const { change, shotId } = useDocument.getState();
  change(inShot(shotId, recipe), key);
}

/** Changes the open shot's settings. */
export const changeSettings = (recipe: (settings: Settings) => void, key?: string): void => changeShot((shot) => recipe(shot.settings), key);

/** Completes the open shot without a step of undo: what was found out about it, not what somebody did. */
export function amendShot(recipe: (shot: Shot) => void): void {
  const { project, shotId } = useDocument.getState();
  if (project) useDocument.setState({ project: produce(project, (draft) => inShot(shotId, recipe)(draft as Project)) });
}

/**
 * Remembers which shot is open: what takes a while asks, when it is done, whether it still is, so that nothing is done to a shot that was
 * opened meanwhile.
 */
export function whileOpen(): () => boolean {
  const { project, shotId } = useDocument.getState();
  return () => {
    const now = useDocument.getState();
    return now.shotId === shotId && now.project?.id === project?.id;
  };
}

/** Something done by hand from pointer down to pointer up: shown as it goes, one step of undo and one save when it is over. */
export interface Gesture {
  /** what the shot becomes, told from how it was when the gesture began */
  set(recipe: (shot: Shot) => void): void;
  commit(): void;
  /** leaves everything as it was */
  cancel(): void;
}

let holder: object | null = null;

/** Begins a gesture on the open shot; one that was going on is committed. */
export function beginGesture(): Gesture {
  finish();
  const { shotId } = useDocument.getState();
  let latest: ((shot: Shot) => void) | null = null;
  const me = {};
  holder = me;
  const over = (): boolean => holder !== me;
  const gesture: Gesture = {
    set: (recipe) => {
      const { project } = useDocument.getState();
      if (over() || !project || useDocument.getState().shotId !== shotId) return;
      latest = recipe;
      useDocument.setState({ draft: produce(project, (draft) => inShot(shotId, recipe)(draft as Project)) });
    },
    commit: () => {
      if (over()) return;
      holder = null;
      finish = () => undefined;
      useDocument.setState({ draft: null });
      if (latest && useDocument.getState().shotId === shotId) useDocument.getState().change(inShot(shotId, latest));
    },
    cancel: () => {
      if (over()) return;
      holder = null;
      finish = () => undefined;
      useDocument.setState({ draft: null });
    },
  };
  finish = gesture.commit;
  return gesture;
}

/** Commits the gesture that is going on. */
let finish: () => void = () => undefined;
