import { contentOf } from '../core/depth/definition';
import { layerOf } from '../core/depth/layers/registry';
import type { MediaRef, Project, Settings } from '../core/document/schema';

export const PROJECT_EXTENSION = '.ombrage';

/** Every file that a project refers to, once each, takes included. */
export function mediaOf(project: Project): MediaRef[] {
  const found = new Map<string, MediaRef>();
  for (const shot of project.shots) {
    found.set(shot.plate.sha256, shot.plate);
    for (const settings of [shot.settings, ...shot.takes.map((t) => t.settings)])
      for (const ref of [...settings.layers.flatMap((l) => l.media ?? []), ...stillsOf(settings)]) found.set(ref.sha256, ref);
  }
  return [...found.values()];
}

/** Stills that layers place over the plate. */
export const stillsOf = (settings: Settings): MediaRef[] =>
  settings.layers.flatMap((layer) => {
    const definition = layerOf(layer.kind);
    return definition.stills?.(contentOf(definition, layer.content)) ?? [];
  });
