import type { Shot } from '../../core/document/schema';
import { QUICKEST } from '../../core/need/estimators';
import { FIRST_FRAME, needKey, type EstimateNeed } from '../../core/need/need';
import type { Size } from '../../core/picture';
import { layerMapNeed } from '../../core/shot/needs';
import type { Given } from '../../engine/messages/protocol';
import type { LiveFrame } from '../../live/definition';
import { asArrived } from '../state/liveStore';
import type { LiveEstimates } from './liveEstimates';

/** What there is of what layers need of a picture, by the keys of their needs; depth is estimated where it brings none. */
export function givenOf(key: string, { raster, nearness }: Pick<LiveFrame, 'raster' | 'nearness'>, shot: Shot, estimates: LiveEstimates): Given {
  const arrived = asArrived(shot, { key, ...sizeOf(raster) });
  const given: Record<string, string> = {};
  for (const layer of arrived.settings.layers) {
    const need = layerMapNeed(layer, arrived.plate);
    if (need?.is === 'map' && need.ref.sha256 === key && nearness) given[needKey(need)] = key;
    if (need?.is === 'estimate' && need.of.sha256 === key) {
      if (estimates.newest) given[needKey(need)] = estimates.newest;
      if (layer.visible) estimates.want(raster, estimateOf(need));
    }
  }
  return given;
}

export const sizeOf = ({ width, height }: Size): Size => ({ width, height });

/** A live picture is estimated as soon as it can be. */
const estimateOf = (need: EstimateNeed): EstimateNeed => ({ is: 'estimate', of: need.of, frame: FIRST_FRAME, quality: QUICKEST });
