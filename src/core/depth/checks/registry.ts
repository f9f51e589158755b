import type { CheckDefinition } from './definition';
import { againstEstimate } from './againstEstimate';
import { banding } from './banding';
import { clipping } from './clipping';
import { contours } from './contours';
import { edges } from './edges';
import { mattes } from './matte';

/** Every check, in the order in which they are offered. */
export const checks: readonly CheckDefinition[] = [contours, banding, edges, clipping, againstEstimate, ...mattes];
