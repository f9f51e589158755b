/** Frames of a scene: the first and the last. */
export interface Span {
  readonly from: number;
  readonly to: number;
}

/** A piece of a scene that is worked on at once. What lies before `own` was done with the piece before, and is there for its memory. */
export interface Piece extends Span {
  readonly own: number;
}

/** The scenes of a range, from the frames that begin one. */
export function scenesOf({ from, to }: Span, cuts: readonly number[]): readonly Span[] {
  const begins = [from, ...cuts.filter((c) => c > from && c <= to).sort((a, b) => a - b)];
  return begins.map((begin, k) => ({ from: begin, to: (begins[k + 1] ?? to + 1) - 1 }));
}

/** The frames of a scene whose depth is found by itself: every so many, and the last. */
export function keyFrames({ from, to }: Span, every: number): readonly number[] {
  const keys: number[] = [];
  for (let f = from; f < to; f += every) keys.push(f);
  keys.push(to);
  return keys;
}

/** Pieces of a scene of about so many frames each, both ends of which are key frames; each begins some frames early, so that nothing is seen of the seam. */
export function piecesOfScene(scene: Span, every: number, size = 64, overlap = 16): readonly Piece[] {
  const keys = keyFrames(scene, every);
  const out: Piece[] = [];
  let own = scene.from;
  while (own <= scene.to) {
    const to = keys.filter((k) => k >= own && k < own + size).pop() ?? scene.to;
    // a short rest joins the piece before it
    const end = scene.to - to < overlap ? scene.to : to;
    const from = keys.filter((k) => k <= own - overlap).pop() ?? scene.from;
    out.push({ from: own === scene.from ? scene.from : from, own, to: end });
    own = end + 1;
  }
  return out;
}
