import { create } from 'zustand';

/** As what the scene is drawn. */
export const FORMS = ['surface', 'points', 'wire'] as const;
export type Form = (typeof FORMS)[number];

/** A sample at every so many px. */
export const DENSITIES = [1, 2, 4, 8, 16] as const;

interface ReliefState {
  readonly form: Form;
  readonly density: number;
  /** how far things stand apart: 1 is as far as they do, 0 as if painted on a wall */
  readonly strength: number;
  readonly cut: boolean;
  readonly behind: boolean;
  set(change: Partial<Omit<ReliefState, 'set'>>): void;
}

/** How the picture is seen in space; kept while the page is open. */
export const useRelief = create<ReliefState>()((set) => ({
  form: 'surface',
  density: 1,
  strength: 1,
  cut: true,
  behind: true,
  set: (change) => set(change),
}));
