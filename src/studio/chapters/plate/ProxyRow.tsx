import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useEffect, useState } from 'react';
import type { Shot } from '../../../core/document/schema';
import { engine } from '../../../engine/pool/engine';
import { forgetProxy, keptProxy } from '../../../media/clipStore';
import { notifyError } from '../../notices/noticeStore';
import { framesAreOthers } from '../../state/clipDepth';
import { clipJob } from '../../state/clipJob';
import { useSession } from '../../state/sessionStore';

/** Workers look for proxies anew, and what is shown is made with what there is. */
function proxiesAreOthers(): void {
  engine().proxiesChanged();
  framesAreOthers();
}

type Proxy = Awaited<ReturnType<typeof keptProxy>>;

/** A copy of half the size to work with: whether there is one, making it, and letting it go. */
export function ProxyRow({ shot: { plate } }: { shot: Shot }) {
  const { sha256 } = plate;
  const stamp = useSession((s) => s.depthStamp);
  const busy = useSession((s) => s.clipDepthJob !== null);
  const [proxy, setProxy] = useState<Proxy | undefined>(undefined);
  useEffect(() => {
    let wanted = true;
    keptProxy(sha256)
      .then((found) => wanted && setProxy(found))
      .catch(notifyError);
    return () => {
      wanted = false;
    };
  }, [sha256, stamp]);
  if (proxy === undefined) return null;
  const make = (): Promise<void> =>
    clipJob('Making a proxy', async ({ run, report }) => {
      if (await run(engine().makeProxy(sha256, report))) proxiesAreOthers();
    });
  const forget = async (): Promise<void> => {
    await forgetProxy(sha256);
    proxiesAreOthers();
  };
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: '8px', minHeight: 28, marginTop: '4px' }} data-testid="proxy">
      <Box
        sx={{ flex: 1, color: 'var(--mute)', fontSize: 11.5 }}
        title="A copy of half the size, of which any frame is there at once. What is exported is made from the clip itself."
      >
        {proxy
          ? `Proxy: ${proxy.width}×${proxy.height}, ${(proxy.blob.size / 1e6).toFixed(1)} MB`
          : 'No proxy: a small copy makes work on large clips smooth'}
      </Box>
      {proxy ? (
        <Button onClick={() => void forget().catch(notifyError)}>Delete proxy</Button>
      ) : (
        <Button sx={{ whiteSpace: 'nowrap' }} disabled={busy} onClick={() => void make()}>
          Make proxy
        </Button>
      )}
    </Box>
  );
}
