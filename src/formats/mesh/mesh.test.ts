import { describe, expect, test } from '@jest/globals';
import { parse, type Loader, type LoaderOptions } from '@loaders.gl/core';
import { GLBLoader, GLTFLoader as OtherGltf, postProcessGLTF } from '@loaders.gl/gltf';
import { OBJLoader as OtherObj } from '@loaders.gl/obj';
import { PLYLoader as OtherPly } from '@loaders.gl/ply';
import { BlobReader, Uint8ArrayWriter, ZipReader, type FileEntry } from '@zip.js/zip.js';
import sharp from 'sharp';
import { Mesh, PerspectiveCamera, Texture, Vector3, type BufferGeometry, type Object3D } from 'three';
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';
import { OBJLoader } from 'three/examples/jsm/loaders/OBJLoader.js';
import { PLYLoader } from 'three/examples/jsm/loaders/PLYLoader.js';
import { layPlate } from '../../core/camera/behind';
import { plateLens, poseOf, ViewGeometry } from '../../core/camera/pose';
import { sceneShape, withColours, type SceneMesh } from '../../core/mesh/scene';
import { sheetsOf } from '../../core/mesh/sheet';
import { newPicture, newPlane } from '../../core/picture';
import { encodePicture8 } from '../../core/raster/colour';
import type { Encoders } from '../definition';
import { encodeGlb } from './glb';
import { encodeObjZip } from './obj';
import { encodePly } from './ply';

const [W, H] = [64, 48];
const lens = plateLens(W, H, 55);
const GAIN = 30;

const encoders: Encoders = {
  jpeg: async (picture, quality) => {
    const rgba = new Uint8ClampedArray(picture.data.length);
    encodePicture8(picture, rgba);
    return new Uint8Array(
      await sharp(rgba, { raw: { width: picture.width, height: picture.height, channels: 4 } })
        .flatten()
        .jpeg({ quality: 100 * quality })
        .toBuffer(),
    );
  },
  webp: () => Promise.reject(new Error('not asked for')),
};

/** A red box before a green wall that goes away to the right; see-through in a corner where `clear`. */
async function scene(triangles = Infinity, clear = false): Promise<SceneMesh & { distance: Float32Array }> {
  const picture = newPicture(W, H);
  const distance = newPlane(W, H);
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++) {
      const i = y * W + x;
      const box = x >= 20 && x < 40 && y >= 14 && y < 34;
      distance.data[i] = box ? 1.5 : 4 + x / 16;
      const alpha = clear && x < 8 ? 0 : 1;
      picture.data.set(
        (box ? [0.7, 0.05, 0.05, 1] : [0.05, 0.5, 0.05, 1]).map((v) => v * alpha),
        i * 4,
      );
    }
  const plate = layPlate(picture, distance, { gain: GAIN, pad: 4, border: 'mirrored', hidden: true });
  const sheets = sheetsOf(plate, { behind: true });
  return { ...withColours(await sceneShape(sheets, lens, GAIN, { triangles }), sheets), distance: distance.data };
}

/** Corners, by a loader, against the map: each lies on the ray of its pixel, as far as that is. */
function compare(positions: ArrayLike<number>, distance: Float32Array): number {
  let compared = 0;
  for (let i = 0; i < positions.length; i += 3) {
    const [x, y, z] = [positions[i]!, positions[i + 1]!, -positions[i + 2]!];
    const [px, py] = [W / 2 + (lens.focalPx * x) / z, H / 2 - (lens.focalPx * y) / z];
    if (Math.abs((px % 1) - 0.5) > 0.01 || Math.abs((py % 1) - 0.5) > 0.01) continue;
    const told = distance[Math.floor(py) * W + Math.floor(px)]!;
    expect(Math.abs(z / told - 1)).toBeLessThan(1e-4);
    compared++;
  }
  return compared;
}

/** Read by another's loader. */
const read = async <T>(data: ArrayBuffer | string, loader: Loader, options?: LoaderOptions): Promise<T> => (await parse(data, loader, options)) as T;

const bufferOf = (bytes: Uint8Array): ArrayBuffer => bytes.slice().buffer;

/** Read by three's own loader, without its pictures, which need a browser. */
async function byThree(bytes: Uint8Array) {
  const loader = new GLTFLoader();
  loader.register(() => ({ name: 'no pictures', loadTexture: () => Promise.resolve(new Texture()) }));
  return loader.parseAsync(bufferOf(bytes), '');
}

