import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import type { CameraSettings } from '../../../core/document/schema';
import { notifyError } from '../../notices/noticeStore';
import { useFilePick } from '../../controls/useFilePick';
import { changeSettings, whileOpen } from '../../state/documentStore';
import { readPicture } from '../../state/files';

/** A picture of one's own of what lies behind, in place of what is made up. */
export function BackdropRow({ camera }: { camera: CameraSettings }) {
  const take = async (file: File): Promise<void> => {
    const open = whileOpen();
    try {
      const media = await readPicture(file);
      if (open()) changeSettings((s) => void (s.camera.backdrop = media));
    } catch (error) {
      notifyError(error);
    }
  };
  const pick = useFilePick('Picture of what lies behind', 'image/*', (file) => void take(file));
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
          onClick={() => pick.open()}
        >
          Own picture…
        </Button>
      )}
      {pick.input}
    </Box>
  );
}
