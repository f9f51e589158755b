import { AT_PLATE } from '../camera/pose';
import { matteColours, refinedMatte } from '../matte/matte';
import type { Picture } from '../picture';
import { runAlone } from '../run';
import { START } from '../values/moment';
import { defaultsOf } from '../values/params';
import { contentOf } from '../values/content';
import type { Cut, EffectDefinition, EffectInput } from './definition';
import { reachWeights, type ReachRange } from '../matte/reach';

type Values = Record<string, number | boolean | string>;
type Given = Pick<EffectInput<Values>, 'picture' | 'distance' | 'lens'> & Partial<EffectInput<Values>>;

/** One effect on one picture, on this thread: for the command line, tests and benchmarks. What is not given is as usual. */
export async function applyAlone(effect: EffectDefinition, given: Given): Promise<Picture> {
  const params = { ...defaultsOf(effect.params), ...given.params };
  const plate = given.plate ?? given.picture;
  const input = {
    plate,
    pxScale: 1,
    at: START,
    run: runAlone(),
    content: contentOf(effect, undefined),
    still: null,
    quick: false,
    earlier: () => Promise.resolve(given.picture),
    fromDepth: (_name: string, make: () => Float32Array) => make(),
    camera: { pose: AT_PLATE, enlarged: 1 },
    cut: (range: ReachRange, refine: boolean): Cut => {
      const matte = refine ? refinedMatte(plate, given.distance, range) : reachWeights(range, given.distance);
      return { matte, front: matteColours(given.picture, matte) };
    },
    ...given,
    params,
  };
  const result = await effect.apply(input);
  return 'data' in result ? result : result.picture;
}
