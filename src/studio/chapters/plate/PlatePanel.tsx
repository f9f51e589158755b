import type { Shot } from '../../../core/document/schema';
import RotateLeftIcon from '@mui/icons-material/RotateLeftOutlined';
import RotateRightIcon from '@mui/icons-material/RotateRightOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { lazy, Suspense } from 'react';
import type { Settings } from '../../../core/document/schema';
import { outputSides, shotNumbers, type ShotNumberName } from '../../../core/document/shotNumbers';
import { focalLengthOfHfov } from '../../../core/optics';
import { framingScale } from '../../../core/document/framing';
import { NumberRow } from '../../controls/NumberRow';
import { DrivenRow } from '../../controls/DrivenRow';
import { ChoiceRow, LabelRow, PanelHead, Section, ToggleRow } from '../../controls/rows';
import { changeSettings, changeShot, useShot, type Gesture } from '../../state/documentStore';
import { ClipRows } from './ClipRows';

const LiveSection = lazy(() => import('../../live/LiveSection').then((m) => ({ default: m.LiveSection })));

/** A row for one of the shot's own numbers. */
function ShotNumberRow({ name, settings }: { name: ShotNumberName; settings: Settings }) {
  const { param, get } = shotNumbers[name];
  return (
    <DrivenRow
      address={{ place: 'shot', item: '', name }}
      param={param}
      value={get(settings)}
      onChange={(v, gesture) => changeSettings((s) => shotNumbers[name].set(s, v), gesture)}
    />
  );
}

const SIZES: readonly { readonly label: string; readonly width: number; readonly height: number }[] = [
  { label: '1920×1080', width: 1920, height: 1080 },
  { label: '3840×2160', width: 3840, height: 2160 },
  { label: '1080×1350', width: 1080, height: 1350 },
  { label: '1080×1920', width: 1080, height: 1920 },
];

type Framing = Shot['settings']['framing'];
const setFraming = (change: Partial<Framing>, gesture?: Gesture): void => changeSettings((s) => void Object.assign(s.framing, change), gesture);

export function PlatePanel() {
  const shot = useShot()!;
  const { plate, settings } = shot;
  return (
    <>
      <PanelHead title="Plate" />
      {plate.live ? (
        <Suspense fallback={null}>
          <LiveSection live={plate.live} />
        </Suspense>
      ) : (
        <FileSection shot={shot} />
      )}
      <OutputSection shot={shot} />
      <FramingSection settings={settings} />
      <Section title="Lens that took it" last>
        <ShotNumberRow name="lens.focalLength" settings={settings} />
        <ShotNumberRow name="lens.hfov" settings={settings} />
        {plate.hfovFromFile !== null && Math.abs(plate.hfovFromFile - settings.hfovDegrees) > 0.01 && (
          <Button fullWidth sx={{ marginTop: '6px' }} onClick={() => changeSettings((s) => void (s.hfovDegrees = plate.hfovFromFile!))}>
            Use the file’s lens
          </Button>
        )}
      </Section>
    </>
  );
}

/** What the plate's file is. */
function FileSection({ shot }: { shot: Shot }) {
  const { plate } = shot;
  const lens =
    plate.hfovFromFile === null
      ? 'not in the file'
      : `${focalLengthOfHfov(plate.hfovFromFile).toFixed(0)} mm, ${plate.hfovFromFile.toFixed(1)}°, from the file`;
  return (
    <Section title="File">
      <Fact label="Name" value={plate.name} />
      <Fact label="Size" value={`${plate.width}×${plate.height} px`} mono />
      <Fact label="Depth of colour" value={`${plate.bits} bit`} mono />
      <Fact label="Lens" value={lens} />
      {plate.clip && <Fact label="Clip" value={`${plate.clip.frames} frames, ${plate.clip.fps} fps${plate.clip.sound ? ', sound' : ''}`} mono />}
      {plate.clip && <ClipRows shot={shot} />}
      {plate.opaque !== undefined && (
        <ToggleRow
          label="Leave out alpha"
          help="The alpha channel holds something else than transparency"
          value={plate.opaque}
          onChange={(on) => changeShot((s) => void (s.plate.opaque = on))}
        />
      )}
    </Section>
  );
}

