import { needKey, type RasterNeed } from '../../../core/need/need';
import type { Loader } from './definition';

/** A picture file, decoded. */
export const loadRaster: Loader<RasterNeed> = async (need, { engine, sources, wanted, hold, given }) => {
  const key = needKey(need);
  const { raster } = await engine.decode(await sources.file(need.ref), need.ref.name, false);
  if (!wanted()) return;
  hold('raster', key, need.opaque ? { ...raster, opaque: true } : raster);
  given(key);
};
