import { NOTHING } from '../../../core/camera/definition';
import { namedMove } from '../../../core/camera/registry';
import type { Relief } from '../../../core/camera/relief';
import { newMove } from '../../../core/document/defaults';
import type { MoveItem, Settings, Shot } from '../../../core/document/schema';
import { effectOf } from '../../../core/effects/registry';
import { engine } from '../../../engine/pool/engine';
import { lensOf } from '../../state/shotLens';

/** What is in focus, m; null where nothing says so. */
export function focusOf({ effects }: Pick<Settings, 'effects'>): number | null {
  for (const { kind, values, on } of effects) {
    const focus = effectOf(kind).params.focus ? values.focus : undefined;
    if (on && typeof focus === 'number' && focus > 0 && focus < NOTHING) return focus;
  }
  return null;
}

/** The distance of what a shot is about: that which is in focus, or what lies in the middle of its depth. */
export function subjectOf({ settings }: Shot, relief: Relief): number {
  const focus = focusOf(settings);
  if (focus !== null) return focus;
  const [far, near] = relief.ends;
  return Number((2 / (far + near)).toPrecision(3));
}

/** Moves as they would be added to a shot: about its subject, and as far as its depth allows; by a worker. */
export async function freshMoves(kinds: readonly string[], shot: Shot, relief: Relief | null): Promise<readonly MoveItem[]> {
  const items = kinds.map(newMove);
  if (!relief) return items;
  for (const item of items) {
    const { fixedDistance } = namedMove(item.kind);
    if (fixedDistance) item.values[fixedDistance] = subjectOf(shot, relief);
  }
  const { camera, time } = shot.settings;
  return engine().fitMoves(items, { camera, time }, lensOf(shot), relief);
}
