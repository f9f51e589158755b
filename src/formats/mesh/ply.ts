import { encodePicture8 } from '../../core/raster/colour';
import { cornersInSpace, type SceneMesh } from '../../core/mesh/scene';
import { textureOf } from './texture';

/** Bytes of a corner: three floats, three colours; of a triangle: its count and three numbers. */
const CORNER = 15;
const TRIANGLE = 13;

/** A scene as binary PLY: corners in metres with the colour of their place (sRGB), and triangles, or without `triangles` points alone. */
export function encodePly({ surfaces, lens, sky }: SceneMesh, triangles: boolean): Uint8Array {
  const corners = surfaces.reduce((n, s) => n + s.mesh.x.length, 0);
  const faces = triangles ? surfaces.reduce((n, s) => n + s.mesh.triangles.length / 3, 0) : 0;
  const header = new TextEncoder().encode(
    [
      'ply',
      'format binary_little_endian 1.0',
      'comment metres; x right, y up, the camera at the origin looks along -z',
      `element vertex ${corners}`,
      ...['x', 'y', 'z'].map((n) => `property float ${n}`),
      ...['red', 'green', 'blue'].map((n) => `property uchar ${n}`),
      ...(triangles ? [`element face ${faces}`, 'property list uchar uint vertex_indices'] : []),
      'end_header\n',
    ].join('\n'),
  );
  const bytes = new Uint8Array(header.length + corners * CORNER + faces * TRIANGLE);
  const view = new DataView(bytes.buffer);
  bytes.set(header);
  let at = header.length;
  for (const { mesh, texture } of surfaces) {
    const places = cornersInSpace(mesh, lens, sky);
    const { width, height } = texture;
    const colours = new Uint8ClampedArray(width * height * 4);
    encodePicture8(textureOf(texture), colours);
    for (let i = 0; i < mesh.x.length; i++) {
      for (let k = 0; k < 3; k++) view.setFloat32(at + k * 4, places[i * 3 + k]!, true);
      const x = Math.min(width - 1, Math.max(0, Math.floor(mesh.x[i]!)));
      const y = Math.min(height - 1, Math.max(0, Math.floor(mesh.y[i]!)));
      for (let k = 0; k < 3; k++) bytes[at + 12 + k] = colours[(y * width + x) * 4 + k]!;
      at += CORNER;
    }
  }
  if (!triangles) return bytes;
  let first = 0;
  for (const { mesh } of surfaces) {
    for (let t = 0; t < mesh.triangles.length; t += 3) {
      bytes[at] = 3;
      for (let k = 0; k < 3; k++) view.setUint32(at + 1 + k * 4, first + mesh.triangles[t + k]!, true);
      at += TRIANGLE;
    }
    first += mesh.x.length;
  }
  return bytes;
}
