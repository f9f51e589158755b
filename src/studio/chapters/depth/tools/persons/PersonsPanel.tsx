import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { personsSeries, type PersonsContent } from '../../../../../core/depth/layers/persons/content';
import type { Layer } from '../../../../../core/document/schema';
import { addressOfFile } from '../../../../../core/need/need';
import { Section } from '../../../../controls/rows';
import { useShot } from '../../../../state/documentStore';
import { carryPersons } from '../../../../state/followRegion';
import { useRegionState } from '../../../../state/useRegionState';
import { findAllPersons } from '../../../../state/persons';
import { useSession } from '../../../../state/sessionStore';
import { changeContent, contentIn, isLocked } from '../../layerActions';

/** Who belongs to a layer of persons, and their way through a clip. */
export function PersonsPanel({ layer }: { layer: Layer }) {
  const shot = useShot()!;
  const estimating = useSession((s) => s.estimating);
  const clipDepthJob = useSession((s) => s.clipDepthJob);
  const content = contentIn<PersonsContent>(layer);
  const { clip } = shot.plate;
  const carried = useRegionState(clip ? personsSeries(addressOfFile(shot.plate), content) : null);
  const { clicked } = content;
  const all = clip && carried !== null && carried.frames >= clip.frames;
  return (
    <Section title="Persons" aside={<span className="mono">{clicked.length}</span>} last>
      <Box sx={{ color: 'var(--mute)', marginBottom: '6px' }}>
        Click a person in the picture to take them in; click the mark to take them out. An effect acts on them where its part of the picture says so.
      </Box>
      <Box sx={{ display: 'flex', gap: '6px' }}>
        <Button sx={{ flex: 1 }} disabled={estimating !== null} onClick={() => !isLocked(layer) && void findAllPersons(layer.id)}>
          Find all
        </Button>
        <Button
          sx={{ flex: 1 }}
          disabled={clicked.length === 0}
          onClick={() => !isLocked(layer) && changeContent<PersonsContent>(layer.id, (c) => void (c.clicked = []))}
        >
          None
        </Button>
      </Box>
      {clip && clicked.length > 0 && (
        <>
          <Box sx={{ color: 'var(--mute)', fontSize: 11.5, margin: '6px 0' }} data-testid="persons-followed">
            {all ? `Followed through all ${clip.frames} frames.` : 'Not followed through the clip yet: nothing is marked until then.'}
          </Box>
          <Button
            fullWidth
            variant={all ? 'outlined' : 'contained'}
            disabled={clipDepthJob !== null}
            onClick={() => void carryPersons(shot, content)}
          >
            {all ? 'Follow again' : 'Follow through the clip'}
          </Button>
        </>
      )}
    </Section>
  );
}
