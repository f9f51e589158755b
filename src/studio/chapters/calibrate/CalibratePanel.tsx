import { memo, type ReactNode } from 'react';
import DeleteIcon from '@mui/icons-material/DeleteOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import { distanceOf, hueNearness, nearnessOf, rawOf } from '../../../core/depth/calibrate';
import { rulerOf, rulerPlace } from '../../../core/depth/ruler';
import { calibrationOf } from '../../../core/document/calibrationOf';
import type { Shot } from '../../../core/document/schema';
import { shotNumbers, type ShotNumberName } from '../../../core/document/shotNumbers';
import type { PreviewPart } from '../../../engine/messages/protocol';
import { nearnessHex } from '../../../core/raster/colour';
import { formatMetres, metres } from '../../../core/values/params';
import { Chart } from '../../controls/Chart';
import { NumberRow } from '../../controls/NumberRow';
import { DrivenRow } from '../../controls/DrivenRow';
import { ChoiceRow, PanelHead, Section, ToggleRow } from '../../controls/rows';
import { useSettled } from '../../controls/useSettled';
import { useTint } from '../../controls/useTint';
import { changeSettings, changeShot, useShot } from '../../state/documentStore';
import { useSession } from '../../state/sessionStore';
import { notify } from '../../notices/noticeStore';
import { useViewPart } from '../../state/viewStore';
import { stakePicking } from './picking';
import { fitInPlace, rawAtStakes, setStake } from './stakes';

const STAKE = metres({ label: 'Distance', min: 0.1, max: 3000, lowest: 0.01, highest: 1e6, default: 1 });

export function CalibratePanel() {
  const shot = useShot()!;
  const tint = useTint();
  const stored = shot.settings.calibration;
  const c = calibrationOf(stored);
  const set = (change: Partial<typeof stored>): void => changeSettings((s) => void Object.assign(s.calibration, change));
  const ends = (change: Partial<typeof stored>): void => set({ ...change, scaled: true });
  /** a row for a number of the calibration; one that is a distance gives the shot its scale */
  const row = (name: ShotNumberName, distance?: number): ReactNode => (
    <DrivenRow
      address={{ place: 'shot', item: '', name }}
      param={shotNumbers[name].param}
      value={shotNumbers[name].get(shot.settings)}
      tint={distance === undefined ? undefined : tint(distance)}
      onChange={(v, gesture) =>
        changeSettings((s) => {
          shotNumbers[name].set(s, v);
          if (distance !== undefined) s.calibration.scaled = true;
        }, gesture)
      }
    />
  );
  return (
    <>
      <PanelHead title="Calibrate" />
      <Section title="Raw map">
        {row('calibration.low')}
        {row('calibration.high')}
        {row('calibration.bend')}
        <ToggleRow label="Turn over" help="Swap near and far" value={stored.turnOver} onChange={(turnOver) => set({ turnOver })} />
      </Section>
      <Section title="Distance" aside={stored.scaled ? undefined : <span className="mono">unscaled</span>}>
        {row('calibration.near', c.near)}
        {row('calibration.far', c.far)}
        <ToggleRow
          label="Far end at infinity"
          value={stored.far === 'infinite'}
          onChange={(on) => ends({ far: on ? 'infinite' : Number((c.near * 100).toPrecision(3)) })}
        />
        <ChoiceRow
          label="Spacing"
          help="How grey steps turn into distance: perspective is linear in 1/distance"
          value={stored.spacing}
          onChange={(spacing) => set({ spacing })}
          options={[
            { value: 'perspective', label: 'Perspective' },
            { value: 'even', label: 'Even' },
            { value: 'log', label: 'Log' },
          ]}
        />
      </Section>
      <StakesSection shot={shot} />
      <Section title="Distance by grey" last>
        <SettledGreyChart />
      </Section>
    </>
  );
}

/** The things in the picture whose distance is known, and what is made of them. */
function StakesSection({ shot }: { shot: Shot }) {
  const preview = useSession((s) => s.preview);
  const { set: setView } = useViewPart('set');
  const { stakes } = shot.settings;
  const raws = preview ? rawAtStakes(shot, preview) : [];
  const fit = (): void => {
    let fitted = false;
    changeShot((s) => void (fitted = fitInPlace(s, preview)));
    if (fitted) return;
    notify({ kind: 'note', text: 'The stakes do not tell the ends apart.', hint: 'Put one on a nearer and one on a farther thing.' });
  };
  return (
    <Section title="Stakes" aside={<span className="mono">{stakeSummary(stakes.length)}</span>}>
      {stakes.length === 0 && (
        <Box sx={{ color: 'var(--mute)', marginBottom: '6px' }}>Click a thing in the picture whose distance you know, then type the distance.</Box>
      )}
      {stakes.map((stake, i) => (
        <StakeRow key={stake.id} shot={shot} stake={stake} number={i + 1} raw={raws[i] ?? null} />
      ))}
      <Box sx={{ display: 'flex', gap: '6px', marginTop: '6px' }}>
        <Button sx={{ flex: 1 }} onClick={() => setView({ picking: stakePicking })}>
          Put a stake
        </Button>
        <Button sx={{ flex: 1 }} disabled={stakes.length === 0} onClick={fit}>
          Fit the ends
        </Button>
      </Box>
    </Section>
  );
}

