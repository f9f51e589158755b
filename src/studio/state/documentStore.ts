import { produce } from 'immer';
import { create } from 'zustand';
import type { Project, Settings, Shot } from '../../core/document/schema';

const HISTORY = 300;
/** Steps by keys that follow each other within this time are one gesture. */
const KEYS_WITHIN_MS = 1200;

interface DocumentState {
  project: Project | null;
  /** the project as it would be if the gesture that is going on ended now */
  draft: Project | null;
  /** whether the draft is worth saving as it is: steps by keys are never taken back, a pointer's way may be */
  stepping: boolean;
  shotId: string | null;
  past: Project[];
  future: Project[];
  open(project: Project, shotId: string): void;
  close(): void;
  /** changes the project: one step of undo */
  change(recipe: (project: Project) => void): void;
  /** what comes to the project by itself: it is no step of undo, and no undo takes it away */
  amend(recipe: (project: Project) => void): void;
  undo(): void;
  redo(): void;
}

/** The project being worked on, with its history. Every change makes a new document that shares what did not change. */
export const useDocument = create<DocumentState>()((set, get) => ({
  project: null,
  draft: null,
  stepping: false,
  shotId: null,
  past: [],
  future: [],
  open: (project, shotId) => {
    abandon();
    set({ project, draft: null, shotId, past: [], future: [] });
  },
  close: () => {
    abandon();
    set({ project: null, draft: null, shotId: null, past: [], future: [] });
  },
  change: (recipe) => {
    finish();
    const { project, past } = get();
    if (!project) return;
    const next = produce(project, (draft) => recipe(draft as Project));
    if (next !== project) set({ project: next, past: [...past.slice(1 - HISTORY), project], future: [] });
  },
  amend: (recipe) => {
    const { project, past, future } = get();
    if (!project) return;
    const amended = (p: Project): Project => produce(p, (draft) => recipe(draft as Project));
    set({ project: amended(project), past: past.map(amended), future: future.map(amended) });
    going?.show();
  },
  undo: () => {
    finish();
    const { project, past, future } = get();
    const previous = past[past.length - 1];
    if (!project || !previous) return;
    set({ project: previous, past: past.slice(0, -1), future: [project, ...future] });
  },
  redo: () => {
    finish();
    const { project, past, future } = get();
    const next = future[0];
    if (!project || !next) return;
    set({ project: next, past: [...past, project], future: future.slice(1) });
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

/** Changes the open shot: one step of undo, or a part of the gesture that it is given. */
export function changeShot(recipe: (shot: Shot) => void, gesture?: Gesture): void {
  if (gesture) {
    gesture.set(recipe);
    return;
  }
  const { change, shotId } = useDocument.getState();
  change(inShot(shotId, recipe));
}

/** Changes the open shot's settings. */
export const changeSettings = (recipe: (settings: Settings) => void, gesture?: Gesture): void => changeShot((shot) => recipe(shot.settings), gesture);

/** Completes the open shot without a step of undo: what was found out about it, not what somebody did. */
export function amendShot(recipe: (shot: Shot) => void): void {
  const { project, shotId } = useDocument.getState();
  if (!project) return;
  useDocument.setState({ project: produce(project, (draft) => inShot(shotId, recipe)(draft as Project)) });
  going?.show();
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

/** Something done by hand, from pointer down to pointer up or by a run of keys: shown as it goes, and one step of undo when it is over. */
export interface Gesture {
  /** what the shot becomes */
  set(recipe: (shot: Shot) => void): void;
  commit(): void;
  /** leaves everything as it was */
  cancel(): void;
}

/** The gesture that is going on; there is one at a time. */
let going: { readonly gesture: Gesture; show(): void; stop(): void } | null = null;

/** Commits the gesture that is going on. */
const finish = (): void => going?.gesture.commit();
const abandon = (): void => going?.stop();

/**
 * Begins a gesture on the open shot; one that was going on is committed. Of a gesture `inSteps` each change builds on those before it, as keys
 * do; otherwise each is told from how the shot was when the gesture began, as a pointer does.
 */
export function beginGesture(inSteps = false): Gesture {
  finish();
  const { shotId } = useDocument.getState();
  let latest: ((shot: Shot) => void) | null = null;
  const over = (): boolean => going?.gesture !== gesture;
  const show = (): void => {
    const { project } = useDocument.getState();
    if (!latest || !project || useDocument.getState().shotId !== shotId) return;
    const recipe = latest;
    useDocument.setState({ draft: produce(project, (draft) => inShot(shotId, recipe)(draft as Project)), stepping: inSteps });
  };
  const stop = (): void => {
    going = null;
    useDocument.setState({ draft: null, stepping: false });
  };
  const gesture: Gesture = {
    set: (recipe) => {
      if (over()) return;
      const before = inSteps ? latest : null;
      latest = before
        ? (shot) => {
            before(shot);
            recipe(shot);
          }
        : recipe;
      show();
    },
    commit: () => {
      if (over()) return;
      stop();
      if (latest && useDocument.getState().shotId === shotId) useDocument.getState().change(inShot(shotId, latest));
    },
    cancel: () => {
      if (!over()) stop();
    },
  };
  going = { gesture, show, stop };
  return gesture;
}

let keys: { readonly owner: unknown; readonly gesture: Gesture; timer: ReturnType<typeof setTimeout> } | null = null;

/** The gesture of keys that step the same thing: it goes on while they follow each other, and commits itself when they rest. */
export function keyGesture(owner: unknown): Gesture {
  const same = keys && keys.owner === owner && going?.gesture === keys.gesture ? keys : null;
  if (same) clearTimeout(same.timer);
  const gesture = same?.gesture ?? beginGesture(true);
  keys = { owner, gesture, timer: setTimeout(() => gesture.commit(), KEYS_WITHIN_MS) };
  return gesture;
}