describe('GLB', () => {
  test('read by two others it gives every corner back, in metres', async () => {
    const made = await scene();
    const bytes = await encodeGlb({ scene: made, name: 'box', encoders });
    const { scene: root } = await byThree(bytes);
    const meshes = new Map<string, BufferGeometry>();
    root.traverse((o: Object3D) => o instanceof Mesh && meshes.set(o.name, (o as Mesh).geometry));
    expect([...meshes.keys()].sort()).toEqual(['behind', 'front']);
    expect(compare(meshes.get('front')!.getAttribute('position').array, made.distance)).toBe(W * H);
    const other = postProcessGLTF(await parse(bufferOf(bytes), OtherGltf, { gltf: { loadImages: false } }));
    const front = other.meshes.find((m) => m.name === 'front')!.primitives[0]!;
    expect(compare(front.attributes.POSITION!.value as Float32Array, made.distance)).toBe(W * H);
    expect(front.indices!.value.length).toBe(made.surfaces[0]!.mesh.triangles.length);
  });

  test('its triangles face the camera, its pictures are inside and lie where they belong', async () => {
    const made = await scene();
    const bytes = await encodeGlb({ scene: made, name: 'box', encoders });
    const { scene: root } = await byThree(bytes);
    const geometry = (root.getObjectByName('front') as Mesh).geometry;
    const [at, uv, index] = [geometry.getAttribute('position'), geometry.getAttribute('uv'), geometry.getIndex()!];
    const [a, b, c] = [new Vector3(), new Vector3(), new Vector3()];
    for (let t = 0; t < index.count; t += 3) {
      for (const [k, v] of [a, b, c].entries()) v.fromBufferAttribute(at, index.getX(t + k));
      const normal = b.clone().sub(a).cross(c.clone().sub(a));
      // towards the origin
      expect(normal.dot(a)).toBeLessThan(1e-9);
    }
    const { json } = await read<{
      json: { images: { bufferView: number; mimeType: string }[]; bufferViews: { byteOffset?: number; byteLength: number }[] };
    }>(bufferOf(bytes), GLBLoader);
    expect(json.images.map((i) => i.mimeType)).toEqual(['image/jpeg', 'image/jpeg']);
    const view = json.bufferViews[json.images[0]!.bufferView]!;
    const start =
      bytes.length -
      new DataView(bytes.buffer, bytes.byteOffset).getUint32(12 + new DataView(bytes.buffer, bytes.byteOffset).getUint32(12, true) + 8, true);
    const picture = await sharp(bytes.subarray(start + (view.byteOffset ?? 0), start + (view.byteOffset ?? 0) + view.byteLength))
      .raw()
      .toBuffer({ resolveWithObject: true });
    expect([picture.info.width, picture.info.height]).toEqual([W, H]);
    // the middle of the box is red, by the place that its corner names
    const corner = Array.from({ length: at.count }, (_, i) => i).find((i) => Math.abs(at.getZ(i) + 1.5) < 1e-4)!;
    const [u, v] = [Math.floor(uv.getX(corner) * W) + 3, Math.floor(uv.getY(corner) * H) + 3];
    const o = (v * W + u) * picture.info.channels;
    expect(picture.data[o]!).toBeGreaterThan(picture.data[o + 1]! + 60);
  });

  test('what is see-through keeps it, as PNG', async () => {
    const bytes = await encodeGlb({ scene: await scene(Infinity, true), name: 'box', encoders });
    const { json } = await read<{
      json: { images: { mimeType: string }[]; materials: { alphaMode?: string; extensions?: object }[] };
    }>(bufferOf(bytes), GLBLoader);
    expect(json.images[0]!.mimeType).toBe('image/png');
    expect(json.materials[0]!.alphaMode).toBe('BLEND');
    expect(Object.keys(json.materials[0]!.extensions ?? {})).toEqual(['KHR_materials_unlit']);
  });

  test('the camera sees what it saw in the shot, frame by frame', async () => {
    const made = await scene();
    const poses = [
      poseOf({}),
      poseOf({ x: 0.3, y: -0.1, z: 0.2, yaw: 0.1, pitch: -0.05, roll: 0.2 }),
      poseOf({ x: 0.6, z: 0.4, yaw: -0.2, pitch: 0.1 }),
    ];
    const bytes = await encodeGlb({ scene: made, name: 'box', encoders, way: { poses, fps: 24 } });
    const { animations, cameras } = await byThree(bytes);
    expect(animations).toHaveLength(1);
    const [places, turns] = ['position', 'quaternion'].map((name) => animations[0]!.tracks.find((t) => t.name.endsWith(name))!);
    expect(Array.from(places!.times)).toEqual([0, 1 / 24, 2 / 24].map((v) => Math.fround(v)));
    for (const [k, pose] of poses.entries()) {
      const camera = new PerspectiveCamera((cameras[0] as PerspectiveCamera).fov, W / H, 0.01, 100);
      camera.position.fromArray(places!.values, k * 3);
      camera.quaternion.fromArray(turns!.values, k * 4);
      camera.updateMatrixWorld();
      const g = new ViewGeometry(lens, pose);
      for (const [x, y, z] of [
        [10, 12, 3],
        [50, 30, 5],
        [32, 24, 1.5],
      ] as const) {
        const seen = { x: 0, y: 0, q: 0 };
        g.forward(x, y, 1 / z, seen);
        const p = new Vector3(((x - W / 2) / lens.focalPx) * z, -((y - H / 2) / lens.focalPx) * z, -z).project(camera);
        expect(((p.x + 1) / 2) * W).toBeCloseTo(seen.x, 3);
        expect(((1 - p.y) / 2) * H).toBeCloseTo(seen.y, 3);
      }
    }
  });

  test('a shifted lens becomes a turn that keeps the middle of its picture', async () => {
    const pose = poseOf({ x: 0.4, shiftX: 0.4 / 2, y: 0.2, shiftY: 0.2 / 2 });
    const bytes = await encodeGlb({ scene: await scene(), name: 'box', encoders, way: { poses: [pose, pose], fps: 24 } });
    const { cameras, scene: root } = await byThree(bytes);
    root.updateMatrixWorld(true);
    // a thing 2 m away on the axis stands still in the shot
    const p = new Vector3(0, 0, -2).project(cameras[0] as PerspectiveCamera);
    expect(Math.hypot(p.x, p.y)).toBeLessThan(1e-5);
  });
});

