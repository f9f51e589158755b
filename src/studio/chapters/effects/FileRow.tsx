import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useState } from 'react';
import { notifyError } from '../../notices/noticeStore';
import { useFilePick } from '../../controls/useFilePick';
import { whileOpen } from '../../state/documentStore';

interface Props {
  /** what is chosen now, in words */
  readonly now: string;
  readonly label: string;
  readonly accept: string;
  /** things that can be taken besides a file */
  readonly others: readonly { readonly label: string; take(): void | Promise<void> }[];
  /** takes a file; `open` tells whether the shot is still the one it was chosen for */
  readonly onFile: (file: File, open: () => boolean) => Promise<void>;
}

/** A file that belongs to an effect, and what can be had instead. */
export function FileRow({ now, label, accept, others, onFile }: Props) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const run = (work: void | Promise<void>): void => {
    setAnchor(null);
    Promise.resolve(work).catch(notifyError);
  };
  const pick = useFilePick(label, accept, (file) => run(onFile(file, whileOpen())));
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: '6px', minHeight: 28 }}>
      <Box sx={{ flex: 1, color: 'var(--mute)', overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }} title={now}>
        {now}
      </Box>
      <Button sx={{ height: 24, whiteSpace: 'nowrap' }} aria-haspopup="menu" onClick={(e) => setAnchor(e.currentTarget)}>
        {label}
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        <MenuItem
          onClick={() => {
            setAnchor(null);
            pick.open();
          }}
        >
          From a file…
        </MenuItem>
        {others.map((o) => (
          <MenuItem key={o.label} onClick={() => run(o.take())}>
            {o.label}
          </MenuItem>
        ))}
      </Menu>
      {pick.input}
    </Box>
  );
}
