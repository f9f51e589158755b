import { notify, notifyError } from '../notices/noticeStore';
import { recorderPort } from './recorderPort';
import { makeClip } from './recording';

/** Offers to make clips of recordings of a shot that were broken off. */
export async function offerBrokenRecordings(project: string, shot: string): Promise<void> {
  try {
    for (const { id, begunAt } of await recorderPort().left(shot)) {
      const when = new Date(begunAt).toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' });
      notify({
        kind: 'note',
        text: `A recording of ${when} was broken off.`,
        hint: 'It is there up to its last second.',
        stays: true,
        actions: [
          { label: 'Make a clip', run: () => void makeClip(id, project, shot).catch(notifyError) },
          { label: 'Forget it', run: () => void recorderPort().forget(id).catch(notifyError) },
        ],
      });
    }
  } catch (error) {
    notifyError(error);
  }
}
