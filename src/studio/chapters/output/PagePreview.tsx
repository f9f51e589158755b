import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import LinearProgress from '@mui/material/LinearProgress';
import { useEffect, useRef, useState } from 'react';
import type { Shot } from '../../../core/document/schema';
import { engine } from '../../../engine/pool/engine';
import type { OutputSpec } from '../../../engine/messages/protocol';
import { notify, notifyError } from '../../notices/noticeStore';
import { somethingMissing } from '../../state/missing';
import { requestOf } from '../../state/previewLoop';
import { useSession } from '../../state/sessionStore';

interface Props {
  readonly shot: Shot;
  readonly values: OutputSpec['values'];
  readonly words: string;
  readonly onClose: () => void;
}

/** The page itself, as it would be saved, cut off from everything else as on a strange site. */
export function PagePreview({ shot, values, words, onClose }: Props) {
  const frame = useRef<HTMLIFrameElement>(null);
  const [html, setHtml] = useState<string | null>(null);
  const [share, setShare] = useState(0);
  const close = useRef(onClose);
  useEffect(() => {
    close.current = onClose;
  });
  useEffect(() => {
    const { given } = useSession.getState();
    if (somethingMissing(shot.plate, shot.settings, given)) {
      notify({ kind: 'note', text: 'The depth of this shot is not ready yet.', hint: 'Try it when its maps and pictures have arrived.' });
      close.current();
      return;
    }
    const job = engine().output(requestOf(shot, shot.settings.framing), given, { kind: 'page', values, name: shot.name, words }, setShare);
    let wanted = true;
    job.done
      .then(async (made) => {
        if (made && wanted) setHtml(await made.blob.text());
      })
      .catch((error: unknown) => {
        notifyError(error);
        close.current();
      });
    return () => {
      wanted = false;
      job.cancel();
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- it is made once, of what was chosen when it was opened
  }, []);
  useEffect(() => {
    if (html === null) return;
    const ready = (event: MessageEvent): void => {
      if (event.source === frame.current?.contentWindow && event.data === 'preview is ready') frame.current.contentWindow!.postMessage(html, '*');
    };
    window.addEventListener('message', ready);
    return () => window.removeEventListener('message', ready);
  }, [html]);
  const { width, height } = shot.settings.framing;
  return (
    <Dialog open onClose={onClose} aria-labelledby="page-title" maxWidth={false}>
      <Box sx={{ padding: '14px 16px', width: `min(90vw, calc((100vh - 160px) * ${width / height}))`, minWidth: 320 }}>
        <Box sx={{ display: 'flex', alignItems: 'center', gap: '14px', marginBottom: '10px' }}>
          <Box id="page-title" component="h2" sx={{ fontSize: 13, fontWeight: 600, margin: 0, flex: 1 }}>
            The page as it is saved
          </Box>
          <Button onClick={onClose} autoFocus>
            Close
          </Button>
        </Box>
        {html === null ? (
          <Box
            sx={{
              aspectRatio: `${width} / ${height}`,
              display: 'grid',
              alignContent: 'center',
              gap: '8px',
              background: 'var(--surround)',
              padding: '20%',
            }}
          >
            <span>Making the page</span>
            <LinearProgress variant="determinate" value={100 * share} aria-label="Making the page" />
          </Box>
        ) : (
          <Box
            component="iframe"
            ref={frame}
            src="/preview.html"
            sandbox="allow-scripts"
            title="The page as it is saved"
            sx={{ display: 'block', width: '100%', aspectRatio: `${width} / ${height}`, border: 0 }}
          />
        )}
      </Box>
    </Dialog>
  );
}
