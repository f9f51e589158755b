import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import type { Layer } from '../../../core/document/schema';
import { Section, ToggleRow } from '../../controls/rows';
import { goTo } from '../../state/playback';
import { useView } from '../../state/viewStore';
import { deleteLayerKey, isLocked, setKeyed } from './layerActions';

/** Keys of what is drawn or placed in a layer: whether it has some, and going from one to the next. */
export function KeysSection({ layer }: { layer: Layer }) {
  const frame = useView((s) => s.frame);
  const keys = layer.keyed ?? [];
  const earlier = [...keys].reverse().find((k) => k.frame < frame);
  const later = keys.find((k) => k.frame > frame);
  const here = keys.some((k) => k.frame === frame);
  return (
    <Section title="Over time">
      <ToggleRow
        label="Keys"
        help="What is changed on another frame makes a key there; in between the layer moves from one to the next"
        value={keys.length > 0}
        onChange={(on) => !isLocked(layer) && setKeyed(layer.id, on)}
      />
      {keys.length > 0 && (
        <>
          <Box sx={{ color: 'var(--mute)', fontSize: 11.5, margin: '4px 0 6px' }} data-testid="layer-keys">
            {keys.length === 1 ? 'One key, on frame ' : 'Keys on frames '}
            {keys.map((k) => k.frame).join(', ')}. Change something on another frame to make one there.
          </Box>
          <Box sx={{ display: 'flex', gap: '8px' }}>
            <Button fullWidth disabled={!earlier} onClick={() => earlier && goTo(earlier.frame)}>
              Earlier key
            </Button>
            <Button fullWidth disabled={!later} onClick={() => later && goTo(later.frame)}>
              Later key
            </Button>
            <Button fullWidth disabled={!here} onClick={() => !isLocked(layer) && deleteLayerKey(layer.id, frame)}>
              Delete key
            </Button>
          </Box>
        </>
      )}
    </Section>
  );
}
