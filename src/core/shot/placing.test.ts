import { describe, expect, test } from '@jest/globals';
import { layers } from '../depth/layers/registry';
import { newLayer, newShot } from '../document/defaults';
import { settingsSchema, type Layer } from '../document/schema';
import { constantPlane, type Raster } from '../picture';
import { runAlone } from '../run';
import { START } from '../values/moment';
import { composedPlate, depthOf } from './depthChain';
import { layerRegion } from './placing';
import { framedPlate, plainCache, type ChainInputs, type ShotRequest } from './stage';

const [W, H] = [48, 27];
const grey: Raster = { width: W, height: H, channels: 3, data: new Uint8Array(W * H * 3).fill(120) };
const ground = constantPlane(W, H, 0.4);
const inputs = (): ChainInputs => ({
  held: { raster: () => grey, plane: () => ({ key: 'ground', plane: ground }) },
  cache: plainCache(),
  run: runAlone(),
});

/** What is drawn in a layer, so that every part of it has something to do. */
const CONTENT: Readonly<Record<string, unknown>> = {
  flats: {
    flats: [
      {
        id: 'a',
        name: 'Card',
        visible: true,
        distance: 2,
        x: 0.5,
        y: 0.9,
        height: 0.4,
        aspect: 1,
        facing: 0,
        colour: '#804020',
        media: null,
        text: '',
      },
    ],
  },
};

/** A shot with an estimate below and a layer of a kind over it. */
function withLayer(kind: string, change: (layer: Layer) => void = () => undefined): { request: ShotRequest; layer: Layer } {
  const { plate, settings } = newShot({ sha256: 'd'.repeat(64), name: 'grey.png', width: W, height: H, bits: 8, hfovFromFile: 50 });
  const layer = { ...newLayer(kind), ...(CONTENT[kind] !== undefined && { content: CONTENT[kind] }) };
  change(layer);
  const own = settingsSchema.parse({ ...settings, layers: [newLayer('estimate'), layer] });
  return { request: { plate, settings: own, at: START, size: { width: W, height: H } }, layer };
}

describe.each(layers.map((l) => l.kind))('a layer of the kind %s', (kind) => {
  test('reads nothing that its address does not know', () => {
    const { request, layer } = withLayer(kind);
    const given = inputs();
    expect(depthOf(request, given).distance.value.data.every((z) => z > 0)).toBe(true);
    expect(composedPlate(request, given).value.data).toHaveLength(W * H * 4);
    const { data } = layerRegion(request, given, framedPlate(request, given), layer.id).value;
    expect(data.every((v) => v >= 0 && v <= 1)).toBe(true);
  });
});

test('a card darkens the ground at its foot by what lies below it', () => {
  const plain = withLayer('flats', (l) => Object.assign(l.values, { contact: 0 }));
  const dark = withLayer('flats', (l) => Object.assign(l.values, { contact: 100 }));
  const sum = ({ request }: { request: ShotRequest }): number => composedPlate(request, inputs()).value.data.reduce((a, b) => a + b, 0);
  expect(sum(dark)).toBeLessThan(sum(plain));
});
