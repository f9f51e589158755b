import type { Document } from '@gltf-transform/core';
import { ViewGeometry, type CameraPose, type PlateLens } from '../../core/camera/pose';
import { cornersInSpace, placesInTexture } from '../../core/mesh/scene';
import { png } from '../png/png';
import type { CameraWay, WrittenScene } from './definition';
import { textureOf } from './texture';

/** Quality of pictures in a mesh. */
const QUALITY = 0.93;
/** Keys of a camera's way at the most. */
const MOST_KEYS = 2000;

type Quaternion = [number, number, number, number];

/**
 * Which way a camera looks, as scenes have it (x right, y up, −z ahead): a unit quaternion. A lens that is shifted cannot be told; the camera is turned so
 * that what is in the middle of its picture stays there.
 */
export function turnOf(lens: PlateLens, pose: CameraPose): Quaternion {
  const g = new ViewGeometry(lens, pose);
  const u = (lens.width / 2 - g.cx2) / g.f2;
  const v = (lens.height / 2 - g.cy2) / g.f2;
  const [yaw, pitch] = [Math.atan(u), -Math.atan(v / Math.hypot(1, u))];
  const [cy, sy, cp, sp] = [Math.cos(yaw), Math.sin(yaw), Math.cos(pitch), Math.sin(pitch)];
  // Ry·Rx of the turn that takes the axis to the middle of the picture, by rows
  const turn = [cy, sy * sp, sy * cp, 0, cp, -sp, -sy, cy * sp, cy * cp];
  const m = new Float64Array(9);
  for (let i = 0; i < 3; i++)
    for (let j = 0; j < 3; j++)
      // g.r is the transpose of the camera's own turn
      for (let k = 0; k < 3; k++) m[i * 3 + j]! += g.r[k * 3 + i]! * turn[k * 3 + j]!;
  // y and z the other way round
  for (const k of [1, 2, 3, 6]) m[k]! *= -1;
  return quaternionOf(m);
}

/** A unit quaternion of a turn by rows (Shepperd 1978). */
function quaternionOf(m: Float64Array): Quaternion {
  const [a, b, c] = [m[0]!, m[4]!, m[8]!];
  const parts = [1 + a - b - c, 1 - a + b - c, 1 - a - b + c, 1 + a + b + c];
  const largest = parts.indexOf(Math.max(...parts));
  const s = Math.sqrt(parts[largest]!) * 2;
  const [xy, xz, yz] = [m[1]! + m[3]!, m[2]! + m[6]!, m[5]! + m[7]!];
  const [x, y, z] = [m[7]! - m[5]!, m[2]! - m[6]!, m[3]! - m[1]!];
  if (largest === 0) return [s / 4, xy / s, xz / s, x / s];
  if (largest === 1) return [xy / s, s / 4, yz / s, y / s];
  if (largest === 2) return [xz / s, yz / s, s / 4, z / s];
  return [x / s, y / s, z / s, s / 4];
}

/**
 * A scene as binary glTF 2.0: one mesh for each surface, unlit, its picture inside; metres, the camera that took the plate at the origin. A camera that moves is
 * animated; its field of view is that of its first frame.
 */
