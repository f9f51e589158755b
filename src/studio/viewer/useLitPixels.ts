import { useEffect, useState } from 'react';
import { engine } from '../../engine/pool/engine';
import { useSession } from '../state/sessionStore';
import { useView } from '../state/viewStore';

/** The pixels at the distances under the pointer on the rail. */
export function useLitPixels(): ImageBitmap | null {
  const lit = useView((s) => s.lit);
  const preview = useSession((s) => s.preview);
  const [bitmap, setBitmap] = useState<ImageBitmap | null>(null);
  // what is not shown any more holds memory until it is closed
  useEffect(() => () => bitmap?.close(), [bitmap]);
  useEffect(() => {
    let current = true;
    if (!lit) {
      setBitmap(null);
      return;
    }
    engine()
      .highlight(lit.from, lit.to)
      .then(
        // null: a newer one was asked for meanwhile
        (b) => b && (current ? setBitmap(b) : b.close()),
        () => undefined,
      );
    return () => {
      current = false;
    };
  }, [lit, preview]);
  return lit ? bitmap : null;
}
