import { finishedSize } from '../../../core/shot/chain';
import { engine } from '../../../engine/pool/engine';
import type { Job } from '../../../engine/pool/workers';
import type { MadeFile, OutputSpec } from '../../../engine/messages/protocol';
import type { OutputDefinition, OutputSort } from '../../../formats/outputs/definition';
import { shotOf, useDocument } from '../../state/documentStore';
import { requestOf } from '../../state/previewLoop';
import { progressOf, useSession } from '../../state/sessionStore';
import { notify, notifyError } from '../../notices/noticeStore';
import { database } from '../../../store/database';
import { keepShape, shapeOfShot } from '../../../store/shapes';
import { writeNote } from '../../../store/shotNotes';
import { fileName, saveAs } from '../../../store/saveAs';
import { somethingMissing } from '../../state/missing';

const SUFFIX: Readonly<Record<OutputSort, string>> = { picture: '', depth: ' depth', mesh: '', page: '' };
/** What is said of an output while it is made. */
const DOING: Readonly<Record<OutputSort, string>> = {
  picture: 'Exporting the picture',
  depth: 'Exporting the depth',
  mesh: 'Making the mesh',
  page: 'Making the page',
};

const sayStopped = (what: string): void => void notify({ kind: 'note', text: `${what} was stopped.` });

/** What an export is given besides its settings. */
export interface ExportBesides {
  /** the shot whose mesh is used */
  readonly shapeOf?: string | null;
  /** what it says to who does not see it */
  readonly words?: string;
}

/** Renders the shot at its output size and hands it to the person as a file. */
export async function exportStill(
  output: OutputDefinition,
  values: OutputSpec['values'],
  { shapeOf = null, words = '' }: ExportBesides = {},
): Promise<void> {
  const shot = shotOf(useDocument.getState());
  const { exporting, given, set } = useSession.getState();
  if (!shot || exporting) return;
  if (somethingMissing(shot.plate, shot.settings, given)) {
    notify({ kind: 'note', text: 'The depth of this shot is not ready yet.', hint: 'Export again when its maps and pictures have arrived.' });
    return;
  }
  const what = DOING[output.of];
  let stopped = false;
  const progress = progressOf(
    what,
    () => {
      stopped = true;
      job?.cancel();
    },
    (p) => set({ exporting: p }),
  );
  const { width, height } = shot.settings.framing;
  let job: Job<MadeFile> | null = null;
  try {
    const shape = shapeOf === null ? undefined : ((await shapeOfShot(database(), shapeOf)) ?? undefined);
    if (stopped) return sayStopped(what);
    job = engine().output(
      requestOf(shot, { width, height }),
      given,
      { kind: output.kind, values, name: output.of === 'page' ? shot.name : fileName(shot.name), shape, words },
      progress.report,
    );
    const made = await job.done;
    if (!made) return sayStopped(what);
    const { blob, told, shape: own } = made;
    const name = `${fileName(shot.name)}${SUFFIX[output.of]}.${output.extension}`;
    saveAs(blob, name);
    writeNote('made', shot.id, name);
    if (own && !shape)
      await keepShape(database(), shot.id, { width, height }, own).catch(() =>
        notify({ kind: 'note', text: 'The browser has no room left to keep this mesh for other shots.', hint: 'The file itself is saved.' }),
      );
    if (shotOf(useDocument.getState())?.id === shot.id) {
      const size = output.of === 'picture' ? finishedSize(shot.settings, { width, height }) : { width, height };
      set({ made: { name, blob, ...size, told } });
    }
  } catch (error) {
    notifyError(error);
  } finally {
    progress.end();
  }
}
