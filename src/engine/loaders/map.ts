import { needKey, ofClip, type MapNeed } from '../../core/need';
import type { Loader } from './definition';

/** A depth map from a file, read as its layer says; a clip of them is handed over as it is. */
export const loadMap: Loader<MapNeed> = async (need, { engine, sources, wanted, hold, given }) => {
  const key = needKey(need);
  const file = await sources.file(need.ref);
  if (ofClip(need)) {
    if (!wanted()) return;
    hold('clip', need.ref.sha256, { blob: file, name: need.ref.name });
    given(key);
    return;
  }
  const plane = await engine.decodeMap(file, need.ref.name, need.channel, need.reading);
  if (!wanted()) return;
  hold('map', key, plane);
  given(key);
};
