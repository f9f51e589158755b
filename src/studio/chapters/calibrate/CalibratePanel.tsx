import { memo } from 'react';
import DeleteIcon from '@mui/icons-material/DeleteOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import { distanceOf, hueNearness, nearnessOf, rawOf } from '../../../core/depth/calibrate';
import { rulerOf, rulerPlace } from '../../../core/depth/ruler';
import { calibrationOf, storedFar } from '../../../core/document/defaults';
import type { Shot } from '../../../core/document/schema';
import type { PreviewPart } from '../../../engine/protocol';
import { nearnessHex } from '../../../core/raster/colour';
import { formatMetres, level, metres, percent } from '../../../core/values/params';
import { Chart } from '../../controls/Chart';
import { NumberRow } from '../../controls/NumberRow';
import { ChoiceRow, PanelHead, Section, ToggleRow } from '../../controls/rows';
import { useSettled } from '../../controls/useSettled';
import { useTint } from '../../controls/useTint';
import { changeSettings, changeShot, useShot } from '../../state/documentStore';
import { useSession } from '../../state/sessionStore';
import { notify } from '../../controls/noticeStore';
import { useViewPart } from '../../state/viewStore';
import { fitInPlace, rawAtStakes, setStake } from './stakes';

const BLACK = percent({
  label: 'Black from',
  min: 0,
  max: 100,
  decimals: 1,
  step: 0.5,
  default: 0,
  help: 'Grey of the raw map that becomes the far end',
});
const WHITE = percent({
  label: 'White from',
  min: 0,
  max: 100,
  decimals: 1,
  step: 0.5,
  default: 100,
  help: 'Grey of the raw map that becomes the near end',
});
const BEND = {
  ...level({ label: 'Bend', min: 0.1, max: 10, default: 1, help: 'Gamma of the map between its ends: above 1 pushes the middle away' }),
  scale: 'log' as const,
};
const NEAR = metres({ label: 'Near end', min: 0.1, max: 1000, lowest: 0.01, highest: 1e6, default: 1, help: 'Distance that white stands for' });
const FAR = metres({
  label: 'Far end',
  min: 0.2,
  max: 20000,
  lowest: 0.02,
  highest: Infinity,
  default: Infinity,
  help: 'Distance that black stands for; ∞ may be typed',
});
const STAKE = metres({ label: 'Distance', min: 0.1, max: 3000, lowest: 0.01, highest: 1e6, default: 1 });

export function CalibratePanel() {
  const shot = useShot()!;
  const preview = useSession((s) => s.preview);
  const { selectedStake, set: setView } = useViewPart('selectedStake', 'set');
  const tint = useTint();
  const stored = shot.settings.calibration;
  const c = calibrationOf(stored);
  const set = (change: Partial<typeof stored>, key?: string): void =>
    changeSettings((s) => void Object.assign(s.calibration, change), key && `calibration:${key}`);
  const ends = (change: Partial<typeof stored>, key?: string): void => set({ ...change, scaled: true }, key);
  const raws = preview ? rawAtStakes(shot, preview) : [];
  return (
    <>
      <PanelHead title="Calibrate" />
      <Section title="Raw map">
        <NumberRow param={BLACK} value={100 * stored.low} onChange={(v, key) => set({ low: Math.min(v / 100, stored.high - 0.005) }, key)} />
        <NumberRow param={WHITE} value={100 * stored.high} onChange={(v, key) => set({ high: Math.max(v / 100, stored.low + 0.005) }, key)} />
        <NumberRow param={BEND} value={stored.bend} onChange={(v, key) => set({ bend: v }, key)} />
        <ToggleRow label="Turn over" help="Swap near and far" value={stored.turnOver} onChange={(turnOver) => set({ turnOver })} />
      </Section>
      <Section title="Distance" aside={stored.scaled ? undefined : <span className="mono">unscaled</span>}>
        <NumberRow param={NEAR} value={c.near} tint={tint(c.near)} onChange={(v, key) => ends({ near: Math.min(v, c.far * 0.98) }, key)} />
        <NumberRow param={FAR} value={c.far} tint={tint(c.far)} onChange={(v, key) => ends({ far: storedFar(Math.max(v, c.near * 1.02)) }, key)} />
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
      <Section title="Stakes" aside={<span className="mono">{stakeSummary(shot.settings.stakes.length)}</span>}>
        {shot.settings.stakes.length === 0 && (
          <Box sx={{ color: 'var(--mute)', marginBottom: '6px' }}>Click a thing in the picture whose distance you know, then type the distance.</Box>
        )}
        {shot.settings.stakes.map((stake, i) => {
          const raw = raws[i] ?? null;
          const residual = raw === null ? null : distanceOf(nearnessOf(raw, c), c) - stake.distance;
          return (
            <Box
              key={stake.id}
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
                  param={{ ...STAKE, label: `Stake ${i + 1}` }}
                  value={stake.distance}
                  tint={tint(stake.distance)}
                  onChange={(v, key) => setStake(stake.id, v, STAKE, key)}
                />
                <Box className="mono" sx={{ color: 'var(--mute)', textAlign: 'right', fontSize: '10px !important' }}>
                  {residual === null
                    ? 'outside the frame'
                    : Math.abs(residual) < stake.distance * 0.0005
                      ? 'met exactly'
                      : `off by ${residualText(residual)} (${percentText(residual / stake.distance)})`}
                </Box>
              </Box>
              <IconButton
                aria-label={`Delete stake ${i + 1}`}
                onClick={() => changeSettings((s) => void (s.stakes = s.stakes.filter((k) => k.id !== stake.id)))}
              >
                <DeleteIcon />
              </IconButton>
            </Box>
          );
        })}
        <Box sx={{ display: 'flex', gap: '6px', marginTop: '6px' }}>
          <Button sx={{ flex: 1 }} onClick={() => setView({ picking: 'stake' })}>
            Put a stake
          </Button>
          <Button
            sx={{ flex: 1 }}
            disabled={shot.settings.stakes.length === 0}
            onClick={() => {
              let fitted = false;
              changeShot((s) => void (fitted = fitInPlace(s, preview)));
              if (!fitted)
                notify({ kind: 'note', text: 'The stakes do not tell the ends apart.', hint: 'Put one on a nearer and one on a farther thing.' });
            }}
          >
            Fit the ends
          </Button>
        </Box>
      </Section>
      <Section title="Distance by grey" last>
        <SettledGreyChart />
      </Section>
    </>
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
