/** What is noted of shots in this browser besides their projects: how they are looked at, which plate they had, whether something was made of them. */
export const shotNotes = ['view', 'plate', 'made'] as const;
export type ShotNote = (typeof shotNotes)[number];

const prefix = (note: ShotNote): string => `ombrage.${note}.`;

/** What was noted of a shot; null where nothing was, or it cannot be read. */
export function readNote(note: ShotNote, shot: string): unknown {
  try {
    return JSON.parse(localStorage.getItem(prefix(note) + shot) ?? 'null');
  } catch {
    return null;
  }
}

/** Notes something of a shot. A full disk only forgets it. */
export function writeNote(note: ShotNote, shot: string, value: unknown): void {
  try {
    localStorage.setItem(prefix(note) + shot, JSON.stringify(value));
  } catch {
    // it is as if the shot had not been open here
  }
}

/** Forgets what was noted of shots that are gone. */
export function forgetShots(kept: ReadonlySet<string>): void {
  if (typeof localStorage === 'undefined') return;
  const keys = Array.from({ length: localStorage.length }, (_, k) => localStorage.key(k) ?? '');
  for (const key of keys) {
    const note = shotNotes.find((n) => key.startsWith(prefix(n)));
    if (note && !kept.has(key.slice(prefix(note).length))) localStorage.removeItem(key);
  }
}
