import * as Comlink from 'comlink';
import { afterAll, expect, test } from '@jest/globals';
import { MessageChannel } from 'node:worker_threads';
import nodeEndpoint from 'comlink/dist/umd/node-adapter';
import { OmbrageError } from '../../core/error';
import { errorsCross } from './errors';

errorsCross();
const { port1, port2 } = new MessageChannel();
afterAll(() => port1.close());

const api = {
  ours: (): void => {
    throw new OmbrageError('empty-file', 'p|q.png is empty.', 'Choose another | file.');
  },
  other: (): void => {
    throw new RangeError('too long');
  },
  text: (): void => {
    throw 'a word' as unknown as Error;
  },
};
Comlink.expose(api, nodeEndpoint(port1));
const remote = Comlink.wrap<typeof api>(nodeEndpoint(port2));

test('an error of ours is one on the other side too, with its code and what to do, whatever is written in it', async () => {
  const error = await remote.ours().then(
    () => null,
    (e: unknown) => e,
  );
  expect(error).toBeInstanceOf(OmbrageError);
  expect(error).toMatchObject({ code: 'empty-file', message: 'p|q.png is empty.', hint: 'Choose another | file.' });
});

test('any other error keeps its name and message, and what is no error stays what it is', async () => {
  await expect(remote.other()).rejects.toMatchObject({ name: 'RangeError', message: 'too long' });
  await expect(remote.text()).rejects.toBe('a word');
});
