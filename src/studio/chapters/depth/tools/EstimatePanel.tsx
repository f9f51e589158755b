import Button from '@mui/material/Button';
import type { Layer } from '../../../../core/document/schema';
import { Section } from '../../../controls/rows';
import { session } from '../../../state/session';
import { useSession } from '../../../state/sessionStore';
import { useShot } from '../../../state/documentStore';
import { ClipDepthPanel } from './ClipDepthPanel';
import { NetworkSection } from './network/NetworkSection';
import { estimatorOf } from '../../../../core/need/estimators';
import { estimateLayer } from '../../../../core/depth/layers/estimate';
import { paramsAt, START } from '../../../../core/values/moment';

export function EstimatePanel({ layer }: { layer: Layer }) {
  const estimating = useSession((s) => s.estimating);
  const clip = useShot()?.plate.clip !== undefined;
  return (
    <>
      {estimatorOf(paramsAt(estimateLayer, layer, START).quality).own && <NetworkSection layer={layer} />}
      {clip && <ClipDepthPanel layer={layer} />}
      <Section last>
        <Button fullWidth disabled={estimating !== null} onClick={() => void session().estimateAgain(layer.id)}>
          {clip ? 'Estimate this frame again' : 'Estimate again'}
        </Button>
      </Section>
    </>
  );
}
