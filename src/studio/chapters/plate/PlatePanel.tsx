import RotateLeftIcon from '@mui/icons-material/RotateLeftOutlined';
import RotateRightIcon from '@mui/icons-material/RotateRightOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { focalLengthOfHfov, hfovOfFocalLength } from '../../../core/optics';
import { OUTPUT_LIMIT } from '../../../core/document/limits';
import { framingScale } from '../../../core/shot/framing';
import { count, degrees, millimetres, percent, type NumberParam } from '../../../core/values/params';
import { NumberRow } from '../../controls/NumberRow';
import { ChoiceRow, LabelRow, PanelHead, Section, ToggleRow } from '../../controls/rows';
import { changeSettings, changeShot, useShot } from '../../state/documentStore';

const pixelCount = (label: string, usual: number): NumberParam => ({
  ...count({ label, min: 16, max: 4000, highest: OUTPUT_LIMIT, default: usual }),
  unit: 'px',
  scale: 'log',
});
const SCALE = percent({
  label: 'Scale',
  min: 10,
  max: 400,
  lowest: 5,
  highest: 2000,
  decimals: 1,
  step: 1,
  default: 100,
  help: 'On top of fit or fill',
});
const MOVE_X = percent({
  label: 'Right by',
  min: -100,
  max: 100,
  lowest: -500,
  highest: 500,
  decimals: 1,
  default: 0,
  help: 'Share of the output’s width',
});
const MOVE_Y = percent({
  label: 'Down by',
  min: -100,
  max: 100,
  lowest: -500,
  highest: 500,
  decimals: 1,
  default: 0,
  help: 'Share of the output’s height',
});
const FOCAL = {
  ...millimetres({
    label: 'Focal length',
    min: 10,
    max: 400,
    lowest: 2,
    highest: 2000,
    decimals: 1,
    default: 35,
    help: '35 mm-equivalent: as if the plate were 36 mm wide',
  }),
  scale: 'log' as const,
};
const FIELD = degrees({ label: 'Field of view', min: 5, max: 130, lowest: 1, highest: 170, default: 54.4, help: 'Horizontal, of the whole plate' });

const SIZES: readonly { readonly label: string; readonly width: number; readonly height: number }[] = [
  { label: '1920×1080', width: 1920, height: 1080 },
  { label: '3840×2160', width: 3840, height: 2160 },
  { label: '1080×1350', width: 1080, height: 1350 },
  { label: '1080×1920', width: 1080, height: 1920 },
];

export function PlatePanel() {
  const shot = useShot()!;
  const { plate, settings } = shot;
  const f = settings.framing;
  const set = (change: Partial<typeof f>, key?: string): void =>
    changeSettings((s) => void Object.assign(s.framing, change), key && `framing:${key}`);
  const turn = (by: number): void => {
    const turns = (f.turns + by + 4) % 4;
    // a quarter turn swaps the sides of the output too, so that nothing is cut off
    set({ turns, width: f.height, height: f.width });
  };
  const whole = f.turns % 2 ? { width: plate.height, height: plate.width } : { width: plate.width, height: plate.height };
  const percentOfPlate = Math.round(100 * framingScale(plate, f));
  return (
    <>
      <PanelHead title="Plate" />
      <Section title="File">
        <Fact label="Name" value={plate.name} />
        <Fact label="Size" value={`${plate.width}×${plate.height} px`} mono />
        <Fact label="Depth of colour" value={`${plate.bits} bit`} mono />
        <Fact
          label="Lens"
          value={
            plate.hfovFromFile === null
              ? 'not in the file'
              : `${focalLengthOfHfov(plate.hfovFromFile).toFixed(0)} mm, ${plate.hfovFromFile.toFixed(1)}°, from the file`
          }
        />
        {plate.opaque !== undefined && (
          <ToggleRow
            label="Leave out alpha"
            help="The alpha channel holds something else than transparency"
            value={plate.opaque}
            onChange={(on) => changeShot((s) => void (s.plate.opaque = on))}
          />
        )}
      </Section>
      <Section title="Output" aside={<span className="mono">plate at {percentOfPlate} %</span>}>
        <NumberRow param={pixelCount('Width', whole.width)} value={f.width} onChange={(v, key) => set({ width: v }, key)} />
        <NumberRow param={pixelCount('Height', whole.height)} value={f.height} onChange={(v, key) => set({ height: v }, key)} />
        <Box sx={{ display: 'flex', gap: '5px', flexWrap: 'wrap', margin: '6px 0 2px' }}>
          <Button sx={{ height: 24, padding: '0 8px' }} onClick={() => set({ ...whole, scale: 1, x: 0, y: 0 })}>
            As the plate
          </Button>
          {SIZES.map((s) => (
            <Button
              key={s.label}
              className="mono"
              sx={{ height: 24, padding: '0 7px', fontSize: 11 }}
              onClick={() => set({ width: s.width, height: s.height })}
            >
              {s.label}
            </Button>
          ))}
        </Box>
      </Section>
      <Section title="Framing">
        <ChoiceRow
          label="Plate"
          value={f.mode}
          onChange={(mode) => set({ mode })}
          options={[
            { value: 'fill', label: 'Fills' },
            { value: 'fit', label: 'Fits' },
          ]}
        />
        <NumberRow param={SCALE} value={100 * f.scale} onChange={(v, key) => set({ scale: v / 100 }, key)} />
        <NumberRow param={MOVE_X} value={100 * f.x} onChange={(v, key) => set({ x: v / 100 }, key)} />
        <NumberRow param={MOVE_Y} value={100 * f.y} onChange={(v, key) => set({ y: v / 100 }, key)} />
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
        <Button fullWidth sx={{ marginTop: '6px' }} onClick={() => set({ scale: 1, x: 0, y: 0 })}>
          Centre
        </Button>
      </Section>
      <Section title="Lens that took it" last>
        <NumberRow
          param={FOCAL}
          value={focalLengthOfHfov(settings.hfovDegrees)}
          onChange={(v, key) => changeSettings((s) => void (s.hfovDegrees = hfovOfFocalLength(v)), `focal:${key}`)}
        />
        <NumberRow
          param={FIELD}
          value={settings.hfovDegrees}
          onChange={(v, key) => changeSettings((s) => void (s.hfovDegrees = v), `field:${key}`)}
        />
        {plate.hfovFromFile !== null && Math.abs(plate.hfovFromFile - settings.hfovDegrees) > 0.01 && (
          <Button fullWidth sx={{ marginTop: '6px' }} onClick={() => changeSettings((s) => void (s.hfovDegrees = plate.hfovFromFile!))}>
            Use the file’s lens
          </Button>
        )}
      </Section>
    </>
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
