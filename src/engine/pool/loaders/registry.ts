import { needKey, ofClip, type Need } from '../../../core/need/need';
import type { Loading } from './definition';
import { loadClip } from './clip';
import { loadEstimate } from './estimate';
import { loadMap } from './map';
import { loadPersons } from './persons';
import { loadRaster } from './raster';

/** Brings what a need asks for by the loader of its sort. */
export function load(need: Need, loading: Loading): Promise<void> {
  switch (need.is) {
    case 'raster':
      return ofClip(need) ? loadClip(need, loading) : loadRaster(need, loading);
    case 'map':
      return ofClip(need) ? loadClip(need, loading) : loadMap(need, loading);
    case 'kept':
      // whoever works with it reads it
      loading.given(needKey(need));
      return Promise.resolve();
    case 'persons':
      return loadPersons(need, loading);
    case 'estimate':
      return loadEstimate(need, loading);
  }
}
