import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import type { PathFigures } from '../../../core/path/judged';
import type { Relief } from '../../../core/camera/relief';
import type { CameraSettings, Shot } from '../../../core/document/schema';
import { copyOf } from '../../../core/values/copy';
import { percent } from '../../../core/values/params';
import { NumberRow } from '../../controls/NumberRow';
import { ChoiceRow, Section, ToggleRow } from '../../controls/rows';
import { engine } from '../../../engine/pool/engine';
import { notifyError } from '../../notices/noticeStore';
import { changeSettings, whileOpen } from '../../state/documentStore';
import { goTo } from '../../state/playback';
import { useViewPart } from '../../state/viewStore';
import { BackdropRow } from './BackdropRow';
import { lensOf } from '../../state/shotLens';

const CLEAN = percent({
  label: 'Clean up to',
  min: 0.2,
  max: 4,
  lowest: 0.05,
  highest: 20,
  decimals: 1,
  step: 0.1,
  default: 1.2,
  help: 'So wide a gap is filled without being seen; share of the width',
});

/** How wide the moves tear the picture open, and a way to make them shorter. */
export function StretchSection({ shot, relief, path: { worst } }: { shot: Shot; relief: Relief; path: PathFigures }) {
  const { check, set } = useViewPart('check', 'set');
  const { camera, framing } = shot.settings;
  const clean = (camera.clean / 100) * framing.width;
  const over = worst.px > clean;
  const shorten = async (): Promise<void> => {
    const open = whileOpen();
    const { time } = shot.settings;
    const moves = await engine().shortenMoves({ camera, time }, lensOf(shot), relief, clean);
    if (open()) changeSettings((s) => void (s.camera.moves = moves.map(copyOf)));
  };
  return (
    <Section
      title="Stretch"
      aside={
        <span className="mono">
          worst {worst.px < 1e6 ? worst.px.toFixed(0) : '∞'} px at frame {worst.frame}
        </span>
      }
    >
      <StretchMeter worst={worst.px} clean={clean} />
      <NumberRow param={CLEAN} value={camera.clean} onChange={(v, g) => changeSettings((s) => void (s.camera.clean = v), g)} />
      {worst.px === Infinity && (
        <Box sx={{ color: 'var(--alert)', fontSize: 11.5 }}>A move goes through the nearest thing. Shorten it, or move less forward.</Box>
      )}
      <Box sx={{ display: 'flex', gap: '6px', marginTop: '6px' }}>
        <Button sx={{ flex: 1 }} disabled={!over} onClick={() => void shorten().catch(notifyError)}>
          Shorten to {clean.toFixed(0)} px
        </Button>
        <Button
          aria-pressed={check === 'torn'}
          sx={check === 'torn' ? { borderColor: 'var(--paper)' } : undefined}
          onClick={() => {
            if (check !== 'torn') goTo(worst.frame);
            set({ check: check === 'torn' ? null : 'torn' });
          }}
        >
          Show
        </Button>
      </Box>
    </Section>
  );
}

/** How wide the worst edge tears, beside what stays clean, px. */
function StretchMeter({ worst, clean }: { worst: number; clean: number }) {
  const scale = Math.max(1.4 * clean, worst);
  return (
    <Box
      role="meter"
      aria-label="Stretch"
      aria-valuemin={0}
      aria-valuemax={Math.round(scale)}
      aria-valuenow={Math.round(Math.min(scale, worst))}
      aria-valuetext={`${worst.toFixed(0)} px, clean up to ${clean.toFixed(0)} px`}
      sx={{ position: 'relative', height: 12, marginBottom: '8px' }}
    >
      <Box sx={{ position: 'absolute', top: 4, left: 0, right: 0, height: 4, borderRadius: '2px', background: 'var(--line2)' }} />
      <Box
        style={{ width: `${Math.min(100, (100 * worst) / scale)}%` }}
        sx={{ position: 'absolute', top: 4, left: 0, height: 4, borderRadius: '2px', background: worst > clean ? 'var(--paper)' : 'var(--mute)' }}
      />
      <Box
        style={{ left: `${(100 * clean) / scale}%` }}
        sx={{ position: 'absolute', top: 0, width: '1px', height: 12, background: 'var(--paper)' }}
      />
    </Box>
  );
}

/** What becomes of the border, and of what lies behind edges. */
export function BorderSection({ shot, path }: { shot: Shot; path: PathFigures | null }) {
  const { camera } = shot.settings;
  const overscan = path && camera.border === 'overscan' ? path.overscan : null;
  return (
    <Section title="Border" aside={overscan !== null && <span className="mono">overscan {(100 * overscan).toFixed(1)} %</span>}>
      <ChoiceRow
        bare
        label="Border"
        value={camera.border}
        onChange={(border) => changeSettings((s) => void (s.camera.border = border))}
        options={[
          { value: 'overscan', label: 'Overscan' },
          { value: 'mirrored', label: 'Mirrored' },
          { value: 'smooth', label: 'Filled' },
        ]}
      />
      <Box sx={{ color: 'var(--mute)', fontSize: 11.5, margin: '5px 0' }}>{BORDER_NOTES[camera.border]}</Box>
      <ToggleRow
        label="Hidden parts filled"
        help="What lies behind edges is made up, once for the plate"
        value={camera.hidden}
        onChange={(on) => changeSettings((s) => void (s.camera.hidden = on))}
      />
      <ToggleRow
        label="Firm map edges"
        help="Soft edges of the map are made firm first, so that nothing stretches across them; maps that are firm stay as they are"
        value={camera.firm}
        onChange={(on) => changeSettings((s) => void (s.camera.firm = on))}
      />
      {camera.hidden && <BackdropRow camera={camera} />}
    </Section>
  );
}

const BORDER_NOTES: Readonly<Record<CameraSettings['border'], string>> = {
  overscan: 'Enlarged as much as the whole path needs, so that nothing beyond the plate is seen.',
  mirrored: 'Nothing is cut off; beyond the plate its border is mirrored.',
  smooth: 'Nothing is cut off; beyond the plate its border runs out softly.',
};
