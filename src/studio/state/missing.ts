import type { Settings, Shot } from '../../core/document/schema';
import { fileOf, needKey, ofClip, type Need } from '../../core/need/need';
import { handIn, needsOf } from '../../core/shot/needs';
import { engine } from '../../engine/pool/engine';
import type { Given } from '../../engine/messages/protocol';

/** Whether something that is seen of a shot is not there yet. Frames of clips are read by whoever makes the picture. */
export function somethingMissing(plate: Shot['plate'], settings: Settings, given: Given): boolean {
  const missing = (need: Need): boolean => {
    if (ofClip(need)) return !engine().holds('clip', fileOf(need).sha256);
    return need.is === 'raster' ? !engine().holds('raster', needKey(need)) : !engine().holds('map', given[needKey(need)] ?? '');
  };
  return needsOf({ plate, settings: handIn(settings) }).some(missing);
}