export async function encodeGlb({ scene, name, way, encoders }: WrittenScene): Promise<Uint8Array> {
  const [{ Document: NewDocument, VertexLayout, WebIO }, { KHRMaterialsUnlit }] = await Promise.all([
    import('@gltf-transform/core'),
    import('@gltf-transform/extensions'),
  ]);
  const doc: Document = new NewDocument();
  const buffer = doc.createBuffer();
  const unlit = doc.createExtension(KHRMaterialsUnlit).setRequired(false);
  const root = doc.createScene(name);
  doc.getRoot().setDefaultScene(root).getAsset().generator = 'Ombrage';
  for (const surface of scene.surfaces) {
    const { mesh } = surface;
    const picture = textureOf(surface.texture);
    const bytes = picture.opaque ? await encoders.jpeg(picture, QUALITY) : await png.writePicture!(picture, { bits: 8, quality: 1, encoders });
    const texture = doc
      .createTexture(surface.name)
      .setMimeType(picture.opaque ? 'image/jpeg' : 'image/png')
      .setImage(bytes);
    const material = doc
      .createMaterial(surface.name)
      .setBaseColorTexture(texture)
      .setMetallicFactor(0)
      .setRoughnessFactor(1)
      .setDoubleSided(true)
      .setAlphaMode(picture.opaque ? 'OPAQUE' : 'BLEND')
      .setExtension('KHR_materials_unlit', unlit.createUnlit());
    material.getBaseColorTextureInfo()!.setWrapS(33071).setWrapT(33071);
    const primitive = doc
      .createPrimitive()
      .setMaterial(material)
      .setIndices(doc.createAccessor().setType('SCALAR').setArray(mesh.triangles).setBuffer(buffer))
      .setAttribute(
        'POSITION',
        doc
          .createAccessor()
          .setType('VEC3')
          .setArray(cornersInSpace(mesh, scene.lens, scene.sky))
          .setBuffer(buffer),
      )
      .setAttribute('TEXCOORD_0', doc.createAccessor().setType('VEC2').setArray(placesInTexture(surface)).setBuffer(buffer));
    root.addChild(doc.createNode(surface.name).setMesh(doc.createMesh(surface.name).addPrimitive(primitive)));
  }
  addCamera(doc, scene.lens, way);
  return new WebIO().setVertexLayout(VertexLayout.SEPARATE).registerExtensions([KHRMaterialsUnlit]).writeBinary(doc);
}

/** The camera that took the plate, and its way where it moves. */
function addCamera(doc: Document, lens: PlateLens, way: CameraWay | undefined): void {
  const buffer = doc.getRoot().listBuffers()[0]!;
  const first = way?.poses[0];
  const camera = doc
    .createCamera('Camera')
    .setType('perspective')
    .setAspectRatio(lens.width / lens.height)
    .setYFov(2 * Math.atan(lens.height / 2 / (lens.focalPx * (first?.zoom ?? 1))))
    .setZNear(0.01);
  const node = doc.createNode('Camera').setCamera(camera);
  doc.getRoot().getDefaultScene()!.addChild(node);
  if (!way || way.poses.length === 0) return;
  const step = Math.ceil(way.poses.length / MOST_KEYS);
  const kept = way.poses.map((pose, frame) => ({ pose, frame })).filter(({ frame }) => frame % step === 0 || frame === way.poses.length - 1);
  const places = Float32Array.from(kept.flatMap(({ pose }) => [pose.x, -pose.y, -pose.z]));
  let last: Quaternion = [0, 0, 0, 1];
  const turns = Float32Array.from(
    kept.flatMap(({ pose }) => {
      const q = turnOf(lens, pose);
      // of the two that say the same the one next to the last, so that nothing spins between frames
      const other = q.reduce((sum, v, k) => sum + v * last[k]!, 0) < 0;
      last = other ? (q.map((v) => -v) as Quaternion) : q;
      return last;
    }),
  );
  node.setTranslation([places[0]!, places[1]!, places[2]!]).setRotation([turns[0]!, turns[1]!, turns[2]!, turns[3]!]);
  if (kept.length < 2) return;
  const times = doc
    .createAccessor()
    .setType('SCALAR')
    .setArray(Float32Array.from(kept, ({ frame }) => frame / way.fps))
    .setBuffer(buffer);
  const animation = doc.createAnimation('Camera');
  for (const [path, type, values] of [
    ['translation', 'VEC3', places],
    ['rotation', 'VEC4', turns],
  ] as const) {
    const sampler = doc
      .createAnimationSampler()
      .setInput(times)
      .setOutput(doc.createAccessor().setType(type).setArray(values).setBuffer(buffer))
      .setInterpolation('LINEAR');
    animation.addSampler(sampler).addChannel(doc.createAnimationChannel().setTargetNode(node).setTargetPath(path).setSampler(sampler));
  }
}
