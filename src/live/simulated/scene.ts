import { wander } from '../../core/noise';
import { seededRandom } from '../../core/random';
import { backdrop, MAST } from './backdrop';
import { nearnessAt, PX, VIEW } from './view';

/** What the scene's channels are worth at a time. */
export interface HutChannels {
  /** how far the keeper's eyes are closed, 0 open to 1 shut */
  readonly blink: number;
  /** how far his mouth is open, 0..1 */
  readonly mouth: number;
  /** where the arms of the mast point, 0 down to 1 up */
  readonly arm: number;
  /** where the lantern hangs, -1 left to 1 right */
  readonly swing: number;
  /** how bright it is, 0..1 */
  readonly lamp: number;
}

/** A keeper blinks about so often, s, for so long. */
const BLINK_EVERY = 3.1;
const BLINK_SECONDS = 0.24;
/** Every third time he only squints: that is no blink. */
const SQUINT = 0.45;
const SWING_SECONDS = 2.6;
const ARM_SECONDS = 9;

/** A bump from 0 to 1 and back while t runs from 0 to 1; 0 elsewhere. */
const bump = (t: number): number => (t <= 0 || t >= 1 ? 0 : 0.5 - 0.5 * Math.cos(2 * Math.PI * t));

/** The channels of the scene at a time, s. */
export function channelsAt(t: number): HutChannels {
  const k = Math.floor(t / BLINK_EVERY);
  const since = t - k * BLINK_EVERY - 1.2;
  const talks = Math.max(0, wander(t / 2.3, 5) + 0.25);
  return {
    blink: (k % 3 === 2 ? SQUINT : 1) * bump(since / BLINK_SECONDS),
    mouth: Math.min(1, talks * (0.35 + 0.65 * Math.abs(Math.sin(7.3 * t)))),
    arm: 0.5 - 0.5 * Math.cos((2 * Math.PI * t) / ARM_SECONDS),
    swing: Math.sin((2 * Math.PI * t) / SWING_SECONDS),
    lamp: 0.65 + 0.35 * wander(t * 3, 11),
  };
}

/** The lantern: where its rope is tied, how long that is, how far it swings, and how large it is, m. */
export const LANTERN = { x: 0.42, y: 0.62, z: 1.55, rope: 0.62, angle: 0.42, radius: 0.1 } as const;
/** The keeper behind the window. */
export const KEEPER = { x: -1.95, y: 0.2, z: 6.5, radius: 0.3 } as const;
const ARM = { z: MAST.z - 0.12, length: 1.15, half: 0.11 } as const;
const GULL = { z: 20, y: 3.2, across: 17, seconds: 13 } as const;

/** Where the lantern hangs, m. */
export function lanternAt({ swing }: Pick<HutChannels, 'swing'>): { readonly x: number; readonly y: number; readonly z: number } {
  const a = LANTERN.angle * swing;
  return { x: LANTERN.x + LANTERN.rope * Math.sin(a), y: LANTERN.y - LANTERN.rope * Math.cos(a), z: LANTERN.z };
}

type Colour = readonly [number, number, number];

/** What a thing shows at a place: how much of the pixel it covers, red, green and blue, and how far it is. One for all: it is written many thousand times a frame. */
const shown = new Float64Array(5);

/** What is looked at in a place of the view at 1 m, written to `shown`. */
interface Thing {
  readonly box: Patch;
  look(x: number, y: number): void;
}

/** A part of the view, px. */
interface Patch {
  readonly x0: number;
  readonly y0: number;
  readonly x1: number;
  readonly y1: number;
}

