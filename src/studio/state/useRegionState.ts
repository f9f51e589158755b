import { useEffect, useState } from 'react';
import { notifyError } from '../notices/noticeStore';
import { regionState, type RegionState } from './followRegion';
import { useSession } from './sessionStore';

/** How far what follows a clip has been carried; null while that is not known, or nothing follows. */
export function useRegionState(series: string | null): RegionState | null {
  const stamp = useSession((s) => s.depthStamp);
  const [state, setState] = useState<RegionState | null>(null);
  useEffect(() => {
    let wanted = true;
    if (series !== null)
      regionState(series)
        .then((found) => wanted && setState(found))
        .catch(notifyError);
    return () => {
      wanted = false;
    };
  }, [series, stamp]);
  return series === null ? null : state;
}
