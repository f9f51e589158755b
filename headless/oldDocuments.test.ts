import { expect, test } from '@jest/globals';
import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { readProject } from '../src/core/document/migrate';
import { encodePicture8 } from '../src/core/raster/colour';
import { runAlone } from '../src/core/run';
import { finishedPicture } from '../src/core/shot/chain';
import { needsOf } from '../src/core/shot/needs';
import { plainCache } from '../src/core/shot/stage';
import { heldFor } from './loaders';

/**
 * The demo project as document version 2 wrote it, with grain in two blurs, and what its pictures are: SHA-256 of 320x180 px, by shot and frame.
 * They were written anew when the lens blur found what lies behind at half the size: by at most 10 of 255 levels, 0.15 in the mean of squares.
 */
const old = JSON.parse(readFileSync(new URL('fixtures/demo.v2.json', import.meta.url), 'utf8')) as {
  pixels: Record<string, string>;
  project: unknown;
};

test('the demo as version 2 wrote it opens to the same pixels', async () => {
  const { project, remarks } = readProject(old.project, 'Slack Water');
  expect(remarks).toEqual([]);
  const file = (name: string): [string, Uint8Array] => {
    const bytes = new Uint8Array(readFileSync(`public/demo/${name}`));
    return [createHash('sha256').update(bytes).digest('hex'), bytes];
  };
  const media = new Map(project.shots.flatMap((s) => [file(s.plate.name), file(s.plate.name.replace('.jpg', '.depth.png'))]));
  const found: Record<string, string> = {};
  for (const shot of project.shots) {
    // estimates differ from version to version
    const settings = { ...shot.settings, layers: shot.settings.layers.filter((l) => l.visible && l.kind !== 'estimate') };
    const held = await heldFor(needsOf({ plate: shot.plate, settings }), media);
    const cache = plainCache();
    for (const frame of [0, 5]) {
      const request = { plate: shot.plate, settings, at: { frame, fps: 24 }, size: { width: 320, height: 180 } };
      const { value } = await finishedPicture(request, { held, cache, run: runAlone() });
      const rgba = new Uint8ClampedArray(value.data.length);
      encodePicture8(value, rgba);
      found[`${shot.name} ${frame}`] = createHash('sha256').update(rgba).digest('hex');
    }
  }
  expect(found).toEqual(old.pixels);
});

test('grain leaves the blur with its values and its drive, in takes too, and is not added where there was none', () => {
  const { project } = readProject(old.project, 'Slack Water');
  const kinds = (name: string): string[] => project.shots.find((s) => s.name.startsWith(name))!.settings.effects.map((e) => e.kind);
  expect([kinds('01'), kinds('02'), kinds('03')]).toEqual([['lens-blur', 'grain'], ['lens-blur', 'grain'], ['lens-blur']]);
  const [blur, grain] = project.shots.find((s) => s.name.startsWith('02'))!.settings.effects;
  expect(grain).toMatchObject({ on: true, values: { amount: 6, size: 2, monochrome: false }, drives: { amount: { kind: 'ease', from: 2, to: 8 } } });
  expect(Object.keys(blur!.values)).not.toContain('grain');
  expect(blur!.drives).toEqual({});
  expect(project.shots.find((s) => s.name.startsWith('01'))!.takes[0]!.settings.effects.map((e) => e.kind)).toEqual(['lens-blur']);
});
