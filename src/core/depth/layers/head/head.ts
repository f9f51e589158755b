import * as z from 'zod';
import { newPlane } from '../../../picture';
import { clampNumber, degrees, metres, percent, toggle, type NumberParam } from '../../../values/params';
import { nearnessAtDistance, rawOf } from '../../calibrate';
import { defineLayer, type LayerStart } from '../../definition';
import { plateToOutputPx } from '../../outline/curve';
import { markNames, placeInPlate, type HeadPose } from './marks';
import { headParts, PART_LABELS, usualPart, type HeadPart, type HeadShape } from './parts';
import { rasterDepth } from './raster';
import { headMesh, headPoint, turn, type Point3 } from './surface';

const place = z.object({ x: z.number().min(-20).max(20), y: z.number().min(-20).max(20) });

export const headContentSchema = z.object({
  /** marks that have been dragged onto the picture, shares of the plate */
  marks: z.partialRecord(z.enum(markNames as [string, ...string[]]), place).default({}),
  /** parts that fitting and sliders leave alone */
  locked: z.array(z.enum(headParts)).default([]),
});
export type HeadContent = z.infer<typeof headContentSchema>;

type PartParam = `${HeadPart}${'Size' | 'Relief' | 'Across' | 'Up'}`;

const partParams = Object.fromEntries(
  headParts.flatMap((part): [string, NumberParam][] => {
    const section = PART_LABELS[part];
    return [
      [`${part}Size`, percent({ label: 'Size', section, min: 50, max: 160, lowest: 20, highest: 300, default: 100 })],
      [
        `${part}Relief`,
        percent({ label: 'Relief', section, min: 0, max: 250, highest: 500, default: 100, help: 'How far it stands out or lies back' }),
      ],
      [
        `${part}Across`,
        degrees({
          label: part === 'nose' || part === 'lips' || part === 'jaw' ? 'Sideways' : 'Apart',
          section,
          min: -10,
          max: 10,
          lowest: -30,
          highest: 30,
          default: 0,
        }),
      ],
      [`${part}Up`, degrees({ label: 'Up', section, min: -10, max: 10, lowest: -30, highest: 30, default: 0 })],
    ];
  }),
) as Record<PartParam, NumberParam>;

const params = {
  yaw: degrees({
    label: 'Turn',
    section: 'Place',
    min: -100,
    max: 100,
    lowest: -180,
    highest: 180,
    default: 0,
    help: 'Positive looks to the right of the picture',
  }),
  pitch: degrees({ label: 'Nod', section: 'Place', min: -60, max: 60, lowest: -180, highest: 180, default: 0, help: 'Positive looks up' }),
  roll: degrees({ label: 'Lean', section: 'Place', min: -60, max: 60, lowest: -180, highest: 180, default: 0 }),
  height: percent({
    label: 'Height',
    section: 'Place',
    min: 5,
    max: 150,
    lowest: 1,
    highest: 1000,
    default: 40,
    decimals: 1,
    help: 'Crown to chin, of the plate’s height',
  }),
  x: percent({
    label: 'Across',
    section: 'Place',
    min: 0,
    max: 100,
    lowest: -500,
    highest: 600,
    default: 50,
    decimals: 1,
    help: 'Middle of the head, from the left border',
  }),
  y: percent({
    label: 'Down',
    section: 'Place',
    min: 0,
    max: 100,
    lowest: -500,
    highest: 600,
    default: 45,
    decimals: 1,
    help: 'Middle of the head, from the upper border',
  }),
  distance: metres({
    label: 'Face at',
    section: 'Distance',
    min: 0.2,
    max: 50,
    lowest: 0.05,
    highest: 10000,
    default: 1.5,
    help: 'Distance of the eyes',
  }),
  tall: {
    ...metres({
      label: 'True height',
      section: 'Distance',
      min: 0.1,
      max: 1,
      lowest: 0.001,
      highest: 1000,
      default: 0.23,
      help: 'Crown to chin of the head itself',
    }),
    distance: false,
  },
  relief: percent({
    label: 'Relief',
    section: 'Distance',
    min: 0,
    max: 300,
    highest: 1000,
    default: 100,
    help: 'Depth of the whole head; 100 % is true to its height',
  }),
  body: toggle({ label: 'Neck, shoulders', section: 'Distance', default: true }),
  backdropOn: toggle({ label: 'Backdrop', section: 'Backdrop', default: false, help: 'Covers everything round the head' }),
  backdrop: metres({ label: 'Backdrop at', section: 'Backdrop', min: 0.5, max: 1000, lowest: 0.05, highest: 1e5, default: 4 }),
  cheekRelief: toggle({ label: 'Cheek relief', section: PART_LABELS.cheeks, default: true }),
  ...partParams,
};

