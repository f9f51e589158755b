import { poseAt } from '../../core/path/path';
import { knowsMove } from '../../core/camera/registry';
import { sheetsOf } from '../../core/mesh/sheet';
import { hfovOf } from '../../core/document/framing';
import { sceneShape, triangleCount, withColours, type MeshChoice, type SceneMesh, type SceneShape } from '../../core/mesh/scene';
import type { Size } from '../../core/picture';
import { partOf } from '../../core/run';
import { laidScene } from '../../core/shot/sceneOut';
import { count, toggle, type ValuesOf } from '../../core/values/params';
import { encodeGlb } from '../mesh/glb';
import { encodeObjZip } from '../mesh/obj';
import { encodePly } from '../mesh/ply';
import type { CameraWay } from '../mesh/definition';
import { defineOutput, type OutputDefinition, type OutputInput, type Written } from './definition';

const params = {
  triangles: count({
    label: 'Triangles',
    min: 1000,
    max: 500_000,
    lowest: 100,
    highest: 8e6,
    default: 100_000,
    scale: 'log',
    help: 'At the most: few where it is flat',
  }),
  behind: toggle({ label: 'What lies behind', default: true, help: 'A second surface behind edges, so that no holes open beside them' }),
  stretched: toggle({ label: 'Stretch at edges', default: false, help: 'Near and far are one surface, drawn out at edges, instead of cut there' }),
};

const points = {
  points: count({
    label: 'Points',
    min: 10_000,
    max: 2e6,
    lowest: 100,
    highest: 8e6,
    default: 1e6,
    scale: 'log',
    help: 'At the most, evenly over the picture',
  }),
  behind: params.behind,
};

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

interface Kind {
  readonly kind: string;
  readonly label: string;
  readonly note: string;
  readonly extension: string;
  readonly mime: string;
  encode(input: OutputInput<unknown>, scene: SceneMesh): Promise<Uint8Array>;
}

const mesh = ({ encode, ...rest }: Kind): OutputDefinition =>
  defineOutput<typeof params>({
    ...rest,
    of: 'mesh',
    params,
    async write(input: OutputInput<ValuesOf<typeof params>>): Promise<Written> {
      const scene = await sceneOf(input, input.params);
      const bytes = await encode(input, scene);
      return { bytes, told: told(scene), shape: bare(scene) };
    },
  });

export const meshes: readonly OutputDefinition[] = [
  mesh({
    kind: 'mesh-glb',
    label: 'GLB',
    note: 'One file with its pictures inside, unlit, in metres, with the camera and its moves; for most 3D programs and web pages.',
    extension: 'glb',
    mime: 'model/gltf-binary',
    encode: (input, scene) => encodeGlb({ scene, name: input.name, way: wayOf(input, scene), encoders: input.encoders }),
  }),
  mesh({
    kind: 'mesh-obj',
    label: 'OBJ',
    note: 'OBJ with its material and PNG pictures in a zip, in metres.',
    extension: 'obj.zip',
    mime: 'application/zip',
    encode: (input, scene) => encodeObjZip({ scene, name: input.name, encoders: input.encoders }),
  }),
  mesh({
    kind: 'mesh-ply',
    label: 'PLY',
    note: 'Corners with a colour each, in metres, binary.',
    extension: 'ply',
    mime: 'model/ply',
    encode: (_, scene) => Promise.resolve(encodePly(scene, true)),
  }),
  defineOutput<typeof points>({
    kind: 'mesh-points',
    of: 'mesh',
    label: 'PLY points',
    note: 'Points with a colour each, in metres, binary.',
    extension: 'ply',
    mime: 'model/ply',
    params: points,
    async write(input) {
      const scene = await sceneOf(input, { triangles: Infinity, behind: input.params.behind, samples: input.params.points });
      const n = scene.surfaces.reduce((sum, s) => sum + s.mesh.x.length, 0);
      return { bytes: encodePly(scene, false), told: `${n.toLocaleString('en')} points` };
    },
  }),
];
