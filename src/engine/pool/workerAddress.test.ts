import { afterEach, expect, test } from '@jest/globals';
import { tellWorkersByQuery } from './workerAddress';

const globals = globalThis as unknown as Record<string, unknown>;
const kept = { Worker: globals.Worker, location: globals.location };
afterEach(() => void Object.assign(globals, kept));

test('what a worker has to load moves from behind # to behind ?, and other addresses are left alone', () => {
  const asked: string[] = [];
  globals.location = { href: 'http://localhost/shot' };
  globals.Worker = class {
    constructor(address: URL) {
      asked.push(String(address));
    }
  };
  tellWorkersByQuery();
  const params = encodeURIComponent(JSON.stringify([['/a.js'], '']));
  new Worker(`http://localhost/w.js#params=${params}`);
  new Worker(new URL('/plain.js', 'http://localhost'), { type: 'module' });
  expect(asked).toEqual([`http://localhost/w.js?params=${params}`, 'http://localhost/plain.js']);
  expect(JSON.parse(new URL(asked[0]!).searchParams.get('params')!)).toEqual([['/a.js'], '']);
});
