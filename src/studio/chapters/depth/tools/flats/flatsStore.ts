import { create } from 'zustand';

/** The flat in hand: not part of the document. */
export const useFlats = create<{ flat: string | null; set(change: { flat: string | null }): void }>()((set) => ({
  flat: null,
  set: (change) => set(change),
}));
