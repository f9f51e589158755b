import type { PlateLens } from '../camera/pose';
import { OmbrageError } from '../error';
import { deviation } from './deviation';
import { compact, reduced } from './reduce';
import { namedSheets, thinned, type Sheet, type SheetChoice, type Sheets } from './sheet';
import { spreadOf, type Spread } from './spread';
import { tessellate, type FlatMesh } from './tessellate';

/** Samples of a surface at the most; of a larger picture only some are taken, its texture stays whole. */
const MOST_SAMPLES = 2.1e6;

/** Share of the triangles that what lies behind gets at the most. */
const MOST_BEHIND = 0.15;

/** How a scene becomes a mesh. */
export interface MeshChoice extends SheetChoice {
  /** at the most; Infinity: every sample is a corner */
  readonly triangles: number;
  /** so many samples are taken at the most */
  readonly samples?: number;
}

export type SurfaceName = 'front' | 'behind';

/** The scene of a picture as it stands in space, without its colours: it fits any picture of the same framing. */
export interface SceneShape {
  readonly surfaces: readonly { readonly name: SurfaceName; readonly mesh: FlatMesh }[];
  readonly lens: PlateLens;
  /** how far the front lies from the map at the most, px, seen from as far aside as the camera goes; of every how many-th pixel there is a sample */
  readonly error: number;
  readonly step: number;
  /** what has no distance stands so far away, m */
  readonly sky: number;
  readonly spread: Spread;
}

/** A surface of the scene: its triangles over the picture, and the picture that lies on it (roots of linear RGBA; `q` below 0 where there is none). */
export interface SceneSurface {
  readonly name: SurfaceName;
  readonly mesh: FlatMesh;
  readonly texture: Pick<Sheet, 'width' | 'height' | 'colour' | 'q'>;
}

/** A scene with what lies on its surfaces. */
export interface SceneMesh extends SceneShape {
  readonly surfaces: readonly SceneSurface[];
}

export const triangleCount = ({ surfaces }: SceneShape): number => surfaces.reduce((n, { mesh }) => n + mesh.triangles.length / 3, 0);

/** A scene with the colours of surfaces in the same framing. */
export const withColours = (shape: SceneShape, { front, behind }: Sheets): SceneMesh => ({
  ...shape,
  // where nothing lies behind, that of what is seen goes on
  surfaces: shape.surfaces.map((surface) => ({ ...surface, texture: surface.name === 'front' ? front : (behind ?? front) })),
});

/** Sky stands so many times as far as the farthest thing, and at least so far away, m. */
const SKY_TIMES = 3;
const SKY_LEAST = 50;

/** Where what is infinitely far stands in a mesh, m. */
export function skyDistance(q: Float32Array): number {
  let least = Infinity;
  for (const v of q) if (v > 1e-6 && v < least) least = v;
  return least === Infinity ? SKY_LEAST : Math.max(SKY_LEAST, SKY_TIMES / least);
}

/**
 * Surfaces become meshes. `gain`: px of parallax for each 1/m that a camera opens, by which what is flat and how far off the mesh is are judged. Throws
 * OmbrageError where there is nothing to see.
 */
export async function sceneShape(
  sheets: Sheets,
  lens: PlateLens,
  gain: number,
  choice: Pick<MeshChoice, 'triangles' | 'samples'>,
  checkpoint: (share: number) => void = () => undefined,
): Promise<SceneShape> {
  const { front } = sheets;
  if (front.q.every((v) => v < 0)) throw new OmbrageError('no-depth', 'There is no depth to make a mesh of.', 'Add a layer in Depth first.');
  const step = Math.max(1, Math.ceil(Math.sqrt((front.width * front.height) / Math.min(MOST_SAMPLES, choice.samples ?? Infinity))));
  const surfaces: { name: SurfaceName; mesh: FlatMesh }[] = [];
  let error = 0;
  const named = namedSheets(sheets);
  const fine = named.map(({ name, sheet }, k) => {
    const part = (s: number): void => checkpoint((0.3 * (k + s)) / named.length);
    return { name, sheet, mesh: tessellate(step > 1 ? thinned(sheet, step) : sheet, part) };
  });
  const all = fine.reduce((sum, { mesh }) => sum + mesh.triangles.length / 3, 0);
  // what is seen only beside edges does with less
  const behindShare = Math.min(MOST_BEHIND, fine.reduce((n, f) => n + (f.name === 'behind' ? f.mesh.triangles.length / 3 : 0), 0) / all);
  for (const [k, { name, sheet, mesh }] of fine.entries()) {
    const part = (s: number): void => checkpoint(0.3 + (0.7 * (k + s)) / fine.length);
    const share = name === 'front' ? 1 - behindShare : behindShare;
    const most = Math.floor(choice.triangles * share);
    const fewer = choice.triangles >= all ? compact(mesh) : await reduced(mesh, most, gain, (s) => part(0.7 * s));
    // what lies behind was made up: it is the front that is compared with the map
    if (name === 'front') error = deviation(fewer, sheet, gain);
    part(1);
    surfaces.push({ name, mesh: fewer });
  }
  return { surfaces, lens, error, step, sky: skyDistance(front.q), spread: spreadOf(front.q.length, (i) => front.q[i]!) };
}

/**
 * Corners of a mesh in space, metres, as open formats for scenes have it: x right, y up, the camera at the origin looking along −z.
 */
export function cornersInSpace(
  { x, y, q }: FlatMesh,
  { focalPx, width, height, axisX = width / 2, axisY = height / 2 }: PlateLens,
  sky: number,
): Float32Array {
  const out = new Float32Array(x.length * 3);
  const least = 1 / sky;
  for (let i = 0; i < x.length; i++) {
    const z = 1 / Math.max(least, q[i]!);
    out[i * 3] = ((x[i]! - axisX) / focalPx) * z;
    out[i * 3 + 1] = -((y[i]! - axisY) / focalPx) * z;
    out[i * 3 + 2] = -z;
  }
  return out;
}

/** Where a surface's corners lie in its picture: 0..1 from its upper left corner. */
export function placesInTexture({ mesh: { x, y }, texture: { width, height } }: SceneSurface): Float32Array {
  const out = new Float32Array(x.length * 2);
  for (let i = 0; i < x.length; i++) {
    out[i * 2] = x[i]! / width;
    out[i * 2 + 1] = y[i]! / height;
  }
  return out;
}