/** The size of the output. */
function OutputSection({ shot: { plate, settings } }: { shot: Shot }) {
  const f = settings.framing;
  const whole = f.turns % 2 ? { width: plate.height, height: plate.width } : { width: plate.width, height: plate.height };
  return (
    <Section title="Output" aside={<span className="mono">plate at {Math.round(100 * framingScale(plate, f))} %</span>}>
      <NumberRow
        param={{ ...outputSides.width, default: whole.width }}
        value={f.width}
        onChange={(v, gesture) => setFraming({ width: v }, gesture)}
      />
      <NumberRow
        param={{ ...outputSides.height, default: whole.height }}
        value={f.height}
        onChange={(v, gesture) => setFraming({ height: v }, gesture)}
      />
      <Box sx={{ display: 'flex', gap: '5px', flexWrap: 'wrap', margin: '6px 0 2px' }}>
        <Button sx={{ height: 24, padding: '0 8px' }} onClick={() => setFraming({ ...whole, scale: 1, x: 0, y: 0 })}>
          As the plate
        </Button>
        {SIZES.map(({ label, width, height }) => (
          <Button key={label} className="mono" sx={{ height: 24, padding: '0 7px', fontSize: 11 }} onClick={() => setFraming({ width, height })}>
            {label}
          </Button>
        ))}
      </Box>
    </Section>
  );
}

/** How the plate lies in the output. */
function FramingSection({ settings }: { settings: Shot['settings'] }) {
  const f = settings.framing;
  // a quarter turn swaps the sides of the output too, so that nothing is cut off
  const turn = (by: number): void => setFraming({ turns: (f.turns + by + 4) % 4, width: f.height, height: f.width });
  return (
    <Section title="Framing">
      <ChoiceRow
        label="Plate"
        value={f.mode}
        onChange={(mode) => setFraming({ mode })}
        options={[
          { value: 'fill', label: 'Fills' },
          { value: 'fit', label: 'Fits' },
        ]}
      />
      <ShotNumberRow name="framing.scale" settings={settings} />
      <ShotNumberRow name="framing.x" settings={settings} />
      <ShotNumberRow name="framing.y" settings={settings} />
      <LabelRow label="Quarter turn">
        <Box sx={{ display: 'flex', gap: '6px', justifyContent: 'flex-end', alignItems: 'center' }}>
          <span className="mono">{90 * f.turns}°</span>
          <Button aria-label="Turn left by 90°" title="Turn left by 90°" onClick={() => turn(-1)} sx={{ height: 24, padding: '0 6px' }}>
            <RotateLeftIcon sx={{ fontSize: 16 }} />
          </Button>
          <Button aria-label="Turn right by 90°" title="Turn right by 90°" onClick={() => turn(1)} sx={{ height: 24, padding: '0 6px' }}>
            <RotateRightIcon sx={{ fontSize: 16 }} />
          </Button>
        </Box>
      </LabelRow>
      <Button fullWidth sx={{ marginTop: '6px' }} onClick={() => setFraming({ scale: 1, x: 0, y: 0 })}>
        Centre
      </Button>
    </Section>
  );
}

function Fact({ label, value, mono }: { label: string; value: string; mono?: boolean }) {
  return (
    <Box sx={{ display: 'flex', justifyContent: 'space-between', gap: '12px', minHeight: 22 }}>
      <Box component="span" sx={{ color: 'var(--mute)', whiteSpace: 'nowrap' }}>
        {label}
      </Box>
      <Box
        component="span"
        className={mono ? 'mono' : undefined}
        title={value}
        sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}
      >
        {value}
      </Box>
    </Box>
  );
}
