import { finishedSize } from '../../../core/shot/chain';
import { engine } from '../../../engine/pool/engine';
import type { OutputSpec } from '../../../engine/messages/protocol';
import type { OutputDefinition, OutputSort } from '../../../formats/outputs/definition';
import { shotOf, useDocument } from '../../state/documentStore';
import { requestOf } from '../../state/previewLoop';
import { progressOf, useSession } from '../../state/sessionStore';
import { notify, notifyError } from '../../notices/noticeStore';
import { writeNote } from '../../../store/shotNotes';
import { fileName, saveAs } from '../../../store/saveAs';
import { somethingMissing } from '../../state/missing';

const SUFFIX: Readonly<Record<OutputSort, string>> = { picture: '', depth: ' depth' };
/** What is said of an output while it is made. */
const DOING: Readonly<Record<OutputSort, string>> = { picture: 'Exporting the picture', depth: 'Exporting the depth' };

/** Renders the shot at its output size and hands it to the person as a file. */
export async function exportStill(output: OutputDefinition, values: OutputSpec['values']): Promise<void> {
  const shot = shotOf(useDocument.getState());
  const { exporting, given, set } = useSession.getState();
  if (!shot || exporting) return;
  if (somethingMissing(shot.plate, shot.settings, given)) {
    notify({ kind: 'note', text: 'The depth of this shot is not ready yet.', hint: 'Export again when its maps and pictures have arrived.' });
    return;
  }
  const what = DOING[output.of];
  const progress = progressOf(
    what,
    () => job.cancel(),
    (p) => set({ exporting: p }),
  );
  const { width, height } = shot.settings.framing;
  const job = engine().output(requestOf(shot, { width, height }), given, { kind: output.kind, values }, progress.report);
  try {
    const blob = await job.done;
    if (!blob) {
      notify({ kind: 'note', text: `${what} was stopped.` });
      return;
    }
    const name = `${fileName(shot.name)}${SUFFIX[output.of]}.${output.extension}`;
    saveAs(blob, name);
    writeNote('made', shot.id, name);
    if (shotOf(useDocument.getState())?.id === shot.id) {
      const size = output.of === 'picture' ? finishedSize(shot.settings, { width, height }) : { width, height };
      set({ made: { name, blob, ...size } });
    }
  } catch (error) {
    notifyError(error);
  } finally {
    progress.end();
  }
}
