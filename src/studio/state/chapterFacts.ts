import { registryOf } from '../../core/values/registry';
import type { Shot } from '../../core/document/schema';
import type { FramePart } from '../../engine/messages/protocol';
import { viewOf, type ViewMode } from './views';

/** What a wipe compares: the picture before and after, depth before and after clean-up, or where none is on the plate and its depth. */
export type Compared = 'picture' | 'clean-up' | 'depth';

/** What a chapter is to the picture; its panel and what it lays over the picture stand in `chapters/registry.ts`. */
export interface ChapterFacts {
  readonly label: string;
  /** what is seen as its result */
  readonly result: FramePart;
  compares(shot: Shot | null): Compared;
  /** how the picture is seen by who comes for the first time from another chapter, where it was seen so */
  firstView(before: ViewMode): ViewMode;
  /** the camera stands where the plate was taken, so that a place is a place of the plate */
  readonly inPlace?: boolean;
  /** steps of clean-up are told and compared */
  readonly cleaning?: boolean;
  /** what has the first lane of the rail, and is handled on the picture: a layer of depth, the camera's moves, or where none is the chosen effect */
  readonly inHand?: 'layer' | 'moves';
  /** how far the camera may go is measured while it is looked at */
  readonly measures?: boolean;
  /** one picture that is dropped is a map for this plate; the words that say so */
  readonly takesMaps?: string;
}

const usual: Omit<ChapterFacts, 'label'> = { result: 'picture', compares: () => 'picture', firstView: () => 'picture' };

const all = {
  // the picture before any effect
  plate: { ...usual, label: 'Plate', result: 'plate', inPlace: true },
  depth: {
    ...usual,
    label: 'Depth',
    compares: (shot: Shot | null) => (shot?.settings.cleanup.some((c) => c.on) ? 'clean-up' : 'depth'),
    // who works on depth wants to see it
    firstView: (before: ViewMode) => (viewOf(before).depth || viewOf(before).splits ? before : 'overlay'),
    inPlace: true,
    cleaning: true,
    inHand: 'layer',
    takesMaps: 'Drop a depth map for this plate, or several pictures to make shots',
  },
  // and goes on seeing it here
  calibrate: { ...usual, label: 'Calibrate', inPlace: true, firstView: (before: ViewMode) => before },
  effects: { ...usual, label: 'Effects' },
  camera: { ...usual, label: 'Camera', inHand: 'moves', measures: true },
  output: { ...usual, label: 'Output' },
} as const satisfies Readonly<Record<string, ChapterFacts>>;

export type Chapter = keyof typeof all;
export const chapterNames = Object.keys(all) as [Chapter, ...Chapter[]];

/** The chapters in their order. */
export const chapterFacts = registryOf<ChapterFacts & { readonly kind: Chapter }>(
  'chapter',
  chapterNames.map((kind) => ({ kind, ...all[kind] })),
);
export const factsOf: (kind: Chapter) => ChapterFacts = chapterFacts.named;
