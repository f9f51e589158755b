import { OmbrageError } from '../../error';
import type { Taps } from '../../kernels/convolveHost';
import { newPlane, type Picture, type Plane, type Raster, type Size } from '../../picture';
import { guidedEnlarge, picturesRows } from '../../kernels/guidedHost';
import { samplePlaneLinear, sampleRaster } from '../../raster/resample';
import { planesOf, readLayers } from '../network/layers';
import { overlap } from '../overlap';
import type { Encoded } from '../network/unet';
import { piecesOf } from '../pieces';
import { FACE_LAYERS, faceMesh } from './faceMesh';
import { faceOf } from './faceRelief';
import { findAll, FINDER_LAYERS, type Found } from './finder';
import { MASK_LAYERS, maskAnswer } from './maskNetwork';
import type { FaceOnMap, Person } from './person';

interface Networks {
  readonly square: readonly Taps[];
  readonly wide: readonly Taps[];
  readonly finder: readonly Taps[];
  readonly face: readonly Taps[];
}

let networks: Networks | null = null;

/** Gives the networks that know persons what they were trained to: the bytes of training/people.bin, from wherever they are kept. */
export function providePeople(file: Uint8Array): void {
  const all = readLayers(file);
  let at = 0;
  const next = (count: number): readonly Taps[] => all.slice(at, (at += count));
  networks = { square: next(MASK_LAYERS), wide: next(MASK_LAYERS), finder: next(FINDER_LAYERS), face: next(FACE_LAYERS) };
}

export const peopleAreThere = (): boolean => networks !== null;

/** Throws before they were provided. */
function ready(): Networks {
  if (!networks) throw new OmbrageError('no-network', 'The networks that know persons are not loaded.', 'Reload the page.');
  return networks;
}

/** What the masks' networks are shown, px: one for what is about as wide as tall or taller, one for what is wider. */
const SQUARE: Size = { width: 256, height: 256 };
const WIDE: Size = { width: 256, height: 144 };
const WIDER_THAN = 1.35;

/** The answer of the network that was trained at the shape of the picture: how surely each pixel is a person's, 0..1. */
export function maskOf(picture: Picture): Plane {
  const { square, wide } = ready();
  const { width, height, data } = maskAnswer(planesOf(picture), picture.width > picture.height ? wide : square);
  return { width, height, data };
}

/** Somebody is believed to be there from this on: what takes half of the picture or more has to be less sure than what is tiny. */
const SURE_TINY = 0.42;
const SURE_LARGE = 0.33;
/** An animal that lies over somebody takes them away from this on. */
const ANIMAL = 0.35;
/** The finder is asked of what was read at so many sizes: one that fills the picture is seen better when it is small. */
export const SIZES = 2;
/** Boxes that share more than this, of both together, are one. */
const SAME = 0.6;
/** How much more than the box is looked at, on each side, as shares of the box's longer side: three times, since each look errs elsewhere, and the middle
 * answer is taken. */
const ROUND_ABOUT = [0.15, 0.5, 1.5] as const;
/** A mask ends gradually between so much beyond the box and so much, shares of the box's sides: what the finder did not see is not believed. */
const BEYOND = [0.1, 0.35] as const;
/** Persons smaller than this share of the picture's longer side are left as they are. */
const SMALLEST = 0.05;
/** At most so many, the surest. */
const MOST = 12;

/** Those of what was found that are persons, each once: the surest first. */
export function personsAmong(all: readonly Found[], { width, height }: Size): Found[] {
  const kept: Found[] = [];
  for (const one of all) {
    if (!one.person || !(one.right > one.left && one.bottom > one.top)) continue;
    const long = Math.max((one.right - one.left) * width, (one.bottom - one.top) * height) / Math.max(width, height);
    if (long < SMALLEST || one.score < SURE_TINY + (SURE_LARGE - SURE_TINY) * Math.min(1, 2 * long)) continue;
    if (kept.some((other) => overlap(one, other) > SAME)) continue;
    if (all.some((other) => !other.person && other.score > Math.max(ANIMAL, one.score) && overlap(one, other) > SAME)) continue;
    kept.push(one);
    if (kept.length === MOST) break;
  }
  return kept;
}

/** The part of a picture that is looked at for one person, px of the raster: their box and what lies round about, no farther than the picture. */
function partOf(found: Found, around: number, { width, height }: Size): { x: number; y: number; width: number; height: number } {
  const more = around * Math.max((found.right - found.left) * width, (found.bottom - found.top) * height);
  const x0 = Math.max(0, found.left * width - more);
  const y0 = Math.max(0, found.top * height - more);
  const x1 = Math.min(width, found.right * width + more);
  const y1 = Math.min(height, found.bottom * height + more);
  return { x: x0, y: y0, width: Math.max(1, x1 - x0), height: Math.max(1, y1 - y0) };
}

/** 1 within a side of a box and a little beyond, 0 farther off. */
function withinBox(at: number, from: number, to: number): number {
  const beyond = Math.max(from - at, at - to) / (to - from);
  return Math.min(1, Math.max(0, (BEYOND[1] - beyond) / (BEYOND[1] - BEYOND[0])));
}

/** What the mask's network says of one part of a picture, laid where it belongs in a plane of the given size. */
function looked(raster: Raster, found: Found, around: number, size: Size): Plane {
  const part = partOf(found, around, raster);
  const shown = part.width > WIDER_THAN * part.height ? WIDE : SQUARE;
  const crop = { a: part.width / shown.width, b: 0, c: part.x, d: 0, e: part.height / shown.height, f: part.y };
  const answer = maskOf(sampleRaster(raster, crop, shown.width, shown.height));
  // from a pixel of the plane to one of the answer
  const [sx, sy] = [raster.width / size.width, raster.height / size.height];
  const placed = { a: sx / crop.a, b: 0, c: -part.x / crop.a, d: 0, e: sy / crop.e, f: -part.y / crop.e };
  return samplePlaneLinear(answer, placed, size.width, size.height);
}

