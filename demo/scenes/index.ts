import type { Scene } from '../tracer/scene';

const builders: Record<string, () => Promise<Scene>> = {
  chartTable: async () => (await import('./chartTable')).chartTable(),
  quayLamp: async () => (await import('./quayLamp')).quayLamp(),
  figurehead: async () => (await import('./figurehead')).figurehead(),
  dunes: async () => (await import('./dunes')).dunes(),
};

export const sceneNames = Object.keys(builders);

/** Builds a scene by name. Throws where there is none of that name. */
export async function sceneNamed(name: string): Promise<Scene> {
  const build = builders[name];
  if (!build) throw new Error(`no scene is named "${name}"; there are ${sceneNames.join(', ')}`);
  return build();
}
