import { needKey, ofClip, type RasterNeed } from '../../core/need';
import type { Loader } from './definition';

/** A picture file, decoded; a clip is handed over as it is: whoever works with a frame decodes it. */
export const loadRaster: Loader<RasterNeed> = async (need, { engine, sources, wanted, hold, given }) => {
  const key = needKey(need);
  const file = await sources.file(need.ref);
  if (ofClip(need)) {
    if (!wanted()) return;
    hold('clip', need.ref.sha256, { blob: file, name: need.ref.name });
    given(key);
    return;
  }
  const { raster } = await engine.decode(file, need.ref.name, false);
  if (!wanted()) return;
  hold('raster', key, need.opaque ? { ...raster, opaque: true } : raster);
  given(key);
};