export type HeadValues = Readonly<Record<PartParam | 'yaw' | 'pitch' | 'roll' | 'height' | 'x' | 'y', number>> & { readonly cheekRelief: boolean };

/** The pose that a head layer's values stand for. */
export const poseOf = (p: Pick<HeadValues, 'yaw' | 'pitch' | 'roll' | 'height' | 'x' | 'y'>): HeadPose => ({
  yaw: p.yaw,
  pitch: p.pitch,
  roll: p.roll,
  height: p.height / 100,
  x: p.x / 100,
  y: p.y / 100,
});

/** The shape of its parts. */
export const shapeOf = (p: HeadValues): HeadShape =>
  Object.fromEntries(
    headParts.map((part) => [
      part,
      {
        ...usualPart,
        size: p[`${part}Size`] / 100,
        relief: part === 'cheeks' && !p.cheekRelief ? 0 : p[`${part}Relief`] / 100,
        across: p[`${part}Across`],
        up: p[`${part}Up`],
      },
    ]),
  ) as HeadShape;

/** Samples a side of a pixel, for the share of it that the head covers. */
const FINE = 2;

/** Neck and shoulders follow a turn of the head only a little. */
const BODY_TURNS = 0.25;

/** Corners of the mesh in the plate: shares, and z in head heights from its middle. */
export function placeMesh(mesh: { xyz: Float64Array; headCorners: number }, pose: HeadPose, aspect: number): Float64Array {
  const out = new Float64Array(mesh.xyz.length);
  const body: HeadPose = { ...pose, yaw: pose.yaw * BODY_TURNS, pitch: 0, roll: pose.roll * BODY_TURNS };
  placeAll(mesh.xyz, 0, 3 * mesh.headCorners, pose, aspect, out);
  placeAll(mesh.xyz, 3 * mesh.headCorners, mesh.xyz.length, body, aspect, out);
  return out;
}

/** placeInPlate of many points: it is linear, so where its axes lie says where all points lie. */
function placeAll(xyz: Float64Array, from: number, to: number, pose: HeadPose, aspect: number, out: Float64Array): void {
  const axis = (...p: Point3): Point3 => {
    const at = placeInPlate(p, pose, aspect);
    return [at.x - pose.x, at.y - pose.y, at.z];
  };
  const [a, b, c] = [axis(1, 0, 0), axis(0, 1, 0), axis(0, 0, 1)];
  for (let i = from; i < to; i += 3) {
    const [x, y, z] = [xyz[i]!, xyz[i + 1]!, xyz[i + 2]!];
    out[i] = pose.x + a[0] * x + b[0] * y + c[0] * z;
    out[i + 1] = pose.y + a[1] * x + b[1] * y + c[1] * z;
    out[i + 2] = a[2] * x + b[2] * y + c[2] * z;
  }
}

/**
 * Distance and true height of a head that covers a place of the plate: as far as what lies there, and as large as it looks at that distance, so
 * that its relief fits also where nothing is to scale.
 */
