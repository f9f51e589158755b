import { afterEach, expect, test } from '@jest/globals';
import { moveRegistry } from '../core/camera/registry';
import { defineMove, steppedAside } from '../core/camera/definition';
import { checkRegistry, checks } from '../core/depth/checks/registry';
import { defineCleanup } from '../core/depth/cleanup/definition';
import { cleanupRegistry } from '../core/depth/cleanup/registry';
import { defineLayer } from '../core/depth/definition';
import { layerRegistry } from '../core/depth/layers/registry';
import { newShot } from '../core/document/defaults';
import { settingsSchema, type Settings } from '../core/document/schema';
import { defineEffect } from '../core/effects/definition';
import { knownEffects } from '../core/effects/registry';
import { constantPlane, type Raster } from '../core/picture';
import { runAlone } from '../core/run';
import { finishedPicture } from '../core/shot/chain';
import { depthOf } from '../core/shot/depthChain';
import { plainCache, type ChainInputs, type ShotRequest } from '../core/shot/stage';
import { START } from '../core/values/moment';
import { driveValue } from '../core/values/drive';
import type { Drive } from '../core/values/drives/registry';
import { driveRegistry } from '../core/values/drives/registry';
import { defineOutput, writtenOf } from './outputs/definition';
import { namedOutput, outputRegistry } from './outputs/registry';
import { formatOf, formatRegistry } from './registry';

const taken: (() => void)[] = [];
afterEach(() => {
  for (const away of taken.splice(0)) away();
});

const GREY: Raster = { width: 16, height: 12, channels: 1, depth: 8, data: new Uint8Array(16 * 12).fill(128), space: 'srgb' } as never;
const inputs = (): ChainInputs => ({ held: { raster: () => GREY, plane: () => null }, cache: plainCache(), run: runAlone() });

/** A grey shot with some settings of its own. */
function shotWith(change: (s: Settings) => void): ShotRequest {
  const { plate, settings } = newShot({ sha256: 'c'.repeat(64), name: 'grey.png', width: 16, height: 12, bits: 8, hfovFromFile: 50 });
  const own = settingsSchema.parse(settings);
  own.layers = [];
  change(own);
  return { plate, settings: own, at: START, size: { width: 16, height: 12 } };
}
const item = (kind: string) => ({ id: kind, kind, on: true, values: {}, drives: {} });

test('an effect is its own definition and one line', async () => {
  taken.push(
    knownEffects.add(
      defineEffect({
        kind: 'dark',
        group: 'frame',
        label: 'Dark',
        help: 'All black',
        params: {},
        needs: () => [],
        summary: () => '',
        apply: ({ picture }) => ({ ...picture, data: new Float32Array(picture.data.length) }),
      }),
    ),
  );
  const picture = await finishedPicture(
    shotWith((s) => s.effects.push(item('dark'))),
    inputs(),
  );
  expect(Math.max(...picture.value.data)).toBe(0);
});

test('a depth layer, and a step of clean-up', () => {
  taken.push(
    layerRegistry.add(
      defineLayer({
        kind: 'level',
        label: 'Level',
        help: 'One depth',
        params: {},
        summary: () => '',
        build: ({ width, height }) => ({ nearness: constantPlane(width, height, 0.25), coverage: null }),
      }),
    ),
    cleanupRegistry.add(
      defineCleanup({
        kind: 'double',
        label: 'Double',
        help: 'Twice as near',
        params: {},
        apply: ({ map }) => ({ ...map, data: map.data.map((v) => 2 * v) }),
        figure: () => '',
      }),
    ),
  );
  const layer = { id: 'level', kind: 'level', name: 'Level', visible: true, locked: false, opacity: 1, blend: 'replace', values: {}, drives: {} };
  const depth = depthOf(
    shotWith((s) => {
      s.layers.push(layer as never);
      s.cleanup.push(item('double'));
    }),
    inputs(),
  );
  expect([depth.stack.value.data[40], depth.raw.value.data[40]]).toEqual([0.25, 0.5]);
});

test('a move', async () => {
  taken.push(
    moveRegistry.add(
      defineMove({
        kind: 'leap',
        label: 'Leap',
        help: 'A metre aside',
        params: {},
        amounts: [],
        summary: () => '',
        pose: () => steppedAside(1, 0, 0, 5),
      }),
    ),
  );
  const { poseAt } = await import('../core/path/path');
  const { settings } = shotWith((s) => s.camera.moves.push(item('leap')));
  expect(poseAt(settings, 50, START).x).toBeCloseTo(1, 9);
});

test('a drive', () => {
  const steps = { kind: 'steps' } as unknown as Drive;
  taken.push(
    driveRegistry.add({
      kind: 'steps' as never,
      label: 'Steps',
      help: 'One more with every frame',
      schema: null as never,
      begin: () => steps,
      value: (_, set, frame) => set + frame,
      map: (drive) => drive,
    }),
  );
  expect(driveValue(steps, 3, 4)).toBe(7);
});

test('a check, an output, and a format', async () => {
  taken.push(
    checkRegistry.add({
      kind: 'none',
      label: 'None',
      help: 'Marks nothing',
      run: ({ raw }) => ({ marks: constantPlane(raw.width, raw.height, 0), figure: 'nothing' }),
    }),
    outputRegistry.add(
      defineOutput({
        kind: 'size',
        of: 'picture',
        label: 'Size',
        note: 'How large it is.',
        extension: '.txt',
        mime: 'text/plain',
        params: {},
        write: ({ request: { size } }) => Promise.resolve(new TextEncoder().encode(`${size.width}x${size.height}`)),
      }),
    ),
    formatRegistry.add({
      kind: 'letters',
      label: 'Letters',
      extensions: ['.ltr'],
      mime: 'text/plain',
      matches: (bytes: Uint8Array) => bytes[0] === 76 && bytes[1] === 84,
    } as never),
  );
  expect(checks.map((c) => c.kind)).toContain('none');
  const made = await namedOutput('size').write({
    request: shotWith(() => undefined),
    inputs: inputs(),
    params: {},
    encoders: {} as never,
    name: 'grey',
  });
  const { bytes } = writtenOf(made);
  expect(new TextDecoder().decode(bytes)).toBe('16x12');
  expect(formatOf(Uint8Array.of(76, 84))?.kind).toBe('letters');
});

test('what was added is taken away again, and nothing is there twice', () => {
  const before = knownEffects.all.length;
  const [fog] = [knownEffects.named('fog')];
  expect(() => knownEffects.add(fog)).toThrow('the effect "fog" is there already');
  expect(knownEffects.all.length).toBe(before);
  expect(knownEffects.knows('dark')).toBe(false);
  expect(() => namedOutput('size')).toThrow('There is no output "size".');
});
