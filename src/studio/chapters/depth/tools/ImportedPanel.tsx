import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import type { ImportedContent } from '../../../../core/depth/layers/imported';
import type { Layer } from '../../../../core/document/schema';
import { formatMetres } from '../../../../core/values/params';
import { ChoiceRow, LabelRow, Section } from '../../../controls/rows';
import { chooseChannel, swapWithPlate, takeEnds } from '../importMap';
import { ClipDepthPanel } from './ClipDepthPanel';
import { changeContent, contentIn, isLocked } from '../layerActions';

/** What was found in a file, and what can be done with it. */
export function ImportedPanel({ layer }: { layer: Layer }) {
  const { found, channel, reading } = contentIn<ImportedContent>(layer);
  return (
    <>
      {layer.media?.clip && <ClipDepthPanel layer={layer} />}
      <Section title={found ? 'What was found' : 'File'} last>
        {found && <Facts layer={layer} found={found} reading={reading} />}
        {found && found.channels.length > 1 && (
          <LabelRow label="Channel" help="Which of the file's channels is read as depth">
            <Select value={channel ?? ''} onChange={(e) => void chooseChannel(layer.id, e.target.value)} inputProps={{ 'aria-label': 'Channel' }}>
              {found.channels.map((c) => (
                <MenuItem key={c} value={c}>
                  {c}
                </MenuItem>
              ))}
            </Select>
          </LabelRow>
        )}
        {found?.float && (
          <ChoiceRow
            label="Read as"
            value={reading}
            help="Distances: 1/number is nearness. Greys: the number is"
            options={[
              { value: 'grey', label: 'Greys' },
              { value: 'distance', label: 'Distances' },
            ]}
            onChange={(value) => !isLocked(layer) && changeContent<ImportedContent>(layer.id, (c) => void (c.reading = value))}
          />
        )}
        {found?.ends && (
          <Button fullWidth sx={{ marginTop: '6px' }} onClick={() => takeEnds(found.ends!)}>
            Use its distances in Calibrate
          </Button>
        )}
        <Button fullWidth sx={{ marginTop: '6px' }} onClick={() => void swapWithPlate(layer.id)}>
          Swap with the plate
        </Button>
      </Section>
    </>
  );
}

/** What a file tells of its map. */
const Facts = ({ layer, found, reading }: { layer: Layer; found: NonNullable<ImportedContent['found']>; reading: ImportedContent['reading'] }) => (
  <Box
    component="dl"
    sx={{
      display: 'grid',
      gridTemplateColumns: '92px 1fr',
      rowGap: '4px',
      margin: '0 0 8px',
      '& dt': { color: 'var(--mute)' },
      '& dd': { margin: 0 },
    }}
  >
    <dt>File</dt>
    <dd className="mono">{`${found.format}, ${layer.media?.width}×${layer.media?.height} px`}</dd>
    <dt>Numbers</dt>
    <dd className="mono">{`${found.bits} bits${found.float ? ' float' : ''}, ${short(found.low)} to ${short(found.high)}`}</dd>
    {found.holes > 0 && (
      <>
        <dt>Holes</dt>
        <dd className="mono">{`${(100 * found.holes).toFixed(found.holes < 0.1 ? 2 : 0)} % unknown`}</dd>
      </>
    )}
    <dt>Near end</dt>
    <dd>{sense(layer, found, reading)}</dd>
    {layer.media?.clip && (
      <>
        <dt>Frames</dt>
        <dd className="mono">{`${layer.media.clip.frames}, ${layer.media.clip.fps} fps, matched by time`}</dd>
      </>
    )}
    {found.ends && (
      <>
        <dt>Distances</dt>
        <dd className="mono">{`${formatMetres(found.ends.near)} to ${formatMetres(found.ends.far ?? Infinity)}`}</dd>
      </>
    )}
  </Box>
);

const short = (v: number): string => (Math.abs(v) >= 1000 ? v.toFixed(0) : String(Number(v.toPrecision(4))));

const REASONS = { file: 'the file says so', estimate: 'told from the picture', custom: 'as is usual' };

function sense(layer: Layer, found: NonNullable<ImportedContent['found']>, reading: ImportedContent['reading']): string {
  const which = reading === 'distance' ? 'small numbers' : layer.values.turnOver ? 'black' : 'white';
  const agreement = found.agreement === null ? '' : `; agrees with the picture by ${found.agreement.toFixed(2)}`;
  return `${which}, ${REASONS[found.because]}${agreement}`;
}