const middleOf = (a: number, b: number, c: number): number => Math.max(Math.min(a, b), Math.min(Math.max(a, b), c));

/** One person's mask, as far as the box goes and a little beyond. */
function personAt(raster: Raster, found: Found, size: Size): Person {
  const [a, b, c] = ROUND_ABOUT.map((around) => looked(raster, found, around, size)) as [Plane, Plane, Plane];
  const mask = newPlane(size.width, size.height);
  const across = Array.from({ length: size.width }, (_, x) => withinBox((x + 0.5) / size.width, found.left, found.right));
  for (let y = 0; y < size.height; y++) {
    const down = withinBox((y + 0.5) / size.height, found.top, found.bottom);
    if (down === 0) continue;
    for (let x = 0, i = y * size.width; x < size.width; x++, i++) mask.data[i] = middleOf(a.data[i]!, b.data[i]!, c.data[i]!) * down * across[x]!;
  }
  return { box: found, mask };
}

/** The network's answer is soft; its middle half decides. */
const decided = (v: number): number => Math.min(1, Math.max(0, 2 * v - 0.5));

/** A mask must fill at least this share of its box and no more than that, since nobody is square, and be this sure on average where it says anything, 0..1. */
const FILLS = 0.12;
const FILLS_MOST = 0.93;
const FIRM = 0.6;
/** A piece of a mask smaller than this share of its largest is no part of the person. */
const PIECE = 0.08;
/** Along the picture's edges: radius, px of the map, and variance below which a surface counts as even. */
const SNAP_RADIUS = 3;
const SNAP_EPSILON = 1e-4;

/** Whether a mask says what a person's would: enough of the box and not all of it, and surely. */
export function isFirm({ box, mask }: Person): boolean {
  const { width, height, data } = mask;
  let [said, firm, filled, area] = [0, 0, 0, 0];
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const v = data[y * width + x]!;
      if (v > 0.15) {
        said++;
        firm += Math.abs(2 * v - 1);
      }
      const [u, w] = [(x + 0.5) / width, (y + 0.5) / height];
      if (u < box.left || u > box.right || w < box.top || w > box.bottom) continue;
      area++;
      if (v > 0.5) filled++;
    }
  return filled >= FILLS * area && filled <= FILLS_MOST * area && said > 0 && firm >= FIRM * said;
}

/** Takes away, in place, what does not hang together with enough of the rest. */
function inOnePiece(mask: Plane): void {
  const pieces = piecesOf(mask, (i) => mask.data[i]! > 0.5);
  const least = PIECE * pieces.reduce((most, piece) => Math.max(most, piece.length), 0);
  for (const piece of pieces) if (piece.length < least) for (const i of piece) mask.data[i] = 0;
}

/** How much of a pixel that two persons claim is this one's, besides what the masks say: more in the middle of the box. */
const middling = (at: number, from: number, to: number): number => 1 - 0.5 * Math.min(1, Math.abs((2 * at - from - to) / Math.max(1e-6, to - from)));

/** Gives each pixel to the one person who has the better claim to it, in place. */
function part(persons: readonly Person[]): void {
  if (persons.length < 2) return;
  const { width, height } = persons[0]!.mask;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      let [most, whose, claims] = [0, -1, 0];
      for (const [k, { box, mask }] of persons.entries()) {
        const v = mask.data[i]!;
        if (v < 0.02) continue;
        claims++;
        const claim = v * middling((x + 0.5) / width, box.left, box.right) * middling((y + 0.5) / height, box.top, box.bottom);
        if (claim > most) [most, whose] = [claim, k];
      }
      if (claims < 2) continue;
      for (const [k, { mask }] of persons.entries()) if (k !== whose) mask.data[i] = 0;
    }
}

/**
 * The persons in a picture: found by what the estimate's encoder read at several sizes, each looked at again in a part of the picture of its own, so that one far off is seen as well as
 * one near by. `small`: a copy of the picture as large as the masks are to be. Nothing is said of what is no person, or not surely one. `progress` gets the share done; null where it
 * answers false.
 */
export function peopleIn(
  raster: Raster,
  small: Picture,
  read: readonly Encoded[],
  progress: (share: number) => boolean = () => true,
): Person[] | null {
  const all = read.slice(0, SIZES).flatMap((encoded) => findAll(encoded, ready().finder, Math.min(SURE_LARGE, ANIMAL)));
  const found = personsAmong(
    all.sort((a, b) => b.score - a.score),
    raster,
  );
  const persons: Person[] = [];
  for (const [k, one] of found.entries()) {
    if (!progress(k / found.length)) return null;
    const person = personAt(raster, one, small);
    if (isFirm(person)) persons.push(person);
  }
  part(persons);
  return persons.map(({ box, mask }) => {
    const edged = guidedEnlarge(small, mask, SNAP_RADIUS, SNAP_EPSILON, picturesRows(small));
    for (let i = 0; i < edged.data.length; i++) edged.data[i] = mask.data[i]! === 0 && edged.data[i]! < 0.25 ? 0 : decided(edged.data[i]!);
    inOnePiece(edged);
    return { box, mask: edged };
  });
}

/** The surface of a person's face on the map of their mask; null where none is seen. */
export const faceIn = (raster: Raster, person: Person): FaceOnMap | null =>
  faceOf(raster, person, (picture) => faceMesh(planesOf(picture), ready().face));
