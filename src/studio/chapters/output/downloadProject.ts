import { PROJECT_EXTENSION } from '../../../formats/project/projectMedia';
import { database } from '../../../store/database';
import { notifyError } from '../../notices/noticeStore';
import { fileName, saveAs } from '../../../store/saveAs';
import { useDocument } from '../../state/documentStore';

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
