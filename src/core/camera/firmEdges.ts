import { isShared, newPlane, type Picture, type Plane } from '../picture';
import { alongColours } from './alongColours';

/** Soft edges are made firm in windows of these radii, px of the map, one after the other: where ramps are short, and where they are long. */
const [SHORT, LONG] = [
  [3, 2, 1],
  [5, 4, 3, 2],
] as const;
/** Ramps are short where one step takes more than this share of their span, on average. */
const STEEP = 0.32;
/** Edges are told in windows of this radius. */
const TOLD = 4;
/** Share by which 1/z has to span a window to be an edge. */
const SPAN = 0.06;
/** A step of more than this share of the span is an edge that is firm. */
const FIRM = 0.7;
/** A map of which so many edges are firm is left as it is. */
const MOSTLY = 0.5;
/** On a slope twice the window spans twice as much; where it spans less than this, the ramp ends within it. */
const ENDS = 1.5;

/** Least and largest value of a ramp. */
const found = { least: 0, most: 0 };

/** Whether a ramp ends along one axis within `reach` steps of a pixel: the values span enough there, and not much more within twice that. */
function glance(q: Float32Array, i: number, step: number, at: number, size: number, reach: number): boolean {
  let least = q[i]!;
  let most = least;
  const before = at < reach ? at : reach;
  const after = size - 1 - at < reach ? size - 1 - at : reach;
  for (let j = i - before * step, end = i + after * step; j <= end; j += step) {
    const v = q[j]!;
    if (v < least) least = v;
    if (v > most) most = v;
  }
  if (most - least <= SPAN * most) return false;
  found.least = least;
  found.most = most;
  // the same bounds on what lies up to twice as far
  const allowed = ENDS * (most - least);
  for (let k = reach + 1; k <= 2 * reach; k++) {
    const a = at >= k ? q[i - k * step]! : least;
    const b = at + k < size ? q[i + k * step]! : least;
    if (a < least) least = a;
    else if (a > most) most = a;
    if (b < least) least = b;
    else if (b > most) most = b;
  }
  return most - least <= allowed;
}

/** The largest step from one value to the next along one axis within `reach` steps of a pixel. */
function jumpAbout(q: Float32Array, i: number, step: number, at: number, size: number, radius: number): number {
  let jump = 0;
  for (let k = Math.max(1 - radius, 1 - at); k <= Math.min(radius, size - 1 - at); k++)
    jump = Math.max(jump, Math.abs(q[i + k * step]! - q[i + (k - 1) * step]!));
  return jump;
}

/** Windows by which the edges of a map are made firm; none where most are firm: one step takes most of their span. */
function windowsFor(q: Float32Array, width: number, height: number): readonly number[] {
  const radius = TOLD;
  let [firm, soft, count, steep] = [0, 0, 0, 0];
  for (let y = radius; y < height - radius; y += 2)
    for (let x = radius; x < width - radius; x++) {
      const i = y * width + x;
      const v = q[i]!;
      // beside an edge, or on it
      const step = Math.max(Math.abs(v - q[i + 1]!), Math.abs(v - q[i + width]!));
      if (step < (SPAN / 4) * v) continue;
      const across = Math.abs(v - q[i + 1]!) >= Math.abs(v - q[i + width]!);
      const line = [across ? 1 : width, across ? x : y, across ? width : height, radius] as const;
      if (!glance(q, i, ...line)) continue;
      const span = found.most - found.least;
      if (step > FIRM * span) firm++;
      else {
        // each soft edge is met several times
        soft += step / span;
        steep += jumpAbout(q, i, ...line) / span;
        count++;
      }
    }
  if (firm >= MOSTLY * (firm + soft)) return [];
  return steep > STEEP * count ? SHORT : LONG;
}

/**
 * Soft edges of a map made firm: a pixel on the ramp between two surfaces takes the nearer in value of the ends of the ramp. A ramp is told
 * from a slope, such as ground, by ending within its window. Maps that are firm already stay as they are. `q`: inverse distances; answers others.
 */
export function firmEdges(q: Float32Array, width: number, height: number): Float32Array {
  const windows = windowsFor(q, width, height);
  if (windows.length === 0) return q;
  let current = q;
  for (const radius of windows) {
    const next = current.slice();
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const i = y * width + x;
        const v = current[i]!;
        // four samples tell whether there may be an edge at all
        const aside = Math.max(Math.abs(v - current[i - Math.min(x, radius)]!), Math.abs(v - current[i + Math.min(width - 1 - x, radius)]!));
        const along = Math.max(
          Math.abs(v - current[i - width * Math.min(y, radius)]!),
          Math.abs(v - current[i + width * Math.min(height - 1 - y, radius)]!),
        );
        const enough = (SPAN / 2) * v;
        if (aside <= enough && along <= enough) continue;
        let least = Infinity;
        let most = -Infinity;
        for (let axis = 0; axis < 2; axis++) {
          if ((axis === 0 ? aside : along) <= enough) continue;
          if (!(axis === 0 ? glance(current, i, 1, x, width, radius) : glance(current, i, width, y, height, radius))) continue;
          if (found.least < least) least = found.least;
          if (found.most > most) most = found.most;
        }
        if (most > least) next[i] = v - least > most - v ? most : least;
      }
    current = next;
  }
  return evened(q, current, width, height);
}

/**
 * Which side of an edge a pixel fell to is a matter of chance where the map is rough: one that stands out of its side alone, with a single
 * neighbour of its own, joins the other side. Strands, which have two, stay.
 */
function evened(soft: Float32Array, firm: Float32Array, width: number, height: number): Float32Array {
  const out = firm.slice();
  for (let y = 1; y < height - 1; y++)
    for (let x = 1; x < width - 1; x++) {
      const i = y * width + x;
      const v = firm[i]!;
      if (soft[i] === v) continue;
      let own = 0;
      let other = v;
      for (const step of [1, -1, width, -width]) {
        const beside = firm[i + step]!;
        if (Math.abs(beside - v) <= SPAN * Math.max(v, beside)) own++;
        // across from its only neighbour
        else if (Math.abs(firm[i - step]! - v) <= SPAN * Math.max(v, firm[i - step]!)) other = beside;
      }
      if (own === 1) out[i] = other;
    }
  return out;
}

/** Distances, metres, with firm edges, which run where those of the picture do if it is given; the same plane where they are firm already. */
export function firmDistances(plane: Plane, picture: Picture | null): Plane {
  const { width, height, data } = plane;
  const q = data.map((z) => 1 / z);
  const made = firmEdges(q, width, height);
  if (made === q) return plane;
  const firm = picture ? alongColours(q, made, picture) : made;
  const out = newPlane(width, height, isShared(data));
  // what did not change keeps its very value
  for (let i = 0; i < data.length; i++) out.data[i] = firm[i] === q[i] ? data[i]! : 1 / firm[i]!;
  return out;
}
