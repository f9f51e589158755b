/**
 * A deep copy of settings: plain objects, lists, numbers (endless ones too), words and truth values. The one way to copy what a document
 * holds: JSON has no infinity, and what is being changed (a draft) cannot be cloned structurally.
 */
export function copyOf<T>(value: T): T {
  if (Array.isArray(value)) return value.map((v: unknown) => copyOf(v)) as T;
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(Object.entries(value).map(([name, v]) => [name, copyOf(v as unknown)])) as T;
}
