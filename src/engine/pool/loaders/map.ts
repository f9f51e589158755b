import { needKey, type MapNeed } from '../../../core/need/need';
import type { Loader } from './definition';

/** A depth map from a file, read as its layer says. */
export const loadMap: Loader<MapNeed> = async (need, { engine, sources, wanted, hold, given }) => {
  const key = needKey(need);
  const plane = await engine.decodeMap(await sources.file(need.ref), need.ref.name, need.channel, need.reading);
  if (!wanted()) return;
  hold('map', key, plane);
  given(key);
};
