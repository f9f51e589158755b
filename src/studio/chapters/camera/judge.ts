import { fitted, worstStretch } from '../../../core/camera/fit';
import { NOTHING } from '../../../core/camera/definition';
import { posesOf } from '../../../core/camera/path';
import { namedMove } from '../../../core/camera/registry';
import { overscanFor, type Relief } from '../../../core/camera/relief';
import { newMove } from '../../../core/document/defaults';
import type { MoveItem, Settings, Shot } from '../../../core/document/schema';
import { effectOf } from '../../../core/effects/registry';
import { hfovOf } from '../../../core/shot/framing';
import { lensOf } from '../../state/shotLens';

/** How much of the width is left: what a path has enlarged, as a factor. */
export const overscanOf = (shot: Shot, relief: Relief): number => {
  const lens = lensOf(shot);
  return overscanFor(lens, posesOf(shot.settings, hfovOf(lens.width, lens.focalPx)), relief);
};

export const worstOf = (shot: Shot, relief: Relief): ReturnType<typeof worstStretch> => worstStretch(shot.settings, lensOf(shot), relief);

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

/** A move as it would be added to a shot: about its subject, and as far as its depth allows. */
export function freshMove(kind: string, shot: Shot, relief: Relief | null): MoveItem {
  const item = newMove(kind);
  if (!relief) return item;
  const { stands } = namedMove(kind);
  if (stands) item.values[stands] = subjectOf(shot, relief);
  return fitted(item, shot.settings, lensOf(shot), relief);
}
