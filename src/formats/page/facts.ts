/** How the scene of a page moves. */
export interface PageMotion {
  /** px */
  readonly width: number;
  readonly height: number;
  /** focal length, px */
  readonly focal: number;
  /** the largest inverse distance, 1/m, and that which stands still */
  readonly most: number;
  readonly still: number;
  /** how far the eye goes to a side and up at the most, m */
  readonly aside: number;
  readonly up: number;
  /** how much the picture is enlarged, so that its border stays out of view */
  readonly enlarged: number;
}

/** What a page knows of its scene besides its pictures: it stands in the page as JSON. */
export interface PageFacts extends PageMotion {
  /** nothing is seen through it */
  readonly opaque: boolean;
  /** front first; packed and deflated, base64 */
  readonly surfaces: readonly { readonly picture: string; readonly corners: number; readonly triangles: number; readonly mesh: string }[];
}

/** What a page of a clip knows of its scene: how near 0 and 1 are in the lower half of its video, 1/m. */
export interface ClipPageFacts extends PageMotion {
  readonly least: number;
}

/**
 * Where a place of the picture is seen, px, when the eye has gone some way aside: what stands still stays, what is nearer goes the other way. Exact: the eye
 * does not turn.
 */
export const seenAt = (facts: PageMotion, x: number, y: number, q: number, aside: number, up: number): { x: number; y: number } => ({
  x: facts.width / 2 + facts.enlarged * (x - facts.width / 2 - facts.focal * aside * (q - facts.still)),
  y: facts.height / 2 + facts.enlarged * (y - facts.height / 2 + facts.focal * up * (q - facts.still)),
});

/** What a page of a clip is made with: its title, what it says to who does not see it, and how it moves. */
export interface PageOfClip {
  readonly name: string;
  readonly words: string;
  readonly facts: ClipPageFacts;
}
