import type { Cue } from '../cue';

/** What rises through the horizon stands upright and is as near as the ground at its foot. */
export const standingCue: Cue = {
  kind: 'standing',
  source: 'Upright surfaces on a ground plane (Hoiem, Efros & Hebert 2005)',
  run: ({ layout }) => ({ nearness: layout.foot, confidence: layout.standing }),
};
