/**
 * `next` with every part that equals its counterpart in `before` replaced by that counterpart, and frozen: what did not change keeps
 * its identity across a copy, so that work kept by identity is found again. Plain JSON values only.
 */
export function shareParts<T>(before: unknown, next: T): T {
  // what stands in two places is shared where it is met first
  if (typeof next !== 'object' || next === null || before === next || Object.isFrozen(next)) return next;
  const old = typeof before === 'object' && before !== null ? before : null;
  if (Array.isArray(next)) {
    const list = next as unknown[];
    const was = Array.isArray(old) ? (old as unknown[]) : [];
    let same = was.length === list.length;
    for (let i = 0; i < list.length; i++) {
      list[i] = shareParts(was[i], list[i]);
      same &&= list[i] === was[i];
    }
    return same && old ? (old as T) : Object.freeze(next);
  }
  const record = next as Record<string, unknown>;
  const was = (old ?? {}) as Record<string, unknown>;
  const keys = Object.keys(record);
  let same = old !== null && !Array.isArray(old) && Object.keys(was).length === keys.length;
  for (const key of keys) {
    record[key] = shareParts(was[key], record[key]);
    same &&= key in was && record[key] === was[key];
  }
  return same ? (old as T) : Object.freeze(next);
}
