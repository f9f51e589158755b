import type { Cue } from '../cue';
import { defocusCue } from './defocus';
import { foregroundCue } from './foreground';
import { groundCue } from './ground';
import { hazeCue } from './haze';
import { positionCue } from './position';
import { skyCue } from './sky';
import { standingCue } from './standing';

/** Every cue that the estimate fuses. */
export const cues: readonly Cue[] = [groundCue, standingCue, skyCue, positionCue, foregroundCue, hazeCue, defocusCue];
