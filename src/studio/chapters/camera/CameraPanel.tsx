import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { moveValues } from '../../../core/camera/definition';
import { shortened } from '../../../core/camera/fit';
import { hasCamera } from '../../../core/camera/path';
import { knowsMove, moveOf } from '../../../core/camera/registry';
import type { Relief } from '../../../core/camera/relief';
import { COMFORT, parallaxOf } from '../../../core/camera/stereo';
import { stereoForms, type StereoForm } from '../../../core/camera/stereoForms';
import { newId } from '../../../core/document/defaults';
import type { CameraSettings, MoveItem, Shot } from '../../../core/document/schema';
import { formatMetres, formatNumber, metres, millimetres, percent } from '../../../core/values/params';
import { NumberRow } from '../../controls/NumberRow';
import { ParamRows } from '../../controls/ParamRows';
import { ChoiceRow, PanelHead, Section, ToggleRow } from '../../controls/rows';
import { StackList } from '../../controls/StackList';
import { UnknownNote } from '../../controls/UnknownNote';
import { useTint } from '../../controls/useTint';
import { changeSettings, useShot, type Gesture } from '../../state/documentStore';
import { goTo } from '../../state/playback';
import { isFull } from '../../state/room';
import { useSession } from '../../state/sessionStore';
import { useViewPart } from '../../state/viewStore';
import { AddMove } from './AddMove';
import { BackdropRow } from './BackdropRow';
import { lensOf, overscanOf, worstOf } from './judge';
import { PathView } from './PathView';

const change = (id: string, recipe: (m: MoveItem) => void, gesture?: Gesture): void =>
  changeSettings((s) => {
    const found = s.camera.moves.find((m) => m.id === id);
    if (found) recipe(found);
  }, gesture);

