import { count, toggle } from '../../core/values/params';
import { defineOutput, type OutputDefinition } from './definition';
import type { MeshFormat } from './meshScene';

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

interface Kind {
  readonly kind: string;
  readonly label: string;
  readonly note: string;
  readonly extension: string;
  readonly mime: string;
  readonly format: MeshFormat;
}

// what makes meshes is read when one is made
const mesh = ({ format, ...rest }: Kind): OutputDefinition =>
  defineOutput<typeof params>({
    ...rest,
    of: 'mesh',
    params,
    write: async (input) => (await import('./meshScene')).writeMesh(format, input),
  });

export const meshes: readonly OutputDefinition[] = [
  mesh({
    kind: 'mesh-glb',
    label: 'GLB',
    note: 'One file with its pictures inside, unlit, in metres, with the camera and its moves; for most 3D programs and web pages.',
    extension: 'glb',
    mime: 'model/gltf-binary',
    format: 'glb',
  }),
  mesh({
    kind: 'mesh-obj',
    label: 'OBJ',
    note: 'OBJ with its material and PNG pictures in a zip, in metres.',
    extension: 'obj.zip',
    mime: 'application/zip',
    format: 'obj',
  }),
  mesh({
    kind: 'mesh-ply',
    label: 'PLY',
    note: 'Corners with a colour each, in metres, binary.',
    extension: 'ply',
    mime: 'model/ply',
    format: 'ply',
  }),
  defineOutput<typeof points>({
    kind: 'mesh-points',
    of: 'mesh',
    label: 'PLY points',
    note: 'Points with a colour each, in metres, binary.',
    extension: 'ply',
    mime: 'model/ply',
    params: points,
    write: async (input) => (await import('./meshScene')).writePoints(input),
  }),
];
