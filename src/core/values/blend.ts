/** A thing of a list that keeps its name from one list to another. */
const named = (v: unknown): v is { readonly id: string } => typeof v === 'object' && v !== null && typeof (v as { id?: unknown }).id === 'string';

/**
 * Plain data so far between two others, t in 0..1: numbers lie between, things of lists are matched by their `id` or, in lists as long as each
 * other, by their place. What is in one of the two alone, and what is no number, is as in the first.
 */
export function blended<T>(a: T, b: unknown, t: number): T {
  if (typeof a === 'number' && typeof b === 'number') return (Number.isFinite(a) && Number.isFinite(b) ? a + (b - a) * t : a) as T;
  if (Array.isArray(a) && Array.isArray(b)) {
    const list: readonly unknown[] = b;
    if (a.every(named)) return a.map((v) => blendedWith(v, list, t)) as T;
    return (a.length === list.length ? a.map((v: unknown, i) => blended(v, list[i], t)) : a) as T;
  }
  if (typeof a === 'object' && a !== null && typeof b === 'object' && b !== null && !Array.isArray(a) && !Array.isArray(b)) {
    const other = b as Readonly<Record<string, unknown>>;
    return Object.fromEntries(Object.entries(a).map(([name, v]) => [name, name in other ? blended(v as unknown, other[name], t) : v])) as T;
  }
  return a;
}

function blendedWith<T extends { readonly id: string }>(one: T, list: readonly unknown[], t: number): T {
  const other = list.find((v) => named(v) && v.id === one.id);
  return other === undefined ? one : blended(one, other, t);
}
