import { matteColours } from '../matte/matte';
import { isShared, newPicture, newPlane, type Picture, type Plane } from '../picture';
import { pushPull } from '../raster/pushPull';

/** How far an effect acts on each pixel, 0..1: the matte of its reach, or everything else. */
export const actsOn = ({ width, height, data }: Plane, outside: boolean): Plane =>
  outside ? { width, height, data: data.map((a) => 1 - a) } : { width, height, data };

/** Where both of two limits are. */
export const bothOf = (a: Plane, b: Plane): Plane => ({ ...a, data: a.data.map((v, i) => v * b.data[i]!) });

/** What an effect has made, mixed with what went in. */
export function mixed(before: Picture, made: Picture, weight: Plane, mix: number): Picture {
  const out = newPicture(before.width, before.height, isShared(before.data));
  for (let i = 0; i < weight.data.length; i++) {
    const w = weight.data[i]! * mix;
    for (let o = i * 4; o < i * 4 + 4; o++) out.data[o] = before.data[o]! + w * (made.data[o]! - before.data[o]!);
  }
  return out;
}

/** The distances that belong to it. A distance between two is the distance of neither. */
export function mixedDistance(before: Plane, made: Plane, weight: Plane, mix: number): Plane {
  const out = newPlane(before.width, before.height, isShared(before.data));
  for (let i = 0; i < out.data.length; i++) out.data[i] = weight.data[i]! * mix >= 0.5 ? made.data[i]! : before.data[i]!;
  return out;
}

/** From this coverage on a pixel's colour is known. */
const KNOWN = 0.9;

/** What a premultiplied part looks like where something stands before it: its own colours, continued smoothly. */
function continued(part: Picture, cover: Plane): Picture {
  const { width, height } = part;
  const out = newPicture(width, height);
  out.data.set(part.data);
  for (let k = 0; k < 4; k++) {
    const known = pushPull({ width, height, data: cover.data.map((a, i) => (a >= KNOWN ? part.data[i * 4 + k]! / a : NaN)) });
    for (let i = 0; i < cover.data.length; i++) out.data[i * 4 + k]! += (1 - cover.data[i]!) * known.data[i]!;
  }
  return out;
}

/** A picture in two parts, so that one of them can be moved alone. */
export interface Apart {
  /** what the effect is given */
  readonly given: Picture;
  /** what stays */
  readonly rest: Picture;
  /** what the effect acts on stands before the rest */
  readonly before: boolean;
}

/**
 * Parts what an effect acts on from the rest. What stands before keeps its own alpha; what lies behind is continued behind it, so that nothing of
 * the one is carried into the other.
 */
export function parted(picture: Picture, distance: Plane, weight: Plane): Apart {
  const { width, height } = picture;
  const own = matteColours(picture, weight);
  const rest = newPicture(width, height, isShared(picture.data));
  for (let i = 0; i < rest.data.length; i++) rest.data[i] = Math.max(0, picture.data[i]! - own.data[i]!);
  let [near, far, inside, outside] = [0, 0, 0, 0];
  for (let i = 0; i < weight.data.length; i++) {
    const [w, q] = [weight.data[i]!, 1 / distance.data[i]!];
    near += w * q;
    inside += w;
    far += (1 - w) * q;
    outside += 1 - w;
  }
  const before = near * outside > far * inside;
  const other = { width, height, data: weight.data.map((a) => 1 - a) };
  return before ? { given: own, rest: continued(rest, other), before } : { given: continued(own, weight), rest, before };
}

/** The moved part and the rest as one picture. */
export function rejoined({ rest, before }: Apart, made: Picture): Picture {
  const [front, back] = before ? [made, rest] : [rest, made];
  const out = newPicture(made.width, made.height, isShared(made.data));
  for (let o = 0; o < out.data.length; o += 4) {
    const left = 1 - Math.min(1, front.data[o + 3]!);
    for (let k = 0; k < 4; k++) out.data[o + k] = front.data[o + k]! + left * back.data[o + k]!;
  }
  return out;
}
