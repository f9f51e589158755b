import type { FileRef } from '../../core/need/fileRef';
import type { Project } from '../../core/document/schema';
import { fileOf } from '../../core/need/need';
import { needsOf } from '../../core/shot/needs';

export const PROJECT_EXTENSION = '.ombrage';

/** Every file that a project refers to, once each, takes included; of unknown kinds too, as far as their file stands beside them. */
export function mediaOf(project: Project): FileRef[] {
  const found = new Map<string, FileRef>();
  for (const shot of project.shots)
    for (const settings of [shot.settings, ...shot.takes.map((t) => t.settings)]) {
      const needs = needsOf({ plate: shot.plate, settings }).map(fileOf);
      for (const ref of [...needs, ...[...settings.layers, ...settings.effects].flatMap((item) => item.media ?? [])])
        found.set(ref.sha256, { ...ref });
    }
  return [...found.values()];
}
