import type { Picture } from '../raster/picture';
import { runAlone } from '../run';
import { START } from '../values/moment';
import { defaultsOf } from '../values/params';
import type { EffectDefinition, EffectInput } from './definition';

type Values = Record<string, number | boolean | string>;
type Given = Pick<EffectInput<Values>, 'picture' | 'distance' | 'lens'> & Partial<EffectInput<Values>>;

/** One effect on one picture, on this thread: for the command line, tests and benchmarks. What is not given is as usual. */
export async function applyAlone(effect: EffectDefinition, given: Given): Promise<Picture> {
  const params = { ...defaultsOf(effect.params), ...given.params };
  const input = { plate: given.picture, pxScale: 1, at: START, run: runAlone(), ...given, params };
  const result = await effect.apply(input);
  return 'data' in result ? result : result.picture;
}
