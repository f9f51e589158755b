import type { Mesh, Vec3 } from './mesh';

/** What a material says about one point of a surface. All light is linear RGB. */
export interface Surface {
  albedo: [number, number, number];
  emission: [number, number, number];
  /** added to the shading normal, world space */
  bump: [number, number, number];
  /** 0 mirror … 1 matt */
  roughness: number;
  /** reflectance at normal incidence; 0 for a purely diffuse surface */
  specular: number;
  /** metals tint their reflection by albedo and have no diffuse part */
  metal: boolean;
  /** share of light let through from behind (thin leaves, cloth) */
  translucency: number;
}

export interface Point {
  p: Vec3;
  n: Vec3;
  u: number;
  v: number;
}

export type Material = (point: Point, out: Surface) => void;

export interface Lamp {
  position: Vec3;
  radius: number;
  /** emitted radiance, linear RGB */
  radiance: Vec3;
}

export interface CameraPose {
  position: Vec3;
  target: Vec3;
  hfovDegrees: number;
}

export interface Scene {
  name: string;
  camera: CameraPose;
  mesh: Mesh;
  materials: Material[];
  sky(direction: Vec3): Vec3;
  sun?: { direction: Vec3; irradiance: Vec3; angularRadius: number };
  lamps: Lamp[];
  /** small visible lights, and the materials of their spheres: thin-lens pictures add them separately, free of noise */
  sparks: Lamp[];
  sparkMaterials: number[];
  /** Koschmieder haze: distance at which contrast falls to 2 %, and the colour of the air towards a direction */
  haze?: { visibility: number; colour(direction: Vec3): Vec3 };
  /** linear gain before the tone curve */
  exposure: number;
  bounces: number;
  /** distances that white and black of the demo's depth map stand for; far may be Infinity */
  ends: { near: number; far: number };
}

const resetSurface = (s: Surface): void => {
  s.albedo[0] = s.albedo[1] = s.albedo[2] = 0.5;
  s.emission[0] = s.emission[1] = s.emission[2] = 0;
  s.bump[0] = s.bump[1] = s.bump[2] = 0;
  s.roughness = 1;
  s.specular = 0;
  s.metal = false;
  s.translucency = 0;
};

export const newSurface = (): Surface => {
  const s: Surface = { albedo: [0, 0, 0], emission: [0, 0, 0], bump: [0, 0, 0], roughness: 1, specular: 0, metal: false, translucency: 0 };
  resetSurface(s);
  return s;
};

export function shade(material: Material, point: Point, out: Surface): void {
  resetSurface(out);
  material(point, out);
}

/** Sets an RGB triple. */
export function rgb(out: [number, number, number], r: number, g: number, b: number, gain = 1): void {
  out[0] = r * gain;
  out[1] = g * gain;
  out[2] = b * gain;
}

/** A plain surface: colour, roughness and reflectance. */
export const plain =
  (colour: Vec3, roughness = 0.8, specular = 0.03, metal = false): Material =>
  (_, s) => {
    rgb(s.albedo, colour[0], colour[1], colour[2]);
    s.roughness = roughness;
    s.specular = specular;
    s.metal = metal;
  };

export const glowing =
  (radiance: Vec3): Material =>
  (_, s) => {
    rgb(s.albedo, 0, 0, 0);
    rgb(s.emission, radiance[0], radiance[1], radiance[2]);
  };
