import { BufferAttribute, BufferGeometry, DoubleSide, Mesh, NoColorSpace, Points, ShaderMaterial, Texture, type Object3D } from 'three';
import type { ReliefPart } from '../../engine/messages/protocol';
import type { Form } from './reliefStore';

/** A corner lies on the ray of its place; `strength` moves it along that: from the middle distance when 0 to as far as it is when 1. */
const VERTEX = /* glsl */ `
  attribute vec3 corner;
  uniform vec2 size;
  uniform vec2 axis;
  uniform float focal;
  uniform float least;
  uniform float middle;
  uniform float strength;
  uniform float dot_px;
  varying vec2 place;
  void main() {
    place = corner.xy / size;
    float z = 1.0 / max(least, corner.z);
    z = middle * pow(z / middle, strength);
    gl_Position = projectionMatrix * modelViewMatrix * vec4((corner.x - axis.x) / focal * z, -(corner.y - axis.y) / focal * z, -z, 1.0);
    gl_PointSize = clamp(dot_px * z / max(1e-3, gl_Position.w), 1.0, 24.0);
  }
`;
const FRAGMENT = /* glsl */ `
  uniform sampler2D picture;
  uniform vec3 plain;
  uniform float coloured;
  varying vec2 place;
  void main() {
    vec4 c = texture2D(picture, place);
    #ifdef SEE_THROUGH
    if (c.a < 0.5) discard;
    #endif
    gl_FragColor = vec4(mix(plain, c.rgb, coloured), c.a);
  }
`;

/** How a scene is drawn: as what, how far things stand apart, px of the view for a unit of height one unit away. */
export interface Look {
  readonly form: Form;
  readonly strength: number;
  readonly pxAcross: number;
}

/** Everything of one part that takes memory of the graphics processor. */
export interface Drawn {
  readonly part: ReliefPart;
  readonly objects: readonly Object3D[];
  /** what lies on its surfaces, by their names */
  readonly textures: ReadonlyMap<string, Texture>;
  free(): void;
}

/** A picture for the processor, as it is. */
function textureOf({ bitmap, opaque }: NonNullable<ReliefPart['surfaces'][number]['picture']>): Texture {
  const texture = new Texture(bitmap);
  texture.colorSpace = NoColorSpace;
  texture.flipY = false;
  texture.generateMipmaps = false;
  texture.minFilter = texture.magFilter;
  texture.needsUpdate = true;
  texture.userData.opaque = opaque;
  return texture;
}

/** Makes a part ready to be drawn; `lent`: pictures of another part of the same scene, which frees them. */
export function drawnPart(part: ReliefPart, lent: ReadonlyMap<string, Texture> | null): Drawn {
  const textures = new Map<string, Texture>();
  const objects: Object3D[] = [];
  const freed: (() => void)[] = [];
  for (const { name, corners, triangles, picture } of part.surfaces) {
    const texture = picture ? textureOf(picture) : lent?.get(name);
    if (!texture) continue;
    const geometry = new BufferGeometry();
    geometry.setAttribute('corner', new BufferAttribute(corners, 3));
    // three asks for one, to know how much there is
    geometry.setAttribute('position', geometry.getAttribute('corner'));
    geometry.setIndex(new BufferAttribute(triangles, 1));
    const { lens } = part;
    const material = new ShaderMaterial({
      vertexShader: VERTEX,
      fragmentShader: FRAGMENT,
      side: DoubleSide,
      defines: texture.userData.opaque ? {} : { SEE_THROUGH: '' },
      uniforms: {
        picture: { value: texture },
        size: { value: [lens.width, lens.height] },
        axis: { value: [lens.axisX ?? lens.width / 2, lens.axisY ?? lens.height / 2] },
        focal: { value: lens.focalPx },
        least: { value: 1 / part.sky },
        middle: { value: part.middle },
        strength: { value: 1 },
        dot_px: { value: 1 },
        plain: { value: [0.94, 0.91, 0.86] },
        coloured: { value: 1 },
      },
    });
    for (const made of [new Mesh(geometry, material), new Points(geometry, material)]) {
      made.frustumCulled = false;
      // what hides is drawn first
      made.renderOrder = name === 'front' ? 0 : 1;
      objects.push(made);
    }
    freed.push(() => {
      geometry.dispose();
      material.dispose();
      if (!picture) return;
      texture.dispose();
      picture.bitmap.close();
    });
    textures.set(name, texture);
  }
  return {
    part,
    objects,
    textures,
    free: () => {
      for (const object of objects) object.removeFromParent();
      for (const free of freed) free();
    },
  };
}

/** Gives a part the form and the strength that are chosen. */
export function dress({ part, objects }: Drawn, { form, strength, pxAcross }: Look): void {
  for (const object of objects) {
    const drawn = object as Mesh<BufferGeometry, ShaderMaterial>;
    const points = object instanceof Points;
    // what is not of the form is left out whichever part is seen
    object.layers.set(points === (form === 'points') ? 0 : 1);
    const { uniforms } = drawn.material;
    uniforms.strength!.value = strength;
    uniforms.coloured!.value = form === 'wire' ? 0.55 : 1;
    uniforms.dot_px!.value = (1.15 * part.step * pxAcross) / part.lens.focalPx;
    if (!points) drawn.material.wireframe = form === 'wire';
  }
}
