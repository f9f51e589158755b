import Button from '@mui/material/Button';
import type { Layer } from '../../../../core/document/schema';
import { Section } from '../../../controls/rows';
import { session } from '../../../state/session';
import { useSession } from '../../../state/sessionStore';

export function EstimatePanel({ layer }: { layer: Layer }) {
  const estimating = useSession((s) => s.estimating);
  return (
    <Section last>
      <Button fullWidth disabled={estimating !== null} onClick={() => void session().estimateAgain(layer.id)}>
        Estimate again
      </Button>
    </Section>
  );
}