/** The pixels about some places, m, at a distance, with some room round them. */
function boxOf(xs: readonly number[], ys: readonly number[], z: number, room: number): Patch {
  const k = PX / z;
  return {
    x0: Math.max(0, Math.floor(VIEW.width / 2 + (Math.min(...xs) - room) * k) - 1),
    x1: Math.min(VIEW.width, Math.ceil(VIEW.width / 2 + (Math.max(...xs) + room) * k) + 1),
    y0: Math.max(0, Math.floor(VIEW.height / 2 - (Math.max(...ys) + room) * k) - 1),
    y1: Math.min(VIEW.height, Math.ceil(VIEW.height / 2 - (Math.min(...ys) - room) * k) + 1),
  };
}

/** Part of a pixel that lies within an edge, from the distance to it, in px, inside positive. */
const within = (px: number): number => Math.min(1, Math.max(0, px + 0.5));

function show(cover: number, colour: Colour, light: number, z: number): void {
  shown[0] = cover;
  shown[1] = colour[0] * light;
  shown[2] = colour[1] * light;
  shown[3] = colour[2] * light;
  shown[4] = z;
}

/** A ball, told by its middle and radius, m, and painted by a place on it, -1..1. */
const ball = (cx: number, cy: number, cz: number, radius: number, paint: (u: number, v: number) => Colour): Thing => ({
  box: boxOf([cx], [cy], cz, radius),
  look(x, y) {
    const u = (x * cz - cx) / radius;
    const v = (y * cz - cy) / radius;
    const r = Math.sqrt(u * u + v * v);
    const cover = within(((1 - r) * radius * PX) / cz);
    shown[0] = 0;
    if (cover === 0) return;
    const w = Math.sqrt(Math.max(0, 1 - r * r));
    show(cover, paint(u, v), 0.55 + 0.45 * Math.max(0, 0.5 * u + 0.45 * v + 0.75 * w), cz - radius * w);
  },
});

/** A board in a plane across the view: from a place along an angle, so long and half so wide, m. */
function board(x0: number, y0: number, z: number, angle: number, length: number, half: number, paint: (along: number) => Colour): Thing {
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)];
  return {
    box: boxOf([x0, x0 + length * cos], [y0, y0 + length * sin], z, half),
    look(x, y) {
      const dx = x * z - x0;
      const dy = y * z - y0;
      const along = dx * cos + dy * sin;
      const cover = within((Math.min(along, length - along, half - Math.abs(dy * cos - dx * sin)) * PX) / z);
      shown[0] = 0;
      if (cover > 0) show(cover, paint(along / length), 1, z);
    },
  };
}

const SKIN: Colour = [206, 158, 128];

const COAT: Colour = [70, 84, 116];
const HAIR: Colour = [54, 42, 38];
const PUPIL: Colour = [34, 30, 36];
const LID: Colour = [120, 84, 66];
const WHITE: Colour = [240, 236, 228];
const LIPS: Colour = [96, 34, 36];
const NOSE: Colour = [222, 160, 132];

/** Whether a place lies in an ellipse about a middle, told by its halves. */
const inEllipse = (u: number, v: number, a: number, b: number): boolean => (u * u) / (a * a) + (v * v) / (b * b) < 1;

const face =
  ({ blink, mouth }: HutChannels) =>
  (u: number, v: number): Colour => {
    if (v > 0.52 + 0.3 * u * u) return HAIR;
    // both sides alike
    const eye = Math.abs(u) - 0.36;
    if (inEllipse(eye, v - 0.12, 0.17, 0.02 + 0.13 * (1 - blink))) {
      if (blink > 0.9) return LID;
      return blink < 0.75 && inEllipse(eye, v - 0.12, 0.075, 0.075) ? PUPIL : WHITE;
    }
    if (Math.abs(eye) < 0.2 && Math.abs(v - 0.34) < 0.035) return HAIR;
    if (inEllipse(u, v + 0.45, 0.26, 0.035 + 0.2 * mouth)) return LIPS;
    return inEllipse(u, v + 0.1, 0.09, 0.12) ? NOSE : SKIN;
  };

