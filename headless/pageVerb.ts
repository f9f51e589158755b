import { basename } from 'node:path';
import { OmbrageError } from '../src/core/error';
import { PAGE_TRIANGLES } from '../src/formats/outputs/pageScene';
import { told } from '../src/formats/outputs/meshScene';
import { encodePage } from '../src/formats/page/page';
import { sceneOfFiles } from './meshVerb';
import { checkOutput, ENCODERS, writeBytes } from './stills';

interface PageOptions {
  readonly picture: string;
  readonly distance: string;
  readonly hfov: string;
  readonly strength: string;
  readonly stands?: string;
  readonly words?: string;
  readonly title?: string;
  readonly out: string;
}

/** A number above 0 as it was typed. Throws OmbrageError. */
function above0(name: string, text: string): number {
  const v = Number(text);
  if (!(v > 0) || v === Infinity) throw new OmbrageError('bad-setting', `"${text}" is no value for --${name}.`, 'Give a number above 0.');
  return v;
}

/** `page --picture P --distance D.pfm --hfov H --out P.html`: a picture as a page that moves with the pointer. */
export async function page(options: PageOptions): Promise<string> {
  checkOutput(options.out, ['.html']);
  const strength = above0('strength', options.strength);
  if (strength > 12)
    throw new OmbrageError('bad-setting', `"${options.strength}" is too much for --strength.`, 'Give 12 per cent of the width at the most.');
  const stands = options.stands === undefined ? null : above0('stands', options.stands);
  const parallax = strength / 100;
  const scene = await sceneOfFiles(
    options.picture,
    options.distance,
    options.hfov,
    { triangles: PAGE_TRIANGLES, behind: true },
    Math.max(0.005, parallax),
  );
  const name = options.title ?? basename(options.out).replace(/\.html$/i, '');
  // where nothing is said, half of the picture lies before what stands still
  const bytes = await encodePage(
    scene,
    { parallax, stands: stands ?? 1 / Math.max(1 / scene.sky, scene.spread.middle), words: options.words ?? '', name },
    ENCODERS,
  );
  writeBytes(options.out, bytes);
  return `${options.out}: ${scene.lens.width}x${scene.lens.height} px, ${(bytes.length / 1e6).toFixed(2)} MB, ${told(scene)}`;
}
