import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useRef } from 'react';
import type { CameraSettings } from '../../../core/document/schema';
import { notifyError } from '../../controls/noticeStore';
import { changeSettings, whileOpen } from '../../state/documentStore';
import { readPicture } from '../../state/files';

/** A picture of one's own of what lies behind, in place of what is made up. */
export function BackdropRow({ camera }: { camera: CameraSettings }) {
  const input = useRef<HTMLInputElement>(null);
  const take = async (file: File): Promise<void> => {
    const open = whileOpen();
    try {
      const media = await readPicture(file);
      if (open()) changeSettings((s) => void (s.camera.backdrop = media));
    } catch (error) {
      notifyError(error);
    }
  };
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: '6px', marginTop: '4px' }}>
      <Box sx={{ flex: 1, color: 'var(--mute)', overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
        {camera.backdrop ? `with ${camera.backdrop.name}` : 'made up'}
      </Box>
      {camera.backdrop ? (
        <Button sx={{ height: 24 }} onClick={() => changeSettings((s) => void (s.camera.backdrop = null))}>
          Let it go
        </Button>
      ) : (
        <Button
          sx={{ height: 24, whiteSpace: 'nowrap' }}
          title="A cleaned picture of the same framing, of what lies behind"
          onClick={() => input.current?.click()}
        >
          Own picture…
        </Button>
      )}
      <input
        ref={input}
        type="file"
        accept="image/*"
        aria-label="Picture of what lies behind"
        style={{ display: 'none' }}
        onChange={(e) => {
          const [file] = e.target.files ?? [];
          e.target.value = '';
          if (file) void take(file);
        }}
      />
    </Box>
  );
}
