import { registryOf } from '../../values/registry';
import type { CheckDefinition } from './definition';
import { againstEstimate } from './againstEstimate';
import { banding } from './banding';
import { behind, torn } from './camera';
import { clipping } from './clipping';
import { contours } from './contours';
import { edges } from './edges';
import { mattes } from './matte';
import { sweep } from './sweep';

/** Every check, in the order in which they are offered. */
export const checkRegistry = registryOf<CheckDefinition>('check', [
  contours,
  banding,
  edges,
  clipping,
  againstEstimate,
  sweep,
  ...mattes,
  torn,
  behind,
]);
export const checks = checkRegistry.all;
