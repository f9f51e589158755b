import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import { useLiveQuery } from 'dexie-react-hooks';
import { SHARPER_RUNS } from '../../../../../core/estimate/own/own';
import type { EstimateContent } from '../../../../../core/depth/layers/estimate';
import type { Layer } from '../../../../../core/document/schema';
import { engine } from '../../../../../engine/pool/engine';
import { database } from '../../../../../store/database';
import { listNetworks, removeNetwork } from '../../../../../store/networks';
import { ChoiceRow, LabelRow, Section, ToggleRow } from '../../../../controls/rows';
import { useFilePick } from '../../../../controls/useFilePick';
import { notify, notifyError } from '../../../../notices/noticeStore';
import { changeContent, contentIn } from '../../layerActions';
import { GIVES, VALUES } from './NetworkDialog';
import { askSo, bringNetwork, tryWays } from './networkTrials';

type Listed = Awaited<ReturnType<typeof listNetworks>>[number];

/** Uses a network as it was used before; one that was not, or tells metres, is tried on this picture first. */
function choose(row: Listed): void {
  if (row.use && row.use.gives !== 'metres') askSo(row.use);
  else tryWays(row).catch(notifyError);
}

async function remove({ sha256, name }: Pick<Listed, 'sha256' | 'name'>): Promise<void> {
  const row = await database().networks.get(sha256);
  await removeNetwork(database(), sha256);
  engine().releaseNetwork();
  notify({
    kind: 'note',
    text: `${name} was removed from this browser.`,
    hint: 'Depth that it made stays. Projects that name it say so when they need it again.',
    ...(row && { actions: [{ label: 'Bring back', run: () => void database().networks.put(row).catch(notifyError) }] }),
  });
}

/** The network of somebody's own that a layer asks, and those that are in this browser. */
export function NetworkSection({ layer }: { layer: Layer }) {
  const networks = useLiveQuery(() => listNetworks(database()), []) ?? null;
  const { open, input } = useFilePick('Network file', '.onnx', (file) => void bringNetwork(file));
  const { network } = contentIn<EstimateContent>(layer);
  const row = networks?.find((n) => n.sha256 === network?.sha256);
  const missing = network !== null && networks !== null && !row;
  return (
    <Section title="Network">
      {input}
      {networks && networks.length + Number(missing) > 0 && (
        <LabelRow label="Asked" help="Networks in this browser">
          <Select
            displayEmpty
            value={network?.sha256 ?? ''}
            inputProps={{ 'aria-label': 'Network' }}
            renderValue={(value) => (value ? (network?.name ?? '') : 'Choose…')}
            onChange={(e) => {
              const found = networks.find((n) => n.sha256 === e.target.value);
              if (found) choose(found);
            }}
          >
            {missing && (
              <MenuItem value={network.sha256} disabled>
                {network.name}, missing
              </MenuItem>
            )}
            {networks.map((n) => (
              <MenuItem key={n.sha256} value={n.sha256}>
                {n.name}
              </MenuItem>
            ))}
          </Select>
        </LabelRow>
      )}
      {networks?.length === 0 && !network && (
        <Box sx={{ color: 'var(--mute)', marginBottom: '6px' }}>
          Bring a depth network as an ONNX file, or drop one here. It stays in this browser.
        </Box>
      )}
      {missing && (
        <Box role="alert" sx={{ color: 'var(--text)', margin: '4px 0' }}>
          {network.name} is not in this browser. Bring its file in again.
        </Box>
      )}
      {network && row && (
        <>
          <ChoiceRow
            label="It gives"
            value={network.gives}
            options={GIVES}
            onChange={(gives) => (gives === 'metres' ? void tryWays(row).catch(notifyError) : askSo({ ...network, gives, ends: undefined }))}
          />
          <ToggleRow
            label="Sharper"
            help={`Asked again in overlapping parts at twice the size: ${SHARPER_RUNS} runs in place of one`}
            value={network.sharper}
            onChange={(sharper) => changeContent<EstimateContent>(layer.id, (c) => void (c.network = { ...network, sharper }))}
          />
          <Box className="mono" sx={{ color: 'var(--mute)', fontSize: 11, margin: '2px 0 6px' }}>
            values {VALUES[network.values]}
            {row.seconds !== null && `, ${(row.seconds * (network.sharper ? SHARPER_RUNS : 1)).toPrecision(2)} s a picture`}
          </Box>
        </>
      )}
      <Box sx={{ display: 'flex', gap: '6px', marginTop: '6px' }}>
        <Button sx={{ flex: 1 }} onClick={open}>
          Network…
        </Button>
        {row && (
          <>
            <Button sx={{ flex: 1 }} onClick={() => void tryWays(row).catch(notifyError)}>
              Try again
            </Button>
            <Button sx={{ flex: 1 }} onClick={() => void remove(row).catch(notifyError)}>
              Remove
            </Button>
          </>
        )}
      </Box>
    </Section>
  );
}
