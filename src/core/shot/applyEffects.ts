import { AT_PLATE } from '../camera/pose';
import { newShot } from '../document/defaults';
import type { EffectItem } from '../document/schema';
import { effectGroups } from '../effects/definition';
import { focalLengthOfHfov, focalPx } from '../optics';
import type { RasterNeed } from '../need/need';
import { constantPlane, type Picture, type Plane, type Raster } from '../picture';
import { runAlone } from '../run';
import { START, type Moment } from '../values/moment';
import type { Frame } from './frame';
import { plainCache, type ShotRequest, type Stage } from './stage';
import { effectsOf } from './steps';

const given = <T>(name: string, value: T): Stage<T> => ({ fingerprint: name, key: name, value });

/**
 * Effects on a picture whose distances are known, in the order in which light meets them, with their reaches: without a project. `stills`: the
 * pictures that belong to effects, by the hash that their `media` names. Metres; linear light, premultiplied.
 */
export async function applyEffects(
  items: readonly EffectItem[],
  {
    picture,
    distance,
    hfovDegrees,
    stills = new Map(),
    at = START,
  }: { picture: Picture; distance: Plane; hfovDegrees: number; stills?: ReadonlyMap<string, Raster>; at?: Moment },
): Promise<Picture> {
  const { width, height } = picture;
  const { plate, settings } = newShot({ sha256: '0'.repeat(64), name: 'picture', width, height, bits: 16, hfovFromFile: hfovDegrees });
  const request: ShotRequest = { plate, settings: { ...settings, effects: [...items] }, at, size: { width, height } };
  let frame: Frame = {
    picture: given('picture', picture),
    plate: given('picture', picture),
    distance: given('distance', distance),
    lens: given('lens', { focalPx: focalPx(width, hfovDegrees), focalLength: focalLengthOfHfov(hfovDegrees) }),
    camera: given('camera', { pose: AT_PLATE, enlarged: 1 }),
    uncovered: null,
    region: () => given('everywhere', constantPlane(width, height, 1)),
  };
  const held = { raster: (need: RasterNeed) => stills.get(need.ref.sha256) ?? null, plane: () => null };
  const inputs = { held, cache: plainCache(), run: runAlone() };
  for (const group of effectGroups) frame = await effectsOf(group)(frame, request, inputs);
  return frame.picture.value;
}
