import { describeError } from '../core/error';
import { notify } from '../studio/notices/noticeStore';

/** Does something, and says what was in the way. */
export async function attempt(work: () => Promise<unknown>): Promise<void> {
  try {
    await work();
  } catch (error) {
    notify({ kind: 'error', text: describeError(error) });
  }
}