test('OBJ: corners, places and pictures, read by two others', async () => {
  const made = await scene();
  const zip = await encodeObjZip({ scene: made, name: 'box', encoders });
  const entries = (await new ZipReader(new BlobReader(new Blob([zip as Uint8Array<ArrayBuffer>]))).getEntries()) as FileEntry[];
  expect(entries.map((e) => e.filename).sort()).toEqual(['box-behind.png', 'box-front.png', 'box.mtl', 'box.obj']);
  const file = async (name: string): Promise<Uint8Array> => entries.find((e) => e.filename === name)!.getData(new Uint8ArrayWriter());
  const text = new TextDecoder().decode(await file('box.obj'));
  const root = new OBJLoader().parse(text);
  const front = (root.getObjectByName('front') as Mesh).geometry;
  // without an index: each triangle has corners of its own
  expect(compare(front.getAttribute('position').array, made.distance)).toBeGreaterThan(W * H);
  expect(front.getAttribute('uv').count).toBe(made.surfaces[0]!.mesh.triangles.length);
  const other = await read<{ attributes: { POSITION: { value: Float32Array } } }>(text, OtherObj);
  const all = made.surfaces.reduce((n, s) => n + s.mesh.triangles.length, 0);
  expect(other.attributes.POSITION.value.length).toBe(all * 3);
  const mtl = new TextDecoder().decode(await file('box.mtl'));
  expect(mtl).toContain('map_Kd box-front.png');
  const picture = await sharp(await file('box-front.png')).metadata();
  expect([picture.width, picture.height]).toEqual([W, H]);
});

describe('PLY', () => {
  test('triangles with colours, read by two others', async () => {
    const made = await scene();
    const bytes = encodePly(made, true);
    const geometry = new PLYLoader().parse(bufferOf(bytes));
    const corners = made.surfaces.reduce((n, s) => n + s.mesh.x.length, 0);
    expect(geometry.getAttribute('position').count).toBe(corners);
    expect(geometry.getIndex()!.count).toBe(made.surfaces.reduce((n, s) => n + s.mesh.triangles.length, 0));
    const own = made.surfaces[0]!.mesh.x.length;
    expect(compare(geometry.getAttribute('position').array.slice(0, own * 3), made.distance)).toBe(W * H);
    const other = await read<{
      attributes: { POSITION: { value: Float32Array }; COLOR_0: { value: Uint8Array } };
      indices: { value: ArrayLike<number> };
    }>(bufferOf(bytes), OtherPly);
    expect(Array.from(other.attributes.POSITION.value.slice(0, 300))).toEqual(Array.from(geometry.getAttribute('position').array.slice(0, 300)));
    expect(other.indices.value.length).toBe(geometry.getIndex()!.count);
    const box = Array.from({ length: own }, (_, i) => i).find(
      (i) => Math.abs(made.surfaces[0]!.mesh.q[i]! - 1 / 1.5) < 1e-5 && made.surfaces[0]!.mesh.x[i] === 30.5,
    )!;
    expect(other.attributes.COLOR_0.value[box * 3]!).toBeGreaterThan(200);
    expect(other.attributes.COLOR_0.value[box * 3 + 1]!).toBeLessThan(90);
  });

  test('points alone', async () => {
    const made = await scene();
    const geometry = new PLYLoader().parse(bufferOf(encodePly(made, false)));
    expect(geometry.getIndex()).toBeNull();
    expect(geometry.getAttribute('position').count).toBe(made.surfaces.reduce((n, s) => n + s.mesh.x.length, 0));
  });
});
