import type { CheckDefinition } from './definition';
import { clipping } from './clipping';
import { contours } from './contours';

/** Every check, in the order in which they are offered. */
export const checks: readonly CheckDefinition[] = [contours, clipping];
