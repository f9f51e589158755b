import Button from '@mui/material/Button';
import Popover from '@mui/material/Popover';
import { useState, type ReactNode } from 'react';

interface Props {
  readonly text: string;
  /** what the dialog is called */
  readonly label: string;
  readonly width?: number;
  readonly onClosed?: () => void;
  /** made while it is open; `close` ends it */
  readonly children: (close: () => void) => ReactNode;
}

/** A small button in a panel's head that opens a dialog below it. */
export function PopButton({ text, label, width, onClosed, children }: Props) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const close = (): void => {
    setAnchor(null);
    onClosed?.();
  };
  return (
    <>
      <Button sx={{ height: 24, padding: '0 8px' }} aria-haspopup="dialog" onClick={(e) => setAnchor(e.currentTarget)}>
        {text}
      </Button>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={close}
        anchorOrigin={{ vertical: 'bottom', horizontal: 'right' }}
        transformOrigin={{ vertical: 'top', horizontal: 'right' }}
        slotProps={{ paper: { role: 'dialog', 'aria-label': label, ...(width && { sx: { width, maxWidth: 'calc(100vw - 24px)' } }) } }}
      >
        {anchor && children(close)}
      </Popover>
    </>
  );
}
