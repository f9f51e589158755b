import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import { useEffect, useState } from 'react';
import { OmbrageError } from '../../../core/error';
import { notify, notifyError } from '../../notices/noticeStore';
import { Section } from '../../controls/rows';
import { useSession, type Made } from '../../state/sessionStore';

/** Files that the page can show itself, by their endings. */
const PLAYED = /\.(mp4|webm)$/i;
const SEEN = /\.(png|jpe?g|webp|gif)$/i;

/** A file's size in words. */
export function sizeOf(bytes: number): string {
  if (bytes < 1e3) return `${bytes} bytes`;
  if (bytes < 1e6) return `${Math.round(bytes / 1e3)} kB`;
  return `${(bytes / 1e6).toFixed(bytes < 1e7 ? 1 : 0)} MB`;
}

/** What was exported last: what it is, how large, and a way to look at it again. */
export function MadeSection() {
  const made = useSession((s) => s.made);
  const [shown, setShown] = useState(false);
  if (!made) return null;
  const { name, blob, width, height, frames, told } = made;
  const plays = PLAYED.test(name);
  return (
    <Section title="Made">
      <Box sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }} title={name}>
        {name}
      </Box>
      <Box className="mono" sx={{ color: 'var(--mute)', fontSize: 11 }} data-testid="made">
        {told ? `${told}, ` : `${width}×${height} px, `}
        {frames && `${frames.count} frames at ${frames.fps} fps, `}
        {sizeOf(blob.size)}
      </Box>
      <Box sx={{ display: 'flex', gap: '6px', marginTop: '6px' }}>
        {(plays || SEEN.test(name)) && (
          <Button sx={{ flex: 1 }} onClick={() => setShown(true)}>
            Show again
          </Button>
        )}
        {!frames && SEEN.test(name) && (
          <Button sx={{ flex: 1 }} onClick={() => void copyStill(blob, name).catch(notifyError)}>
            Copy
          </Button>
        )}
      </Box>
      {shown && <Shown made={made} plays={plays} onClose={() => setShown(false)} />}
    </Section>
  );
}

/** Puts a still on the clipboard, as the PNG that every program takes. Throws OmbrageError. */
async function copyStill(blob: Blob, name: string): Promise<void> {
  const refused = (): OmbrageError =>
    new OmbrageError('no-clipboard', `This browser does not let ${name} be copied.`, 'It was saved as a file: use that.');
  if (typeof ClipboardItem === 'undefined') throw refused();
  const png = async (): Promise<Blob> => {
    if (blob.type === 'image/png') return blob;
    const bitmap = await createImageBitmap(blob);
    const canvas = new OffscreenCanvas(bitmap.width, bitmap.height);
    canvas.getContext('2d')!.drawImage(bitmap, 0, 0);
    bitmap.close();
    return canvas.convertToBlob({ type: 'image/png' });
  };
  try {
    await navigator.clipboard.write([new ClipboardItem({ 'image/png': png() })]);
  } catch {
    throw refused();
  }
  notify({ kind: 'note', text: `${name} is copied.` });
}

/** The file itself, as anybody would see it who gets it. */
function Shown({ made: { name, blob, width, height }, plays, onClose }: { made: Made; plays: boolean; onClose: () => void }) {
  const [address, setAddress] = useState<string | null>(null);
  useEffect(() => {
    const url = URL.createObjectURL(blob);
    setAddress(url);
    return () => URL.revokeObjectURL(url);
  }, [blob]);
  const size = { display: 'block', maxWidth: '100%', maxHeight: 'calc(100vh - 150px)', aspectRatio: `${width} / ${height}` };
  return (
    <Dialog open onClose={onClose} aria-labelledby="made-title" maxWidth={false}>
      <Box sx={{ padding: '14px 16px', minWidth: 320 }}>
        <Box sx={{ display: 'flex', alignItems: 'center', gap: '14px', marginBottom: '10px' }}>
          <Box id="made-title" component="h2" sx={{ fontSize: 13, fontWeight: 600, margin: 0, flex: 1, overflowWrap: 'anywhere' }}>
            {name}
          </Box>
          <Button onClick={onClose} autoFocus>
            Close
          </Button>
        </Box>
        {address &&
          (plays ? (
            <video src={address} controls loop autoPlay muted style={size} aria-label={name} />
          ) : (
            <img src={address} alt={name} style={size} />
          ))}
      </Box>
    </Dialog>
  );
}
