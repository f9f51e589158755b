import { registryOf, unknownLabel, type Registry } from '../values/registry';
import type { MoveDefinition } from './definition';
import { arc } from './moves/arc';
import { breathe } from './moves/breathe';
import { circle } from './moves/circle';
import { dollyZoom } from './moves/dollyZoom';
import { free } from './moves/free';
import { handheld } from './moves/handheld';
import { pullBack } from './moves/pullBack';
import { pushIn } from './moves/pushIn';
import { rise } from './moves/rise';
import { truck } from './moves/truck';
import { AT_PLATE } from './pose';

/** Every move, in the order in which they are offered. */
export const moveRegistry: Registry<MoveDefinition> = registryOf<MoveDefinition>(
  'move',
  [pushIn, pullBack, truck, rise, arc, circle, dollyZoom, breathe, handheld, free],
  (kind) => ({
    kind,
    label: unknownLabel(kind),
    help: 'Made by another version of Ombrage: kept, and left out of the picture',
    params: {},
    amounts: [],
    summary: () => 'not known here',
    pose: () => AT_PLATE,
  }),
);
export const moves = moveRegistry.all;

/** The move of a kind; a stand-in that stands still where it is not known. */
export const moveOf = (kind: string): MoveDefinition => moveRegistry.of(kind);
/** The move of a kind. Throws where there is none. */
export const namedMove = (kind: string): MoveDefinition => moveRegistry.named(kind);
export const knowsMove = (kind: string): boolean => moveRegistry.knows(kind);
