import { useEffect, useState } from 'react';
import { seriesOf, type ClipDepthSpec } from '../../core/motion/clipSpec';
import { notifyError } from '../notices/noticeStore';
import { stateOf, type ClipDepthState } from '../../media/clipDepthState';
import { useSession } from './sessionStore';

/** While depth is being found, what there is is read so many times in all. */
const LOOKS = 40;

/** What there is of a clip's depth, kept up to date. */
export function useClipDepth(spec: ClipDepthSpec | null): ClipDepthState | null {
  const stamp = useSession((s) => s.depthStamp);
  const step = useSession((s) => (s.clipDepthJob ? Math.floor(s.clipDepthJob.share * LOOKS) : -1));
  const [state, setState] = useState<ClipDepthState | null>(null);
  const key = spec && JSON.stringify(seriesOf(spec));
  useEffect(() => {
    if (!spec) return;
    let wanted = true;
    stateOf(spec)
      .then((found) => wanted && setState(found))
      .catch(notifyError);
    return () => {
      wanted = false;
    };
    // the key stands for the spec
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key, stamp, step]);
  return spec ? state : null;
}
