import { poseAt } from '../../core/path/path';
import { knowsMove } from '../../core/camera/registry';
import { sheetsOf } from '../../core/mesh/sheet';
import { hfovOf } from '../../core/document/framing';
import { sceneShape, triangleCount, withColours, type MeshChoice, type SceneMesh, type SceneShape } from '../../core/mesh/scene';
import type { Size } from '../../core/picture';
import { partOf } from '../../core/run';
import { laidScene } from '../../core/shot/sceneOut';
import { encodeGlb } from '../mesh/glb';
import { encodeObjZip } from '../mesh/obj';
import { encodePly } from '../mesh/ply';
import type { CameraWay } from '../mesh/definition';
import type { OutputInput, Written } from './definition';

/** A larger picture is taken apart at so many px: what that takes is some thirty times as many bytes. */
const MOST_PIXELS = 12e6;

const bearable = ({ width, height }: Size): Size => {
  const k = Math.min(1, Math.sqrt(MOST_PIXELS / (width * height)));
  return { width: Math.round(width * k), height: Math.round(height * k) };
};

/** The scene of a shot as a mesh: its own shape, or that of another shot of its framing. Throws Aborted, OmbrageError. */
async function sceneOf({ request, inputs, shape }: OutputInput<unknown>, choice: MeshChoice): Promise<SceneMesh> {
  const { plate, lens, gain } = await laidScene({ ...request, size: bearable(request.size) }, inputs, { effects: 'surface' });
  const part = partOf(inputs.run, 0.4, 0.9);
  const sheets = sheetsOf(plate, shape ? { behind: true } : choice);
  return withColours(shape ?? (await sceneShape(sheets, lens, gain, choice, (share) => part.checkpoint(share))), sheets);
}

/** The way of a shot's camera, where it has one. */
function wayOf({ request: { settings }, request }: OutputInput<unknown>, { lens }: SceneShape): CameraWay | undefined {
  if (!settings.camera.moves.some((m) => m.on && knowsMove(m.kind))) return undefined;
  const hfov = hfovOf(lens.width, lens.focalPx);
  const { fps } = settings.time;
  const frames = Array.from({ length: settings.time.length }, (_, f) => f);
  return { poses: frames.map((frame) => poseAt(request.set ?? settings, hfov, { frame, fps })), fps };
}

/** What there is to say of a mesh. */
export const told = (scene: SceneShape): string =>
  `${triangleCount(scene).toLocaleString('en')} triangles, at most ${scene.error < 0.05 ? scene.error.toFixed(2) : scene.error.toFixed(1)} px off${scene.step > 1 ? `, from every ${scene.step === 2 ? '2nd' : scene.step === 3 ? '3rd' : `${scene.step}th`} pixel` : ''}`;

const bare = (scene: SceneMesh): SceneShape => ({ ...scene, surfaces: scene.surfaces.map((s) => ({ name: s.name, mesh: s.mesh })) });

/** How the scene of a shot is written, by the format's name. */
const encoders = {
  glb: (input: OutputInput<unknown>, scene: SceneMesh) => encodeGlb({ scene, name: input.name, way: wayOf(input, scene), encoders: input.encoders }),
  obj: (input: OutputInput<unknown>, scene: SceneMesh) => encodeObjZip({ scene, name: input.name, encoders: input.encoders }),
  ply: (_: OutputInput<unknown>, scene: SceneMesh) => Promise.resolve(encodePly(scene, true)),
};
export type MeshFormat = keyof typeof encoders;

/** The scene of a shot as a file. Throws Aborted, OmbrageError. */
export async function writeMesh(format: MeshFormat, input: OutputInput<MeshChoice>): Promise<Written> {
  const scene = await sceneOf(input, input.params);
  const bytes = await encoders[format](input, scene);
  return { bytes, told: told(scene), shape: bare(scene) };
}

/** The scene of a shot as points, evenly over the picture, so many at the most. Throws Aborted, OmbrageError. */
export async function writePoints(input: OutputInput<{ readonly points: number; readonly behind: boolean }>): Promise<Written> {
  const scene = await sceneOf(input, { triangles: Infinity, behind: input.params.behind, samples: input.params.points });
  const n = scene.surfaces.reduce((sum, s) => sum + s.mesh.x.length, 0);
  return { bytes: encodePly(scene, false), told: `${n.toLocaleString('en')} points` };
}
