import { describe, expect, test } from '@jest/globals';
import { newEffect, newLayer, newMove, newShot } from '../document/defaults';
import { settingsSchema, type Settings } from '../document/schema';
import { frontSheet } from '../mesh/sheet';
import { newPlane, type Raster } from '../picture';
import { runAlone } from '../run';
import { START } from '../values/moment';
import { walkDepth, walkPlate, walkRaster } from '../../testing/walk';
import { laidScene } from './sceneOut';
import { plainCache, type ChainInputs, type ShotRequest } from './stage';

const [W, H] = [96, 54];
/** Grey stripes, and a map that is far above and near below. */
const stripes: Raster = {
  width: W,
  height: H,
  channels: 3,
  data: Uint8Array.from({ length: W * H * 3 }, (_, i) => (Math.floor(i / 3 / 8) % 2 ? 90 : 150)),
};
const map = newPlane(W, H);
for (let i = 0; i < W * H; i++) map.data[i] = 0.1 + (0.3 * Math.floor(i / W)) / H;
const inputs = (): ChainInputs => ({
  held: { raster: () => stripes, plane: () => ({ key: 'map', plane: map }) },
  cache: plainCache(),
  run: runAlone(),
});

function shotWith(change: (s: Settings) => void): ShotRequest {
  const { plate, settings } = newShot({ sha256: 'e'.repeat(64), name: 'stripes.png', width: W, height: H, bits: 8, hfovFromFile: 50 });
  const own = settingsSchema.parse({ ...settings, layers: [newLayer('estimate')] });
  change(own);
  return { plate, settings: own, at: START, size: { width: W, height: H } };
}

const withCard = (s: Settings): void => {
  const flat = {
    id: 'card',
    name: 'Card',
    visible: true,
    distance: 1.2,
    x: 0.5,
    y: 0.8,
    height: 0.5,
    aspect: 1,
    colour: '#c02010',
    media: null,
    text: null,
  };
  s.layers.push({ ...newLayer('flats'), content: { flats: [flat] } });
};

describe('a scene taken apart', () => {
  test('behind a card stands what the plate shows there, as far as that is', async () => {
    const plain = await laidScene(
      shotWith(() => undefined),
      inputs(),
      { effects: 'surface' },
    );
    const { plate } = await laidScene(shotWith(withCard), inputs(), { effects: 'surface' });
    const { pad, width } = plate;
    let compared = 0;
    for (let y = 20; y < 40; y++)
      for (let x = 0; x < W; x++) {
        const i = (y + pad) * width + x + pad;
        const k = plate.hiddenAt[i]!;
        if (k < 0) continue;
        const p = (y + plain.plate.pad) * plain.plate.width + x + plain.plate.pad;
        for (let c = 0; c < 3; c++) expect(plate.hidden.colour[k * 4 + c]!).toBeCloseTo(plain.plate.colour[p * 4 + c]!, 5);
        expect(plate.hidden.q[k]!).toBeCloseTo(plain.plate.q[p]!, 5);
        compared++;
      }
    expect(compared).toBeGreaterThan(100);
  });

  test('is seen from where the plate was taken, whatever moves: earlier frames that an effect looks at too', async () => {
    const echoing = (moves: boolean): ShotRequest => {
      const made = shotWith((s) => {
        if (moves) s.camera.moves.push(newMove('truck'));
        s.effects.push(newEffect('echoes'));
        s.time.length = 24;
      });
      return { ...made, at: { frame: 20, fps: 24 } };
    };
    const still = await laidScene(echoing(false), inputs(), { effects: 'all' });
    const moved = await laidScene(echoing(true), inputs(), { effects: 'all' });
    const [a, b] = [frontSheet(still.plate), frontSheet(moved.plate)];
    for (let i = 0; i < a.colour.length; i++) expect(Math.abs(a.colour[i]! - b.colour[i]!)).toBeLessThan(1e-5);
    expect(moved.gain).toBeGreaterThanOrEqual(still.gain);
  });

  test('of a clip needs its own frame and no other', async () => {
    const asked = new Set<number>();
    const given = inputs();
    const watched: ChainInputs = {
      ...given,
      held: {
        raster: (need) => {
          asked.add(need.frame);
          return walkRaster(need.frame);
        },
        plane: (need) => {
          asked.add(need.frame);
          return { key: `map ${need.frame}`, plane: walkDepth(need.frame) };
        },
      },
    };
    const plate = walkPlate(12);
    const { settings } = newShot(plate);
    const own = { ...settingsSchema.parse(settings), layers: [newLayer('estimate')] };
    const request: ShotRequest = { plate, settings: own, at: { frame: 7, fps: plate.clip!.fps }, size: { width: 64, height: 36 } };
    await laidScene(request, watched, { effects: 'all' });
    expect([...asked]).toEqual([7]);
    expect((await laidScene(request, watched, { effects: 'surface', gain: 123 })).gain).toBe(123);
  });

  test('without depth is refused', async () => {
    await expect(
      laidScene(
        shotWith((s) => s.layers.forEach((l) => (l.visible = false))),
        inputs(),
        { effects: 'surface' },
      ),
    ).rejects.toMatchObject({ code: 'no-depth' });
  });
});
