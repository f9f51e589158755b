import LockIcon from '@mui/icons-material/LockOutlined';
import UnlockIcon from '@mui/icons-material/LockOpenOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import { useState } from 'react';
import { headLayer } from '../../../../../core/depth/layers/head/head';
import { facings } from '../../../../../core/depth/layers/head/marks';
import { headParts, PART_LABELS, type HeadPart } from '../../../../../core/depth/layers/head/parts';
import type { Layer } from '../../../../../core/document/schema';
import type { Params } from '../../../../../core/values/params';
import { ParamRows } from '../../../../controls/ParamRows';
import { ChoiceRow, Section } from '../../../../controls/rows';
import { steady } from '../../../../controls/steady';
import { useTint } from '../../../../controls/useTint';
import { useShot, type Gesture } from '../../../../state/documentStore';
import { useSession } from '../../../../state/sessionStore';
import { changeLayer, isLocked } from '../../layerActions';
import { fitToFace } from './fitToFace';
import { headContent } from './HeadOverlay';

const SHORT: Record<HeadPart, string> = { socket: 'Eyes', nose: 'Nose', lips: 'Lips', brow: 'Brow', cheeks: 'Cheeks', jaw: 'Jaw', ears: 'Ears' };

const section = (...titles: string[]): Params =>
  Object.fromEntries(Object.entries(headLayer.params).filter(([, p]) => titles.includes(p.section ?? '')));
const WHOLE = section('Place', 'Distance', 'Backdrop');
const PARTS = Object.fromEntries(
  headParts.map((part) => [part, Object.fromEntries(Object.entries(section(PART_LABELS[part])).map(([name, p]) => [name, { ...p, section: '' }]))]),
) as Record<HeadPart, Params>;

const Facings = steady(function Facings({ onChoose }: { onChoose: (yaw: number, pitch: number) => void }) {
  return (
    <Box role="group" aria-label="Start from a facing" sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: '4px' }}>
      {facings.map((f) => (
        <Button
          key={f.name}
          onClick={() => onChoose(f.yaw, f.pitch)}
          sx={{ height: 24, padding: '0 6px', fontSize: 11.5, ...(f.name === 'camera' && { gridColumn: '1 / 3' }) }}
        >
          {f.label}
        </Button>
      ))}
    </Box>
  );
});

/** Which way the head faces: found, chosen, or by marks on the face. */
function FacingSection({ layer }: { layer: Layer }) {
  const shot = useShot();
  const busy = useSession((s) => s.estimating !== null);
  const placed = Object.keys(headContent(layer).marks).length;
  const face = (yaw: number, pitch: number): void => {
    if (isLocked(layer)) return;
    changeLayer(layer.id, (l) => {
      Object.assign(l.values, { yaw, pitch, roll: 0 });
      l.content = { ...headContent(layer), marks: {} };
    });
  };
  return (
    <Section title="Facing">
      <Button fullWidth disabled={busy || layer.locked} sx={{ marginBottom: '6px' }} onClick={() => shot && void fitToFace(shot, layer.id)}>
        Fit to the face
      </Button>
      <Facings onChoose={face} />
      <Box sx={{ color: 'var(--mute)', fontSize: 11.5, marginTop: '8px' }}>
        {placed === 0
          ? 'Drag the marks onto the face: eyes, tip of the nose, corners of the mouth, chin, crown, temples. The head follows.'
          : `${placed} of 9 marks placed.`}
      </Box>
      {placed > 0 && (
        <Button
          fullWidth
          sx={{ marginTop: '6px' }}
          onClick={() => !isLocked(layer) && changeLayer(layer.id, (l) => void (l.content = { ...headContent(layer), marks: {} }))}
        >
          Let the marks go
        </Button>
      )}
    </Section>
  );
}

/** The head: which way it faces, its place, and its parts one by one. */
export function HeadPanel({ layer }: { layer: Layer }) {
  const tintOf = useTint();
  const [part, setPart] = useState<HeadPart>('nose');
  const { locked } = headContent(layer);
  const set = (name: string, value: number | boolean | string, gesture?: Gesture): void => {
    if (!isLocked(layer)) changeLayer(layer.id, (l) => void (l.values[name] = value), gesture);
  };
  const partLocked = locked.includes(part);
  const lock = (): void =>
    changeLayer(layer.id, (l) => {
      const content = headContent(layer);
      l.content = { ...content, locked: partLocked ? content.locked.filter((p) => p !== part) : [...content.locked, part] };
    });
  return (
    <>
      <FacingSection layer={layer} />
      <ParamRows params={WHOLE} of={{ place: 'layer', item: layer.id }} values={layer.values} tintOf={tintOf} onChange={set} />
      <Section
        title="Parts"
        aside={
          <IconButton
            aria-label={`${partLocked ? 'Unlock' : 'Lock'} ${PART_LABELS[part]}`}
            title={partLocked ? 'Unlock this part' : 'Lock: fitting and sliders leave this part alone'}
            onClick={lock}
            sx={{ padding: '2px' }}
          >
            {partLocked ? <LockIcon /> : <UnlockIcon />}
          </IconButton>
        }
      >
        <ChoiceRow bare label="Part of the head" value={part} options={headParts.map((p) => ({ value: p, label: SHORT[p] }))} onChange={setPart} />
      </Section>
      <Box sx={partLocked ? { opacity: 0.5, pointerEvents: 'none' } : undefined} inert={partLocked}>
        <ParamRows params={PARTS[part]} of={{ place: 'layer', item: layer.id }} values={layer.values} tintOf={tintOf} onChange={set} />
      </Box>
    </>
  );
}
