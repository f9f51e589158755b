import { fitLongSide } from '../../core/raster/resample';
import { sheetsOf } from '../../core/mesh/sheet';
import { sceneShape, withColours } from '../../core/mesh/scene';
import { partOf } from '../../core/run';
import { laidScene } from '../../core/shot/sceneOut';
import { encodePage } from '../page/page';
import type { OutputInput, Written } from './definition';
import { told } from './meshScene';

/** Triangles of a page: what is off is less than is seen. */
export const PAGE_TRIANGLES = 30_000;

interface PageValues {
  readonly parallax: number;
  readonly stands: number;
  readonly side: number;
}

/** The scene of a shot as one file that moves with the pointer. Throws Aborted, OmbrageError. */
export async function writePage({ request, inputs, params: p, encoders, name, words = '' }: OutputInput<PageValues>): Promise<Written> {
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
}
