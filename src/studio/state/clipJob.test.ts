import { beforeEach, expect, test } from '@jest/globals';
import { OmbrageError } from '../../core/error';
import { asStorageError, isFull, STORAGE_FULL } from '../../media/storage';
import { useNotices } from '../notices/noticeStore';
import { clipJob, stopClipJob } from './clipJob';
import { useSession } from './sessionStore';

beforeEach(() => useNotices.setState({ notices: [] }));
const said = (): string =>
  useNotices
    .getState()
    .notices.map((n) => `${n.text} ${n.hint ?? ''}`)
    .join(' ');

const quota = Object.assign(new Error('the limit'), { name: 'QuotaExceededError' });
const full: [string, unknown][] = [
  ['the browser’s own', quota],
  ['one that a library wrapped', Object.assign(new Error('Transaction aborted'), { name: 'AbortError', inner: quota })],
  ['one that crossed from a worker', new Error('QuotaExceededError: the limit')],
  ['a disk that is full', Object.assign(new Error('Encountered full disk while committing'), { name: 'UnknownError' })],
  ['ours', new OmbrageError(STORAGE_FULL, 'no room', '')],
];

test.each(full)('work on a clip that stops because there is no room says so, and can go on (%s)', async (_, error) => {
  expect(isFull(error)).toBe(true);
  let cancelled = 0;
  const never = { done: new Promise<null>(() => undefined), cancel: () => cancelled++ };
  await clipJob('Depth of the clip', async ({ run, report }) => {
    void run(never);
    report(0.3);
    await Promise.reject(error);
  });
  expect(said()).toBe('The disk is full: work on the clip stopped. What is finished is kept. Make room, then go on.');
  // nothing is at work any more, so that the panel offers to go on
  expect([useSession.getState().clipDepthJob, cancelled]).toEqual([null, 1]);
  let again = false;
  await clipJob('Depth of the clip', () => Promise.resolve(void (again = true)));
  expect(again).toBe(true);
});

test('other errors are said as they are, and stopping says nothing', async () => {
  expect(asStorageError(new Error('other'))).toEqual(new Error('other'));
  await clipJob('Depth of the clip', () => Promise.reject(new OmbrageError('bad-clip', 'c.mp4 is damaged.', 'Choose another.')));
  expect(said()).toBe('c.mp4 is damaged. Choose another.');
  useNotices.setState({ notices: [] });
  await clipJob('Depth of the clip', ({ run, stopped }) => {
    const done = run({ done: new Promise<null>((go) => setTimeout(go, 0, null)), cancel: () => undefined });
    stopClipJob();
    expect(stopped()).toBe(true);
    return done.then(() => undefined);
  });
  expect(said()).toBe('');
});