interface StakeProps {
  readonly shot: Shot;
  readonly stake: Shot['settings']['stakes'][number];
  readonly number: number;
  /** grey of the raw map there; null outside the frame */
  readonly raw: number | null;
}

/** A stake's distance, and how far the calibration is from meeting it. */
function StakeRow({ shot, stake, number, raw }: StakeProps) {
  const { selectedStake, set: setView } = useViewPart('selectedStake', 'set');
  const tint = useTint();
  const c = calibrationOf(shot.settings.calibration);
  const off = raw === null ? null : distanceOf(nearnessOf(raw, c), c) - stake.distance;
  return (
    <Box
      onFocus={() => setView({ selectedStake: stake.id })}
      sx={{
        display: 'grid',
        gridTemplateColumns: '1fr 24px',
        alignItems: 'center',
        margin: '0 -6px',
        padding: '1px 0 1px 6px',
        borderRadius: '3px',
        background: stake.id === selectedStake ? 'var(--raise)' : 'none',
      }}
    >
      <Box>
        <NumberRow
          param={{ ...STAKE, label: `Stake ${number}` }}
          value={stake.distance}
          tint={tint(stake.distance)}
          onChange={(v, gesture) => setStake(stake.id, v, STAKE, gesture)}
        />
        <Box className="mono" sx={{ color: 'var(--mute)', textAlign: 'right', fontSize: '10px !important' }}>
          {off === null
            ? 'outside the frame'
            : Math.abs(off) < stake.distance * 0.0005
              ? 'met exactly'
              : `off by ${residualText(off)} (${percentText(off / stake.distance)})`}
        </Box>
      </Box>
      <IconButton
        aria-label={`Delete stake ${number}`}
        onClick={() => changeSettings((s) => void (s.stakes = s.stakes.filter((k) => k.id !== stake.id)))}
      >
        <DeleteIcon />
      </IconButton>
    </Box>
  );
}

const stakeSummary = (n: number): string => (n === 0 ? '' : n === 1 ? 'sets the scale' : n === 2 ? 'set both ends' : 'set ends and bend');
const residualText = (v: number): string => {
  if (!Number.isFinite(v)) return '∞';
  const size = Math.abs(v);
  return `${v > 0 ? '+' : '−'}${size < 0.1 ? `${(1000 * size).toFixed(0)} mm` : formatMetres(size)}`;
};
const percentText = (v: number): string => (Number.isFinite(v) ? `${v > 0 ? '+' : '−'}${Math.abs(100 * v).toFixed(1)} %` : '∞');

function SettledGreyChart() {
  const shot = useSettled(useShot()!);
  const preview = useSettled(useSession((s) => s.preview));
  return <GreyChart shot={shot} preview={preview} />;
}

/** Grey of the raw map along the axis, distance upwards on the map's own spacing. */
const GreyChart = memo(function GreyChart({ shot, preview }: { shot: Shot; preview: PreviewPart | null }) {
  const c = calibrationOf(shot.settings.calibration);
  const ruler = rulerOf(c, 'log');
  const up = (z: number): number => rulerPlace(ruler, z);
  const points = Array.from({ length: 81 }, (_, i) => {
    const raw = i / 80;
    const n = nearnessOf(raw, c);
    return { x: raw, y: up(distanceOf(n, c)), colour: nearnessHex(hueNearness(distanceOf(n, c), c)) };
  });
  const raws = preview ? rawAtStakes(shot, preview) : [];
  const marks = shot.settings.stakes.flatMap((s, i) => {
    const raw = raws[i];
    return raw === null || raw === undefined ? [] : [{ x: raw, y: up(s.distance), colour: nearnessHex(hueNearness(s.distance, c)) }];
  });
  const middle = Math.sqrt(c.near * ruler.far);
  return (
    <Chart
      label={`Distance by grey: white is ${formatMetres(distanceOf(nearnessOf(rawOf(1, c), c), c))}, black is ${formatMetres(c.far)}`}
      points={points}
      marks={marks}
      yMax={1}
      xTicks={[
        { at: 0, text: '0 %' },
        { at: 0.5, text: '50 %' },
        { at: 1, text: '100 %' },
      ]}
      yTicks={[
        { at: 0, text: formatMetres(c.near) },
        { at: up(middle), text: formatMetres(Number(middle.toPrecision(2))) },
        { at: 1, text: formatMetres(c.far) },
      ]}
      height={128}
    />
  );
});
