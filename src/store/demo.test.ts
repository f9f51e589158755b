import { beforeEach, expect, test } from '@jest/globals';
import { until } from '../testing/until';
import { IDBFactory, IDBKeyRange } from 'fake-indexeddb';
import { readFileSync } from 'node:fs';
import { Database } from './database';
import { provideDemo } from './demo';

let indexedDB: IDBFactory;
let fetches = 0;
/** a visit that ends while the demo is fetched */
let killAt = Infinity;
const open = (): Database => new Database('demo', { indexedDB, IDBKeyRange });

beforeEach(() => {
  indexedDB = new IDBFactory();
  fetches = 0;
  killAt = Infinity;
  const kept = new Map<string, string>();
  Object.assign(globalThis, {
    localStorage: { getItem: (key: string) => kept.get(key) ?? null, setItem: (key: string, value: string) => kept.set(key, value) },
    fetch: (address: string) => {
      if (++fetches > killAt) return new Promise(() => undefined);
      const bytes = readFileSync(`public${address}`);
      return Promise.resolve({ json: () => Promise.resolve(JSON.parse(bytes.toString())), blob: () => Promise.resolve(new Blob([bytes])) });
    },
  });
});

test('a first visit that ends in the middle leaves nothing, and the next one brings the demo once', async () => {
  killAt = 5;
  const db = open();
  void provideDemo(db, true);
  await until(() => fetches > killAt);
  expect([await db.projects.count(), await db.media.count()]).toEqual([0, 0]);
  db.close();
  killAt = Infinity;
  const again = open();
  const demo = await provideDemo(again, true);
  expect(demo!.shots.length).toBeGreaterThanOrEqual(4);
  // a live shot has its depth in the file of its plate
  const live = demo!.shots.filter((shot) => shot.plate.live);
  expect(live.map((shot) => shot.name)).toEqual(['06 Signal hut']);
  expect(await again.media.count()).toBe(2 * demo!.shots.length - live.length);
  expect(await provideDemo(again, true)).toBeNull();
  expect(await again.projects.count()).toBe(1);
});

test('two tabs at once bring it once', async () => {
  const [one, two] = [open(), open()];
  const both = await Promise.all([provideDemo(one, true), provideDemo(two, true)]);
  expect(await one.projects.count()).toBe(1);
  expect(both[0]!.id).toBe(both[1]!.id);
});

test('deleted, it does not come by itself again, and does when it is asked for', async () => {
  const db = open();
  const demo = (await provideDemo(db, true))!;
  await db.projects.update(demo.id, { deletedAt: 1 });
  expect(await provideDemo(db, true)).toBeNull();
  const anew = await provideDemo(db, false);
  expect(anew!.id).not.toBe(demo.id);
  expect((await provideDemo(db, false))!.id).toBe(anew!.id);
});
