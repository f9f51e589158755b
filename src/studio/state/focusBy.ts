/** Keys that give the focus to something. */
const MOVES_FOCUS = /^(Tab|Arrow(Up|Down|Left|Right)|Home|End)$/;

let byKey = true;
/** what was given the focus by a key */
let reached: EventTarget | null = null;

/** Whether what has the focus was given it by a key; what was clicked, or given it back when a list closed, was not. */
export const focusedByKey = (target: EventTarget | null): boolean => target !== null && target === reached;

/** Watches how the focus is given; answers what ends that. */
export function watchFocus(page: Document): () => void {
  const stop = new AbortController();
  const how = { capture: true, signal: stop.signal };
  page.addEventListener('pointerdown', () => (byKey = false), how);
  page.addEventListener('keydown', ({ key }) => (byKey = MOVES_FOCUS.test(key)), how);
  page.addEventListener('focusin', ({ target }) => (reached = byKey ? target : null), how);
  return () => stop.abort();
}
