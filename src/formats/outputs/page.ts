import { fitLongSide } from '../../core/raster/resample';
import { sheetsOf } from '../../core/mesh/sheet';
import { sceneShape, withColours } from '../../core/mesh/scene';
import { partOf } from '../../core/run';
import { laidScene } from '../../core/shot/sceneOut';
import { metres, pixels } from '../../core/values/params';
import { encodePage } from '../page/page';
import { pageStrength } from '../page/strength';
import { defineOutput, type OutputDefinition, type Written } from './definition';
import { told } from './mesh';

const params = {
  parallax: pageStrength,
  stands: metres({
    label: 'Stands still',
    min: 0.1,
    max: 1000,
    lowest: 0.01,
    highest: 1e6,
    default: 5,
    decimals: 2,
    step: 0.1,
    help: 'What lies there stays where it is, what is nearer and farther moves',
  }),
  side: pixels({ label: 'Longer side', min: 640, max: 2400, lowest: 64, highest: 4096, default: 1600, decimals: 0, step: 10 }),
};

/** Triangles of a page: what is off is less than is seen. */
export const PAGE_TRIANGLES = 30_000;

/** The scene of a shot as a page of its own that moves with the pointer, effects and all. */
const page = defineOutput<typeof params>({
  kind: 'page',
  of: 'page',
  label: 'Page',
  note: 'One .html file that moves with the pointer, the finger or a phone’s tilt. It loads nothing, and any site can show it.',
  extension: 'html',
  mime: 'text/html',
  params,
  async write({ request, inputs, params: p, encoders, name, words = '' }): Promise<Written> {
    const size = fitLongSide(request.size, p.side);
    const parallax = p.parallax / 100;
    const { plate, lens, gain } = await laidScene({ ...request, size }, inputs, { effects: 'all', parallax: Math.max(0.005, parallax) });
    const part = partOf(inputs.run, 0.4, 0.9);
    const sheets = sheetsOf(plate, { behind: true });
    const scene = withColours(await sceneShape(sheets, lens, gain, { triangles: PAGE_TRIANGLES }, (s) => part.checkpoint(s)), sheets);
    return {
      bytes: await encodePage(scene, { parallax, stands: p.stands, words, name }, encoders),
      told: `${size.width}×${size.height} px, ${told(scene)}`,
    };
  },
});

export const pages: readonly OutputDefinition[] = [page];
