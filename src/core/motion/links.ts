import { chainedWay, type Way } from '../kernels/motionHost';
import type { Plane, Size } from '../picture';
import { closes, coarseFlow, enlargedFlow, pyramid, type Flow, type FlowMethod } from './flow';

/** The way from a frame to another: flow, and 1 where a pixel is seen in both. */
export interface Link {
  readonly flow: Flow;
  readonly seen: Uint8Array;
  /** the same flow at the size it was worked out at, where that is kept */
  readonly kept?: Flow;
}

/** A link as kernels take it: they enlarge its flow by themselves. */
export const wayOf = (link: Link): Way => ({ vectors: link.kept ?? link.flow, seen: link.seen });

/** Links of each frame of a scene to the one after and the one before; null where there is none: at the ends, and over a cut. */
export interface Links {
  readonly next: readonly (Link | null)[];
  readonly before: readonly (Link | null)[];
}

/** Both ways between two neighbouring frames, from their luma 0..255. */
export function linkFrames(first: Plane, second: Plane, method?: FlowMethod): { readonly there: Link; readonly back: Link } {
  return linkPyramids(pyramid(first), pyramid(second), method);
}

/** A link whose flow is kept at the size it was worked out at, a quarter of the memory, and enlarged each time it is asked for. */
class KeptLink implements Link {
  constructor(
    readonly kept: Flow,
    private readonly size: Size,
    readonly seen: Uint8Array,
  ) {}

  get flow(): Flow {
    return enlargedFlow(this.kept, this.size.width, this.size.height);
  }
}

/** The same from pyramids, where each frame is used twice. */
export function linkPyramids(first: readonly Plane[], second: readonly Plane[], method?: FlowMethod): { readonly there: Link; readonly back: Link } {
  const [size] = first as readonly [Plane];
  const kept = [coarseFlow(first, second, method), coarseFlow(second, first, method)] as const;
  const [there, back] = kept.map((flow) => enlargedFlow(flow, size.width, size.height)) as [Flow, Flow];
  return { there: new KeptLink(kept[0], size, closes(there, back)), back: new KeptLink(kept[1], size, closes(back, there)) };
}

/** Links of frames given by their luma; `cuts`: frames that begin a scene. `onProgress` hears the share done. */
export function linksOf(
  lumas: readonly Plane[],
  cuts: readonly number[] = [],
  method?: FlowMethod,
  onProgress: (share: number) => void = () => undefined,
): Links {
  const next: (Link | null)[] = lumas.map(() => null);
  const before: (Link | null)[] = lumas.map(() => null);
  let last = lumas[0] ? pyramid(lumas[0]) : [];
  for (let t = 1; t < lumas.length; t++) {
    onProgress(t / lumas.length);
    const here = pyramid(lumas[t]!);
    if (!cuts.includes(t)) {
      const { there, back } = linkPyramids(last, here, method);
      next[t - 1] = there;
      before[t] = back;
    }
    last = here;
  }
  return { next, before };
}

/** One link after another, at a size. */
export function chained(first: Link, second: Link, { width, height }: Size): Link {
  const { vectors, seen } = chainedWay(wayOf(first), wayOf(second), width, height);
  return { flow: vectors, seen };
}
