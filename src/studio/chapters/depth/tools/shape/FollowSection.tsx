import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { followSeries } from '../../../../../core/depth/layers/shape/follow';
import type { ShapesContent } from '../../../../../core/depth/layers/shape/content';
import type { Layer } from '../../../../../core/document/schema';
import { copyOf } from '../../../../../core/values/copy';
import { addressOfFile } from '../../../../../core/need/need';
import { Section, ToggleRow } from '../../../../controls/rows';
import { useShot } from '../../../../state/documentStore';
import { carryShapes } from '../../../../state/followRegion';
import { useSession } from '../../../../state/sessionStore';
import { useRegionState } from '../../../../state/useRegionState';
import { useClipFrame } from '../../../../state/shotNow';
import { changeContent, contentIn, isLocked } from '../../layerActions';

/** Shapes on a clip: whether they go with what they lie on, and drawing them again where they fail. */
export function FollowSection({ layer }: { layer: Layer }) {
  const shot = useShot()!;
  const frame = useClipFrame();
  const clipDepthJob = useSession((s) => s.clipDepthJob);
  const content = contentIn<ShapesContent>(layer);
  const series = followSeries(addressOfFile(shot.plate), content);
  const state = useRegionState(series);
  const { clip } = shot.plate;
  if (!clip || content.shapes.length === 0 || (layer.keyed && layer.keyed.length > 0)) return null;
  const { follow } = content;
  const change = (next: ShapesContent['follow']): void => {
    if (!isLocked(layer)) changeContent<ShapesContent>(layer.id, (c) => void (c.follow = next));
  };
  const drawAgain = (): void => {
    if (!follow || isLocked(layer)) return;
    changeContent<ShapesContent>(layer.id, (c) => {
      const earlier = [...follow.earlier.filter((d) => d.frame !== follow.at), { frame: follow.at, shapes: copyOf(c.shapes) }];
      c.follow = { at: frame, earlier };
    });
  };
  const carried = state !== null && series !== null && state.frames >= clip.frames;
  const lostHere = state?.lost[frame];
  return (
    <Section title="Through the clip">
      <ToggleRow
        label="Follow"
        help="The shapes go with what they lie on, as one region at the distance of the first"
        value={follow !== null}
        onChange={(on) => change(on ? { at: frame, earlier: [] } : null)}
      />
      {follow && (
        <>
          <Box sx={{ color: 'var(--mute)', fontSize: 11.5, margin: '4px 0' }} data-testid="region">
            Drawn on {[...follow.earlier.map((d) => d.frame), follow.at].sort((a, b) => a - b).join(', ')}.{' '}
            {carried ? `Carried to all ${clip.frames} frames.` : 'Not carried yet.'}
            {carried && typeof lostHere === 'number' && lostHere > 0 ? ` Here ${Math.round(100 * lostHere)} % of it could not be followed.` : ''}
          </Box>
          <Box sx={{ display: 'flex', gap: '8px' }}>
            <Button
              fullWidth
              variant={carried ? 'outlined' : 'contained'}
              disabled={clipDepthJob !== null}
              onClick={() => void carryShapes(shot, content)}
            >
              {carried ? 'Carry again' : 'Carry through the clip'}
            </Button>
            {frame !== follow.at && (
              <Button fullWidth onClick={drawAgain}>
                Draw again here
              </Button>
            )}
          </Box>
        </>
      )}
    </Section>
  );
}
