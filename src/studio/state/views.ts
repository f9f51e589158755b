import { registryOf } from '../../core/values/registry';
import type { FramePart } from '../../engine/messages/protocol';

/** What there is to see: what the chapter shows as its result, and the two sides that it compares. */
export interface Sights {
  readonly result: FramePart;
  readonly compared: readonly [FramePart, FramePart];
}

/** A way to look at a shot. */
interface ViewDefinition {
  readonly kind: string;
  readonly label: string;
  /** what it is drawn of: laid over each other in this order, or where it `splits` beside each other */
  parts(sights: Sights): readonly FramePart[];
  /** depth is all there is, or lies over the picture as strongly as somebody chooses */
  readonly depth?: 'alone' | 'over';
  /** it is turned in space, and takes the place of the picture */
  readonly inSpace?: boolean;
  /** a line divides it, which is dragged */
  readonly splits?: boolean;
}

const all = [
  { kind: 'picture', label: 'Picture', parts: ({ result }) => [result] },
  { kind: 'depth', label: 'Depth', parts: () => ['depth'], depth: 'alone' },
  { kind: 'overlay', label: 'Overlay', parts: ({ result }) => [result, 'depth'], depth: 'over' },
  { kind: 'wipe', label: 'Wipe', parts: ({ compared }) => compared, splits: true },
  { kind: 'relief', label: 'Relief', parts: ({ result }) => [result], inSpace: true },
] as const satisfies readonly ViewDefinition[];

export type ViewMode = (typeof all)[number]['kind'];

/** The ways to look at a shot, as they are offered. */
export const viewRegistry = registryOf<ViewDefinition & { readonly kind: ViewMode }>('view', all);
export const views = viewRegistry.all;
export const viewModes = views.map((v) => v.kind);
export const viewOf: (mode: ViewMode) => ViewDefinition = viewRegistry.of;