export function placeHead(
  { x, y, height }: Pick<HeadValues, 'x' | 'y' | 'height'>,
  { distanceAt, plate, focalPx }: LayerStart,
): { distance?: number; tall?: number } {
  const places = [-0.12, 0, 0.12].flatMap((dy) =>
    [-0.08, 0, 0.08].map((dx) => [x / 100 + (dx * height * plate.height) / (100 * plate.width), y / 100 + (dy * height) / 100] as const),
  );
  const found = places
    .flatMap(([px, py]) => distanceAt(px, py) ?? [])
    .filter(Number.isFinite)
    .sort((a, b) => a - b);
  const distance = found[found.length >> 1];
  if (distance === undefined) return {};
  const kept = (name: 'distance' | 'tall', value: number): number => clampNumber(params[name], Number(value.toPrecision(3)));
  return { distance: kept('distance', distance), tall: kept('tall', ((height / 100) * plate.height * distance) / focalPx) };
}

/** A head in three dimensions, turned and fitted as one, then part by part. */
export const headLayer = defineLayer({
  kind: 'head',
  label: 'Head form',
  help: 'A head in three dimensions, fitted to a face',
  limits: true,
  keys: () => true,
  params,
  startOn: (p, start) => placeHead(p, start),
  content: headContentSchema,
  readsCalibration: true,
  summary: (p) => `turned ${Math.round(p.yaw) || 0}°`,
  anchor: (p) => p.distance,
  build({ width, height, params: p, framing, plateSize, calibration }) {
    const shape = shapeOf(p);
    const pose = poseOf(p);
    const mesh = headMesh(shape, p.body);
    const placed = placeMesh(mesh, pose, plateSize.width / plateSize.height);
    const toOutput = plateToOutputPx(framing, plateSize);
    let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity];
    for (let i = 0; i < placed.length; i += 3) {
      const [x, y] = toOutput(placed[i]!, placed[i + 1]!);
      placed[i] = x;
      placed[i + 1] = y;
      left = Math.min(left, x);
      top = Math.min(top, y);
      right = Math.max(right, x);
      bottom = Math.max(bottom, y);
    }
    const eyes = turn(headPoint(0, 0, shape), pose.yaw, pose.pitch, pose.roll)[2];
    const metresOf = (z: number): number => Math.max(0.01, p.distance + (z - eyes) * p.tall * (p.relief / 100));
    const raw = (distance: number): number => rawOf(nearnessAtDistance(distance, calibration), calibration);
    const nearness = newPlane(width, height);
    const coverage = newPlane(width, height);
    if (p.backdropOn) {
      nearness.data.fill(raw(p.backdrop));
      coverage.data.fill(1);
    }
    // neck and shoulders have no end below: they run out of the picture, so the box is clipped to it
    const x0 = Math.max(0, Math.floor(left));
    const y0 = Math.max(0, Math.floor(top));
    const w = Math.min(width, Math.ceil(right)) - x0;
    const h = Math.min(height, Math.ceil(bottom)) - y0;
    if (w <= 0 || h <= 0) return { nearness, coverage };
    for (let i = 0; i < placed.length; i += 3) {
      placed[i] = (placed[i]! - x0) * FINE;
      placed[i + 1] = (placed[i + 1]! - y0) * FINE;
    }
    const { z } = rasterDepth(placed, mesh, w * FINE, h * FINE);
    for (let v = 0; v < h; v++)
      for (let u = 0; u < w; u++) {
        let hits = 0;
        let sum = 0;
        for (let s = 0; s < FINE * FINE; s++) {
          const at = z[(v * FINE + ((s / FINE) | 0)) * w * FINE + u * FINE + (s % FINE)]!;
          if (at === Infinity) continue;
          hits++;
          sum += at;
        }
        if (hits === 0) continue;
        const i = (y0 + v) * width + x0 + u;
        const share = hits / (FINE * FINE);
        const n = raw(metresOf(sum / hits));
        nearness.data[i] = coverage.data[i]! > 0 ? nearness.data[i]! * (1 - share) + n * share : n;
        coverage.data[i] = Math.max(coverage.data[i]!, share);
      }
    return { nearness, coverage };
  },
});
