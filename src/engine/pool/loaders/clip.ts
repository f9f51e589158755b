import { needKey, type MapNeed, type RasterNeed } from '../../../core/need/need';
import type { Loader } from './definition';

/** A clip is handed over as it is: whoever works with a frame decodes it. */
export const loadClip: Loader<RasterNeed | MapNeed> = async (need, { sources, wanted, hold, given }) => {
  const blob = await sources.file(need.ref);
  if (!wanted()) return;
  hold('clip', need.ref.sha256, { blob, name: need.ref.name });
  given(needKey(need));
};