/** Everything that moves, the farthest first. */
function moving(t: number, now: HutChannels): readonly Thing[] {
  const gullX = -GULL.across + (2 * GULL.across * (t % GULL.seconds)) / GULL.seconds;
  const flap = 0.35 * Math.sin(9 * t);
  const wing: Colour = [238, 236, 232];
  const sway = 0.07 * Math.sin(0.9 * t);
  const { x, y, z } = lanternAt(now);
  const glow = 0.55 + 0.45 * now.lamp;
  const rope = Math.atan2(LANTERN.y - y, LANTERN.x - x);
  return [
    board(gullX, GULL.y, GULL.z, 0.25 + flap, 0.8, 0.09, () => wing),
    board(gullX, GULL.y, GULL.z, Math.PI - 0.25 - flap, 0.8, 0.09, () => wing),
    ball(KEEPER.x + sway, KEEPER.y - 0.62, KEEPER.z, 0.42, () => COAT),
    ball(KEEPER.x + sway, KEEPER.y, KEEPER.z - 0.1, KEEPER.radius, face(now)),
    ...[1, -1].map((side) =>
      board(MAST.x, MAST.pivot - 0.1, ARM.z, side > 0 ? -1.2 + 2.2 * now.arm : Math.PI + 1.2 - 2.2 * now.arm, ARM.length, ARM.half, (along) =>
        along > 0.72 && along < 0.86 ? [236, 230, 214] : [184, 62, 48],
      ),
    ),
    board(x, y, z, rope, LANTERN.rope, 0.006, () => [60, 48, 40]),
    ball(x, y, z, LANTERN.radius, (u, v) =>
      Math.abs(v) > 0.72 || Math.abs(u + 0.02) < 0.05 || Math.abs(Math.abs(u) - 0.62) < 0.05 ? [58, 50, 46] : [255 * glow, 206 * glow, 120 * glow],
    ),
  ];
}

/** Depth as alpha holds it. */
const alphaOf = (z: number): number => Math.round(255 * nearnessAt(z));

/**
 * The scene of the simulated camera: a signal hut by the sea, its keeper in the window, a mast with two arms, a gull, and a lantern that swings
 * close by. Every pixel's distance is exact, up to the eight bits of alpha.
 */
export class SignalHut {
  private readonly still: Uint8Array;
  private readonly depth: Float32Array;

  constructor() {
    const { colour, depth } = backdrop();
    for (let i = 0; i < depth.length; i++) colour[4 * i + 3] = alphaOf(depth[i]!);
    this.still = colour;
    this.depth = depth;
  }

  /** The scene at a time, s, into RGBA of its size: sRGB, with nearness in alpha. */
  draw(t: number, out: Uint8Array): HutChannels {
    const now = channelsAt(t);
    out.set(this.still);
    for (const thing of moving(t, now)) this.lay(thing, out);
    return now;
  }

  private lay({ box: { x0, y0, x1, y1 }, look }: Thing, out: Uint8Array): void {
    for (let py = y0; py < y1; py++)
      for (let px = x0; px < x1; px++) {
        look((px + 0.5 - VIEW.width / 2) / PX, (VIEW.height / 2 - py - 0.5) / PX);
        const i = py * VIEW.width + px;
        const cover = shown[0]!;
        const z = shown[4]!;
        if (cover === 0 || z >= this.depth[i]!) continue;
        for (let c = 0; c < 3; c++) out[4 * i + c] = out[4 * i + c]! + (shown[c + 1]! - out[4 * i + c]!) * cover;
        if (cover >= 0.5) out[4 * i + 3] = alphaOf(z);
      }
  }
}

/** Adds noise to the nearness in alpha: even, of zero mean, so strong at the most. The same seed gives the same. */
export function spoil(raster: Uint8Array, strength: number, seed: number): void {
  const most = 255 * strength;
  const random = seededRandom(seed);
  for (let i = 3; i < raster.length; i += 4) raster[i] = Math.min(255, Math.max(0, Math.round(raster[i]! + most * (2 * random() - 1))));
}
