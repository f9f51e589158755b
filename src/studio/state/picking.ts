import type { Shot } from '../../core/document/schema';
import { effectOf } from '../../core/effects/registry';

/** The effect that a shot opens with in hand: that in which a click moves the focus, or else the first. */
export function firstInHand({ settings: { effects } }: Shot): string | null {
  const lens = effects.find((e) => effectOf(e.kind).group === 'lens' && effectOf(e.kind).picking);
  return (lens ?? effects[0])?.id ?? null;
}

/** What is known of a place that is clicked in the picture. */
export interface Picked {
  /** metres */
  readonly distance: number;
  /** the depth stack there, before clean-up; NaN where nothing is known */
  readonly stack: number;
}

/** Something that waits for a click in the picture. */
export interface Picking {
  readonly id: string;
  /** what to click, for the screen */
  readonly prompt: string;
  take(at: Picked & { readonly x: number; readonly y: number }): void;
}

/** Something that a drag of the picture does instead of moving it about. */
export interface PictureDrag {
  /** px of the output from where it began */
  move(dx: number, dy: number): void;
  end(): void;
}
