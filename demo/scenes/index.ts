import { addedLamp, LAMP_RADIUS } from '../addedLamp';
import type { Scene } from '../tracer/scene';
import { viewOf } from '../tracer/trace';

const builders: Record<string, (frame: number) => Promise<Scene>> = {
  chartTable: async () => (await import('./chartTable')).chartTable(),
  quayLamp: async () => (await import('./quayLamp')).quayLamp(),
  figurehead: async () => (await import('./figurehead')).figurehead(),
  dunes: async () => (await import('./dunes')).dunes(),
  crossing: async (frame) => (await import('./crossing')).crossing(frame),
};

export const sceneNames = Object.keys(builders);
/** The scenes in which nothing moves. */
export const stillScenes = sceneNames.filter((name) => name !== 'crossing');

/** The lights a scene can be seen under instead of its own: `NAME+even` (a sky of radiance 1 all round), `NAME+lamp` (that and one lamp). */
const lights: Record<string, (scene: Scene) => Pick<Scene, 'lamps'>> = {
  even: () => ({ lamps: [] }),
  lamp: (scene) => {
    const { at, intensity } = addedLamp(scene);
    const { position, right, up, forward } = viewOf(scene.camera, 1);
    const place = [0, 1, 2].map((k) => position[k]! + right[k]! * at[0] - up[k]! * at[1] + forward[k]! * at[2]);
    const radiance = intensity.map((v) => v / (Math.PI * LAMP_RADIUS ** 2));
    return { lamps: [{ position: place as [number, number, number], radius: LAMP_RADIUS, radiance: radiance as [number, number, number] }] };
  },
};

/** Builds a scene by name; `NAME@FRAME` where something moves in it. Throws where there is none of that name. */
export async function sceneNamed(name: string): Promise<Scene> {
  const [which, light] = name.split('+') as [string, string?];
  const [own, frame] = which.split('@') as [string, string?];
  const build = builders[own];
  if (!build) throw new Error(`no scene is named "${own}"; there are ${sceneNames.join(', ')}`);
  const scene = await build(Number(frame ?? 0));
  if (light === undefined) return scene;
  const { sun: _sun, haze: _haze, ...still } = scene;
  return { ...still, sky: () => [1, 1, 1], sparks: [], exposure: 1, ...lights[light]!(scene) };
}
