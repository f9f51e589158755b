import CloseIcon from '@mui/icons-material/CloseOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import { useEffect } from 'react';
import type { Notice } from './noticeStore';

/** Messages at the lower left of what holds them. Notes leave by themselves; errors stay until they are closed. */
export function Notices({
  notices,
  dismiss,
  position = 'absolute',
}: {
  notices: readonly Notice[];
  dismiss: (id: number) => void;
  /** `fixed` keeps them in the window while what holds them scrolls */
  position?: 'absolute' | 'fixed';
}) {
  return (
    <Box
      role="status"
      aria-live="polite"
      sx={{
        position,
        left: 16,
        bottom: 16,
        zIndex: 1400,
        display: 'flex',
        flexDirection: 'column',
        gap: '8px',
        maxWidth: 'min(460px, calc(100% - 32px))',
        maxHeight: 'calc(100% - 32px)',
        overflowY: 'auto',
      }}
    >
      {notices.map((n) => (
        <NoticeCard key={n.id} notice={n} close={() => dismiss(n.id)} />
      ))}
    </Box>
  );
}

function NoticeCard({ notice, close }: { notice: Notice; close: () => void }) {
  const { kind, actions } = notice;
  useEffect(() => {
    if (kind === 'error' || notice.stays) return;
    const timer = setTimeout(close, actions?.length ? 12000 : 6000);
    return () => clearTimeout(timer);
    // the card keeps its own time, however often its parent renders
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [notice.id]);
  return (
    <Box
      sx={{
        display: 'flex',
        alignItems: 'flex-start',
        flexShrink: 0,
        gap: '10px',
        // a long one is read within its own card, and can be closed all the same
        maxHeight: 240,
        overflowY: 'auto',
        overflowWrap: 'anywhere',
        padding: '9px 8px 9px 14px',
        background: 'var(--raise)',
        border: '1px solid var(--line2)',
        borderLeft: `3px solid ${kind === 'error' ? 'var(--alert)' : 'var(--paper)'}`,
        borderRadius: '4px',
        boxShadow: '0 6px 24px rgba(0,0,0,.5)',
      }}
    >
      <Box sx={{ flex: 1, minWidth: 0, paddingTop: '3px' }}>
        <Box sx={{ fontWeight: 550 }}>{notice.text}</Box>
        {notice.hint && <Box sx={{ color: 'var(--mute)' }}>{notice.hint}</Box>}
        {actions && (
          <Box sx={{ display: 'flex', gap: '6px', marginTop: '8px' }}>
            {actions.map((a) => (
              <Button
                key={a.label}
                onClick={() => {
                  a.run();
                  close();
                }}
              >
                {a.label}
              </Button>
            ))}
          </Box>
        )}
      </Box>
      {!notice.stays && (
        <IconButton aria-label="Close this message" onClick={close} sx={{ position: 'sticky', top: 0 }}>
          <CloseIcon />
        </IconButton>
      )}
    </Box>
  );
}
