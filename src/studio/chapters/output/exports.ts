import { saveAs } from 'file-saver';
import { needKey } from '../../../core/need';
import { needsOf } from '../../../core/shot/needs';
import { engine } from '../../../engine/engine';
import type { OutputSpec } from '../../../engine/protocol';
import { PROJECT_EXTENSION } from '../../../formats/projectMedia';
import { database } from '../../../store/database';
import { shotOf, useDocument } from '../../state/documentStore';
import { requestOf } from '../../state/previewLoop';
import { progressOf, useSession } from '../../state/sessionStore';
import { notify, notifyError } from '../../controls/noticeStore';

const fileName = (text: string): string => text.replace(/[\\/:*?"<>|]+/g, ' ').trim() || 'untitled';

const EXTENSION: Record<OutputSpec['format'], string> = { png: 'png', png16: 'png', jpeg: 'jpg', webp: 'webp', pfm: 'pfm', tiff: 'tif', exr: 'exr' };

/** Renders the shot at its output size and hands it to the person as a file. */
export async function exportStill(spec: OutputSpec): Promise<void> {
  const shot = shotOf(useDocument.getState());
  const { exporting, given, set } = useSession.getState();
  if (!shot || exporting) return;
  const seen = { ...shot.settings, layers: shot.settings.layers.filter((l) => l.visible) };
  const missing = needsOf({ plate: shot.plate, settings: seen }).some((need) =>
    need.is === 'raster' ? !engine().holds('raster', needKey(need)) : !engine().holds('map', given[needKey(need)] ?? ''),
  );
  if (missing) {
    notify({ kind: 'note', text: 'The depth of this shot is not ready yet.', hint: 'Export again when its maps and pictures have arrived.' });
    return;
  }
  const what = spec.kind === 'picture' ? 'Exporting the picture' : 'Exporting the depth';
  const progress = progressOf(
    what,
    () => job.cancel(),
    (p) => set({ exporting: p }),
  );
  const { width, height } = shot.settings.framing;
  const job = engine().output(requestOf(shot, { width, height }), given, spec, progress.report);
  try {
    const blob = await job.done;
    if (!blob) {
      notify({ kind: 'note', text: `${what} was stopped.` });
      return;
    }
    saveAs(blob, `${fileName(shot.name)}${spec.kind === 'depth' ? ' depth' : ''}.${EXTENSION[spec.format]}`);
  } catch (error) {
    notifyError(error);
  } finally {
    progress.end();
  }
}

/** The whole project with its media as one file. */
export async function downloadProject(): Promise<void> {
  const { project } = useDocument.getState();
  if (!project) return;
  try {
    const { exportProject } = await import('../../../store/files');
    saveAs(await exportProject(database(), project), `${fileName(project.name)}${PROJECT_EXTENSION}`);
  } catch (error) {
    notifyError(error);
  }
}
