import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import { useViewPart } from './state/viewStore';

const KEYS: readonly (readonly [string, string])[] = [
  ['1 – 6', 'Plate, Depth, Calibrate, Effects, Camera, Output'],
  ['hold q', 'See the plate'],
  ['hold e', 'See the depth'],
  ['hold f', 'The picture without the effect in hand'],
  ['p', 'The picture alone, playing; Escape goes back'],
  ['w', 'Wipe between before and after'],
  ['s', 'Pick the distance that should be sharp; with the brush, the distance to paint'],
  ['z  x', 'Smaller, larger brush'],
  ['hold space', 'Drag moves the picture, whatever is in hand'],
  ['space', 'Play, pause; , and . step, Home and End go to the ends, [ and ] set the range'],
  ['hold v', 'Wobble: the camera goes round, to judge the map'],
  ['t', 'Flip between the last two takes'],
  ['+  −', 'Zoom in, zoom out'],
  ['0  9', 'Fit, full size'],
  ['wheel, pinch', 'Zoom at the pointer; drag to move'],
  ['arrow keys', 'In the picture: move the probe; Enter clicks; with Shift, move the picture'],
  ['Alt ↑  Alt ↓', 'Move a layer or an effect in its list; F2 renames, Delete removes it'],
  ['Ctrl Z', 'Undo'],
  ['Ctrl Shift Z', 'Redo'],
  ['Ctrl S', 'Download the project file'],
  ['?', 'This list'],
];

/** Every key of the workspace. */
export function ShortcutSheet() {
  const { shortcuts, set } = useViewPart('shortcuts', 'set');
  const close = (): void => set({ shortcuts: false });
  return (
    <Dialog open={shortcuts} onClose={close} aria-labelledby="keys-title" maxWidth="sm">
      <Box sx={{ padding: '18px 22px', width: 480 }}>
        <Box id="keys-title" component="h2" sx={{ fontSize: 14, fontWeight: 600, margin: '0 0 12px' }}>
          Keys
        </Box>
        <Box component="dl" sx={{ display: 'grid', gridTemplateColumns: '118px 1fr', rowGap: '7px', margin: 0 }}>
          {KEYS.map(([key, what]) => (
            <Box key={key} sx={{ display: 'contents' }}>
              <Box component="dt" className="mono" sx={{ color: 'var(--paper)' }}>
                {key}
              </Box>
              <Box component="dd" sx={{ margin: 0, color: 'var(--text)' }}>
                {what}
              </Box>
            </Box>
          ))}
        </Box>
        <Box sx={{ display: 'flex', justifyContent: 'flex-end', marginTop: '14px' }}>
          <Button onClick={close} autoFocus>
            Close
          </Button>
        </Box>
      </Box>
    </Dialog>
  );
}
