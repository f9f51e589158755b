import Box from '@mui/material/Box';
import type { Relief } from '../../../core/camera/relief';
import { COMFORT, parallaxOf } from '../../../core/path/stereo';
import { stereoForms, type StereoForm } from '../../../core/camera/stereoForms';
import type { Shot } from '../../../core/document/schema';
import { formatMetres, formatNumber, metres, millimetres } from '../../../core/values/params';
import { NumberRow } from '../../controls/NumberRow';
import { ChoiceRow, Section, ToggleRow } from '../../controls/rows';
import { useTint } from '../../controls/useTint';
import { changeSettings, type Gesture } from '../../state/documentStore';
import { lensOf } from '../../state/shotLens';

const FORM_LABELS: Readonly<Record<StereoForm, string>> = {
  'red-cyan': 'Red and cyan',
  'half-colour': 'Red and cyan, half the colour',
  grey: 'Red and cyan, grey',
  'side-by-side': 'Side by side',
  'side-by-side-half': 'Side by side, half as wide',
  'over-under': 'One over the other',
};

const EYES = { ...millimetres({ label: 'Between eyes', min: 1, max: 200, lowest: 0, highest: 100000, default: 63 }), scale: 'log' as const };
const SCREEN = metres({
  label: 'In the screen',
  min: 0.3,
  max: 300,
  lowest: 0.01,
  highest: 1e6,
  default: 4,
  help: 'What lies there has no parallax',
});

/** Two eyes: whether, how they are shown, how far apart, what lies in the screen, and what that does to the eyes. */
export function EyesSection({ shot, relief }: { shot: Shot; relief: Relief | null }) {
  const { stereo } = shot.settings.camera;
  const tint = useTint();
  const set = (changed: Partial<typeof stereo>, gesture?: Gesture): void =>
    changeSettings((s) => void Object.assign(s.camera.stereo, changed), gesture);
  const screen = stereo.screen === 'infinite' ? 1e6 : stereo.screen;
  return (
    <Section title="Two eyes" last>
      <ToggleRow label="Two eyes" value={stereo.on} onChange={(on) => set({ on })} />
      {stereo.on && (
        <>
          <ChoiceRow
            label="Shown as"
            value={stereo.shown}
            onChange={(shown) => set({ shown })}
            options={stereoForms.map((f) => ({ value: f, label: FORM_LABELS[f] }))}
          />
          <NumberRow param={EYES} value={stereo.eyes} onChange={(eyes, g) => set({ eyes }, g)} />
          <NumberRow param={SCREEN} value={screen} tint={tint(screen)} onChange={(v, g) => set({ screen: v }, g)} />
          {relief && <Comfort shot={shot} relief={relief} />}
        </>
      )}
    </Section>
  );
}

/** Largest parallax of what is near and of what is far, and things that are cut by the frame although they stand before it. */
function Comfort({ shot, relief }: { shot: Shot; relief: Relief }) {
  const { stereo } = shot.settings.camera;
  const lens = lensOf(shot);
  const [far, near] = [parallaxOf(stereo, lens, relief.ends[0]), parallaxOf(stereo, lens, relief.ends[1])];
  const cut = relief.sides.slice(0, 2).some(([, most]) => parallaxOf(stereo, lens, most) > 0.3);
  const say = (v: number): string => `${v > 0 ? '+' : v < 0 ? '−' : ''}${Math.abs(v).toFixed(1)} %`;
  return (
    <Box data-testid="comfort" sx={{ marginTop: '5px', fontSize: 11.5 }}>
      <Box className="mono" sx={{ display: 'flex', justifyContent: 'space-between' }}>
        <span>near {say(near)}</span>
        <span>far {say(far)}</span>
      </Box>
      {Math.max(Math.abs(near), Math.abs(far)) > COMFORT && (
        <Box sx={{ color: 'var(--alert)' }}>
          More than {COMFORT} % of the width tires the eyes. Bring the eyes closer together
          {Math.abs(near) > Math.abs(far) ? ', or the screen nearer' : ''}.
        </Box>
      )}
      {cut && (
        <Box sx={{ color: 'var(--mute)' }}>
          Something at the left or right border stands before the screen and is cut by it. A nearer screen keeps it whole.
        </Box>
      )}
      <Box sx={{ color: 'var(--mute)' }}>
        {formatMetres(stereo.screen === 'infinite' ? Infinity : stereo.screen)} lies in the screen; {formatNumber(EYES, stereo.eyes)} between the
        eyes.
      </Box>
    </Box>
  );
}