/** Moves of the camera, what they tear open, what becomes of the border, and two eyes. */
export function CameraPanel() {
  const shot = useShot()!;
  const { selectedMove, set } = useViewPart('selectedMove', 'set');
  const relief = useSession((s) => s.relief);
  const tintOf = useTint();
  const { moves } = shot.settings.camera;
  const item = moves.find((m) => m.id === selectedMove);
  return (
    <>
      <PanelHead title="Camera">
        <AddMove />
      </PanelHead>
      {moves.length === 0 && <Box sx={{ padding: '14px', color: 'var(--mute)' }}>The camera stands still. Add a move, and the picture plays.</Box>}
      <StackList
        label="Moves, all at once"
        items={moves.map((m) => {
          const definition = moveOf(m.kind);
          return {
            id: m.id,
            name: definition.label,
            on: m.on,
            summary: definition.summary(moveValues(definition, m.values)),
            unknown: !knowsMove(m.kind),
          };
        })}
        selected={selectedMove}
        onSelect={(id) => set({ selectedMove: id })}
        onSwitch={(id, on) => change(id, (m) => void (m.on = on))}
        onDelete={(id) => changeSettings((s) => void (s.camera.moves = s.camera.moves.filter((m) => m.id !== id)))}
        onDuplicate={(id) => {
          if (isFull('moves')) return;
          const copy = { ...structuredClone(moves.find((m) => m.id === id)!), id: newId() };
          changeSettings((s) => void s.camera.moves.splice(s.camera.moves.findIndex((m) => m.id === id) + 1, 0, copy));
          set({ selectedMove: copy.id });
        }}
        onMove={(id, to) =>
          changeSettings((s) => {
            const from = s.camera.moves.findIndex((m) => m.id === id);
            s.camera.moves.splice(to, 0, ...s.camera.moves.splice(from, 1));
          })
        }
      />
      {item && !knowsMove(item.kind) && <UnknownNote kind={item.kind} out="picture" />}
      {item && knowsMove(item.kind) && (
        <>
          <PathView shot={shot} item={item} />
          <ParamRows
            params={moveOf(item.kind).params}
            of={{ place: 'move', item: item.id }}
            values={item.values}
            tintOf={tintOf}
            onChange={(name, value, gesture) => change(item.id, (m) => void (m.values[name] = value), gesture)}
          />
        </>
      )}
      {moves.length > 0 && relief && <StretchSection shot={shot} relief={relief} />}
      {hasCamera(shot.settings) && <BorderSection shot={shot} relief={relief} />}
      <Judge />
      <EyesSection shot={shot} relief={relief} />
    </>
  );
}

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
function StretchSection({ shot, relief }: { shot: Shot; relief: Relief }) {
  const { check, set } = useViewPart('check', 'set');
  const worst = worstOf(shot, relief);
  const { camera, framing } = shot.settings;
  const clean = (camera.clean / 100) * framing.width;
  const over = worst.px > clean;
  const scale = Math.max(1.4 * clean, worst.px);
  const shorten = (): void =>
    changeSettings((s) => {
      s.camera.moves = shortened(shot.settings, lensOf(shot), relief, clean).map((m) => structuredClone(m));
    });
  return (
    <Section
      title="Stretch"
      aside={
        <span className="mono">
          worst {worst.px < 1e6 ? worst.px.toFixed(0) : '∞'} px at frame {worst.frame}
        </span>
      }
    >
      <Box
        role="meter"
        aria-label="Stretch"
        aria-valuemin={0}
        aria-valuemax={Math.round(scale)}
        aria-valuenow={Math.round(Math.min(scale, worst.px))}
        aria-valuetext={`${worst.px.toFixed(0)} px, clean up to ${clean.toFixed(0)} px`}
        sx={{ position: 'relative', height: 12, marginBottom: '8px' }}
      >
        <Box sx={{ position: 'absolute', top: 4, left: 0, right: 0, height: 4, borderRadius: '2px', background: 'var(--line2)' }} />
        <Box
          style={{ width: `${Math.min(100, (100 * worst.px) / scale)}%` }}
          sx={{ position: 'absolute', top: 4, left: 0, height: 4, borderRadius: '2px', background: over ? 'var(--paper)' : 'var(--mute)' }}
        />
        <Box
          style={{ left: `${(100 * clean) / scale}%` }}
          sx={{ position: 'absolute', top: 0, width: '1px', height: 12, background: 'var(--paper)' }}
        />
      </Box>
      <NumberRow param={CLEAN} value={camera.clean} onChange={(v, g) => changeSettings((s) => void (s.camera.clean = v), g)} />
      {worst.px === Infinity && (
        <Box sx={{ color: 'var(--alert)', fontSize: 11.5 }}>A move goes through the nearest thing. Shorten it, or move less forward.</Box>
      )}
      <Box sx={{ display: 'flex', gap: '6px', marginTop: '6px' }}>
        <Button sx={{ flex: 1 }} disabled={!over} onClick={shorten}>
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

function BorderSection({ shot, relief }: { shot: Shot; relief: Relief | null }) {
  const { camera } = shot.settings;
  const overscan = relief && camera.border === 'overscan' ? overscanOf(shot, relief) : null;
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
      {camera.hidden && <BackdropRow camera={camera} />}
    </Section>
  );
}

const BORDER_NOTES: Readonly<Record<CameraSettings['border'], string>> = {
  overscan: 'Enlarged as much as the whole path needs, so that nothing beyond the plate is seen.',
  mirrored: 'Nothing is cut off; beyond the plate its border is mirrored.',
  smooth: 'Nothing is cut off; beyond the plate its border runs out softly.',
};

/** Ways to judge the map by eye. */
function Judge() {
  const { wobble, follow, set } = useViewPart('wobble', 'follow', 'set');
  return (
    <Section title="To judge the map">
      <Box sx={{ display: 'flex', gap: '6px' }}>
        <Button
          fullWidth
          aria-pressed={wobble}
          title="Hold v"
          sx={wobble ? { borderColor: 'var(--paper)' } : undefined}
          onClick={() => set({ wobble: !wobble, follow: false })}
        >
          Wobble
        </Button>
        <Button
          fullWidth
          aria-pressed={follow}
          sx={follow ? { borderColor: 'var(--paper)' } : undefined}
          onClick={() => set({ follow: !follow, wobble: false })}
        >
          Follow the pointer
        </Button>
      </Box>
    </Section>
  );
}

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

function EyesSection({ shot, relief }: { shot: Shot; relief: Relief | null }) {
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
